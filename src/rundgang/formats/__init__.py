"""Open formats in and out: JSON scenarios and plans, orders as CSV, and the plant's clock."""
