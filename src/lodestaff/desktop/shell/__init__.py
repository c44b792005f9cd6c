"""The frame around every station: staff, moment, reckoning, notices, finder."""
