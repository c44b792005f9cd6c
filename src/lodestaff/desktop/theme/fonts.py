"""The shipped fonts by role, and the person's text scale."""

from importlib import resources

from PySide6.QtCore import QByteArray
from PySide6.QtGui import QFont, QFontDatabase

SIZES = {"text": 13, "label": 11, "strong": 13, "small": 10, "reading": 22, "title": 18, "mono": 12}
BOLD = {"strong", "reading", "title"}
FILES = ("B612-Regular.ttf", "B612-Bold.ttf", "B612Mono-Regular.ttf")

_scale = 1.0


def load_fonts() -> None:
    """Give Qt the shipped fonts; nothing rests on the fonts of the system."""
    for file in FILES:
        raw = (resources.files("lodestaff") / "assets" / "fonts" / file).read_bytes()
        if QFontDatabase.addApplicationFontFromData(QByteArray(raw)) < 0:
            raise RuntimeError(f"the shipped font {file} cannot be loaded")


def set_text_scale(scale: float) -> None:
    """Text size as a multiple, 0.8 to 2."""
    global _scale
    _scale = min(2.0, max(0.8, round(scale, 1)))


def text_scale() -> float:
    return _scale


def font(role: str = "text") -> QFont:
    """A font by role, at the person's scale."""
    made = QFont("B612 Mono" if role == "mono" else "B612")
    made.setPixelSize(round(SIZES[role] * _scale))
    made.setBold(role in BOLD)
    return made
