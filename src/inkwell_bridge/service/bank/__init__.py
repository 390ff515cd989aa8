"""The bank: its statements, and which of their lines are which payouts."""
