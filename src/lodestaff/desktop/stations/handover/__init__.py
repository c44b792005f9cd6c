"""The Handover station: the pack as pages, and what is missing on them."""
