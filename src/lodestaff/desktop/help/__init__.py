"""Help in the window: the guide, the words, what changed, and an entry for each check and step."""
