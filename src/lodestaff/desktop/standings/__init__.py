"""Ways to stand it all, side by side."""
