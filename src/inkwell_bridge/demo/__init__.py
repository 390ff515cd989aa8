"""The demo: one invented client, its facts, its October, and what must come of it."""
