"""Simulated outside systems: real servers on loopback, with state of their own, that can misbehave."""
