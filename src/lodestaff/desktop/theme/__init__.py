"""Colours by role, fonts, hatches and icons; the looks share every name."""

from lodestaff.desktop.theme.fonts import font, load_fonts, set_text_scale, text_scale
from lodestaff.desktop.theme.tokens import LOOKS, Look, current, look_of, set_look

__all__ = [
    "LOOKS",
    "Look",
    "current",
    "font",
    "load_fonts",
    "look_of",
    "set_look",
    "set_text_scale",
    "text_scale",
]
