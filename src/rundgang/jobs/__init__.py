"""Long work on a PostgreSQL queue: searches for plans, in one worker or in as many as one requests."""
