"""Past documents of a period under other rules: what would change, and what the rules cover."""
