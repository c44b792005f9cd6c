"""Arrangements of the roof's modules, and the families that could stand on it, side by side."""
