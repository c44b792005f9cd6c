"""A finding: a value against a limit, with margin, working, source and what to change."""

import math
from collections.abc import Iterator
from dataclasses import dataclass
from enum import StrEnum
from typing import Any

from lodestaff.job import Change, Fact
from lodestaff.quantities import Figure, Source


class Verdict(StrEnum):
    """How bad it is. An open finding keeps the verdict it would have."""

    BLOCKS = "blocks"
    WARNS = "warns"
    NOTES = "notes"
    PASSED = "passed"


ORDER = (Verdict.BLOCKS, Verdict.WARNS, Verdict.NOTES, Verdict.PASSED)


@dataclass(frozen=True)
class Remedy:
    """Changes that cure a finding, applied as one named, undoable step."""

    name: str
    changes: tuple[Change, ...]

    @property
    def key(self) -> tuple[str, ...]:
        """What names it among the remedies of its finding: what it changes."""
        return tuple(f"{change.path}={change.value}" for change in self.changes)


def cure(words: str, path: str, value: Any) -> tuple[Remedy, ...]:
    """The remedy that changes one value."""
    return (Remedy(words, (Change(path, value),)),)


Key = tuple[str, str, tuple[str, ...], str, str]


@dataclass(frozen=True)
class Finding:
    """One answer of one check. `margin` is positive where the limit is kept.

    `code` and `rule` name the check, `owner` the unit, leg or bank whose record it was made of: all three are
    put on where the check is run. `quantity` tells the answers of one check on one record apart. No two
    findings of a job share a `key`.
    """

    verdict: Verdict
    text: str
    figure: Figure | None = None
    limit: float | None = None
    margin: float | None = None
    limit_source: Source | None = None
    open_because: tuple[str, ...] = ()
    remedies: tuple[Remedy, ...] = ()
    advice: str = ""
    subjects: tuple[str, ...] = ()
    state: str = ""
    quantity: str = ""
    code: str = ""
    rule: str = ""
    owner: str = ""

    @property
    def key(self) -> Key:
        """What names this answer in a job, whatever its words are."""
        return self.rule, self.owner, self.subjects, self.state, self.quantity

    @property
    def value(self) -> float:
        """The value that was held to the limit; not a number where the finding has no figure."""
        return math.nan if self.figure is None else self.figure.value

    @property
    def unit(self) -> str:
        return "" if self.figure is None else self.figure.unit

    @property
    def open(self) -> bool:
        """An assumed or missing fact: never passed, whatever the value says."""
        return bool(self.open_because)

    @property
    def blocks(self) -> bool:
        return self.verdict is Verdict.BLOCKS

    @property
    def status(self) -> str:
        """The word people see: a failure keeps its severity; a pass on soft facts is open."""
        return "open" if self.open and self.verdict in (Verdict.PASSED, Verdict.NOTES) else str(self.verdict)


Findings = Iterator[Finding]


def soft(**facts: Fact) -> tuple[str, ...]:  # type: ignore[type-arg]
    """Words for those facts that are missing or only assumed; names have underscores for spaces."""
    return tuple(
        f"{name.replace('_', ' ')} is {'unknown' if fact.value is None else fact.known}"
        for name, fact in facts.items()
        if not fact.firm
    )
