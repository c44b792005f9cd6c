"""The window's language: its own words by Qt's translation, the core's by the key of what says them."""

from PySide6.QtCore import QCoreApplication, QTranslator

from lodestaff.words import Catalogue, languages, load_catalogue
from lodestaff.words.catalogue import WINDOW

ENGLISH = "en"
READING, STEP = "reading", "step"
LANGUAGES = (ENGLISH, "de")  # what can be chosen

_chosen: Catalogue = Catalogue(ENGLISH, ())


class Words(QTranslator):
    """Qt asks this for every word of the window."""

    def isEmpty(self) -> bool:
        return not _chosen.templates

    def translate(self, context: str, sourceText: str, *_: object) -> str | None:  # noqa: N803 - Qt's own name
        return _chosen.exact(WINDOW, sourceText) or None


_words: Words | None = None


def choose_language(name: str) -> None:
    """Speak a language from now on; what already stands there is said anew by who shows it."""
    global _chosen, _words
    _chosen = load_catalogue(name) if name in languages() else Catalogue(ENGLISH, ())
    if _words is None and QCoreApplication.instance() is not None:
        _words = Words()
        QCoreApplication.installTranslator(_words)


def present_language() -> str:
    return _chosen.name


def tr(text: str, **values: object) -> str:
    """A word of the window, with values in its places."""
    said = QCoreApplication.translate(WINDOW, text)
    return said.format(**values) if values else said


def said(text: str, *keys: str) -> str:
    """What the core says under its keys (a rule's, a reading's, a step's)."""
    return _chosen.text(text, *keys) if _chosen.templates else text
