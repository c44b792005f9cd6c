"""A new job: what stands there, what is wanted, and what comes of it before it is begun."""
