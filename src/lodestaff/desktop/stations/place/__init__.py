"""The Place station: walls to scale with what stands on them."""
