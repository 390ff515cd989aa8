"""The command line: each command parses, makes one call of the client, and formats."""
