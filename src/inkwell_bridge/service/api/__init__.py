"""What all rooms' interfaces share: problems, pages, access."""
