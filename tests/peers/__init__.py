"""Two real systems at the ends: Vendure sells, Tryton keeps the books."""
