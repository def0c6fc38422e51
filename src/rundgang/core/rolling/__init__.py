"""Rolling: the window goes on, and nothing is lost or doubled: what has begun, what was made, what there is."""
