"""The Commission station: one step at a time, beside what is proven."""
