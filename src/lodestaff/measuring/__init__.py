"""Taking the procedure's readings: over the link, and at the simulated site."""
