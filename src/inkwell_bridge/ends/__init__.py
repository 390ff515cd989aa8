"""Outside systems, a folder per dialect; ``contract`` says what an end must offer."""
