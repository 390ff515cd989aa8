"""Accounts of money between the buyer and the bank, proved against the books item by item."""
