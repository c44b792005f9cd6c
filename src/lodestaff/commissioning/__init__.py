"""Proving what was built: the settings sheet, expected readings for the measured conditions, the
procedure."""
