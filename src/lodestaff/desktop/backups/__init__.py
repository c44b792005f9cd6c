"""Ways of backup side by side."""
