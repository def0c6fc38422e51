"""The plan: runs as ribbons down a line, the headways between them, their order, and an independent check."""
