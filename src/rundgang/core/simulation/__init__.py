"""The plan under chance: thousands of days of it at once, by the same rules that it was made by."""
