"""A fact carries how it is known; a check that rests on an assumed or missing fact stays open."""

from enum import StrEnum
from typing import Generic, TypeVar

from lodestaff.catalogue.frozen import Frozen

T = TypeVar("T")


class Known(StrEnum):
    """How a fact is known."""

    READ = "read on site"
    INSTRUMENT = "measured"
    SHEET = "data sheet"
    PHOTO = "photo"
    TOLD = "told"
    ASSUMED = "assumed"
    DEFAULT = "program default"


FIRM = frozenset({Known.READ, Known.INSTRUMENT, Known.SHEET, Known.PHOTO, Known.TOLD})


class Fact(Frozen, Generic[T]):
    """A value (None while unknown), how it is known, and when and by whom it was learnt."""

    value: T | None = None
    known: Known = Known.ASSUMED
    note: str = ""
    date: str = ""

    @property
    def firm(self) -> bool:
        """Whether a check may pass on this fact."""
        return self.value is not None and self.known in FIRM

    def words(self) -> str:
        return "unknown" if self.value is None else str(self.known)
