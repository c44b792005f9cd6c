"""The roof as a shape in space: its faces, what stands on and around them, and what fits on them."""
