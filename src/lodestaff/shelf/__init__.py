"""The person's own equipment and prices, outside the jobs; a job carries the sheets it was designed with."""

from lodestaff.shelf.model import Entry, Shelf, load_shelf, save_shelf, shelf_path, starter

__all__ = ["Entry", "Shelf", "load_shelf", "save_shelf", "shelf_path", "starter"]
