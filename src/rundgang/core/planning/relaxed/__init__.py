"""A line's relaxation: less than any plan of it must keep, and what no plan of it costs less than."""
