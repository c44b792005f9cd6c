"""The Limits station: the day from noon to noon, and its table."""
