"""The Wire station: the live diagram and its table."""
