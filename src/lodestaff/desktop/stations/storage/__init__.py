"""The Storage station: the map of outcomes."""
