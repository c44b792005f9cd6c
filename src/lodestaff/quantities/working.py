"""A figure with its working: made by the code that computes the number, not written beside it."""

from dataclasses import dataclass
from enum import StrEnum


class Provenance(StrEnum):
    """Where a rule, formula or table value comes from."""

    PUBLISHED = "published"
    DERIVED = "derived"
    COMMON_PRACTICE = "common practice"
    FROM_MEMORY = "from memory"
    SHEET = "equipment sheet"
    JOB = "this job"


@dataclass(frozen=True)
class Source:
    """What a limit or formula rests on."""

    text: str
    provenance: Provenance

    def __str__(self) -> str:
        return f"{self.text} ({self.provenance})"


@dataclass(frozen=True)
class Input:
    """One input of a figure; `known` says how it is known, in words."""

    name: str
    value: float | str
    unit: str = ""
    known: str = ""


@dataclass(frozen=True)
class Figure:
    """A computed value that can be doubted."""

    name: str
    value: float
    unit: str
    formula: str
    inputs: tuple[Input, ...]
    source: Source
    note: str = ""
