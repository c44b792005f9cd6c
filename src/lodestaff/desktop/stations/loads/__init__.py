"""The Loads station: rails and table."""
