"""The floor: what happens while a plan runs, and what to do about it."""
