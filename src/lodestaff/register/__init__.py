"""The firm, its people and its instruments: kept outside the jobs."""
