"""Two copies of a job put together."""
