"""Electrical arithmetic of the split: running and starting loads against ratings."""
