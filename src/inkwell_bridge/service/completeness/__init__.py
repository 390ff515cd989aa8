"""Whether everything that a sales side has was read: what it lists and counts of some days, beside what is here."""
