"""Lodestaff carries one solar and storage job from the first visit to the handover."""

__version__ = "0.1.0"
