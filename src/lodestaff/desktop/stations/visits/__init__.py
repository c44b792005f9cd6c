"""The Visits station."""
