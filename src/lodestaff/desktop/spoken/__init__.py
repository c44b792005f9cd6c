"""What drawings say to a screen reader: each thing in them is a child with name, value, state and action."""

from lodestaff.desktop.spoken.item import Spoken
from lodestaff.desktop.spoken.reader import announce, install, told

__all__ = ["Spoken", "announce", "install", "told"]
