"""Interval data of the supply's meter: how a file is read, and what its circuits explain."""
