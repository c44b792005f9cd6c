"""Files for others, made without Qt: the page as PDF."""
