"""A finding: a value against a limit, with margin, working, source and what to change."""

from dataclasses import dataclass
from enum import StrEnum

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


@dataclass(frozen=True)
class Finding:
    """One answer of one check. `margin` is positive where the limit is kept."""

    code: str
    verdict: Verdict
    text: str
    figure: Figure
    limit: float | None = None
    margin: float | None = None
    limit_source: Source | None = None
    open_because: tuple[str, ...] = ()
    remedies: tuple[Remedy, ...] = ()
    advice: str = ""
    subjects: tuple[str, ...] = ()
    state: str = ""
    rule: str = ""  # the check that made it, put on where it is run; a code may have several
    owner: str = ""  # the unit, leg or bank whose record it was made of, by id

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


def soft(**facts: Fact) -> tuple[str, ...]:  # type: ignore[type-arg]
    """Words for those facts that are missing or only assumed; names have underscores for spaces."""
    return tuple(
        f"{name.replace('_', ' ')} is {'unknown' if fact.value is None else fact.known}"
        for name, fact in facts.items()
        if not fact.firm
    )
