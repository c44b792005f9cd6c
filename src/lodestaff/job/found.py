"""What was found on site and what was asked for: devices with their condition, permits, limits until a
date."""

from datetime import date
from typing import Annotated, Literal, Self

from pydantic import AfterValidator, Field, model_validator

from lodestaff.catalogue.frozen import Frozen
from lodestaff.job.facts import Fact
from lodestaff.job.types import Identifier, NotNegative, Positive

Sha256 = Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]
Note = Annotated[str, Field(max_length=200)]


def _a_date(text: str) -> str:
    """A day as it sorts, or nothing."""
    if text:
        try:
            date.fromisoformat(text)
        except ValueError:
            raise ValueError(f"{text!r} is no date; write one like 2026-11-25") from None
    return text


Date = Annotated[str, Field(max_length=10), AfterValidator(_a_date)]
State = Literal["granted", "applied for", "not asked", "refused", "expired"]
What = Literal["board", "generation", "car charger", "heat pump", "generator", "conductor", "other"]
RATED_IN: dict[What, str] = {"board": "A", "generation": "kVA", "car charger": "kW", "heat pump": "kW",
                             "generator": "kVA", "conductor": "mm²", "other": "A"}  # fmt: skip


class Found(Frozen):
    """A thing that is already there, as it was found: its rating, its condition, its photos.

    The rating's unit goes by what it is (`RATED_IN`). `device_a` protects an old conductor. `part` names the
    circuit, unit or part that stands for it in the job; generation without one counts in what is registered.
    """

    id: Identifier
    what: What
    name: Annotated[str, Field(min_length=1, max_length=60)]
    phase: Annotated[str, Field(max_length=12)] = ""
    rating: Fact[Positive] = Fact()
    condition: Fact[Literal["good", "worn", "unfit"]] = Fact()
    device_a: Fact[Positive] = Fact()
    photos: Annotated[tuple[Sha256, ...], Field(max_length=24)] = ()
    shown_to_customer: bool = False
    part: Annotated[str, Field(max_length=40)] = ""
    note: Note = ""

    @property
    def unit(self) -> str:
        return RATED_IN[self.what]


PermitKind = Literal["main fuse", "seal", "consent", "inspection"]


class Permit(Frozen):
    """A further permission: to raise the main fuse (`value` in A), break a seal, build; and the
    inspection."""

    id: Identifier
    kind: PermitKind
    needed: bool = True
    state: State = "not asked"
    date: Date = ""
    value: Positive | None = None
    note: Note = ""


class Interim(Frozen):
    """A limit that holds until a date, or until it is lifted: a smaller main fuse (A), export or generation
    (kW, kVA)."""

    id: Identifier
    what: Literal["main fuse", "export", "generation"]
    value: NotNegative
    until: Date = ""
    lifted: bool = False
    note: Note = ""

    @model_validator(mode="after")
    def _fuse_is_something(self) -> Self:
        if self.what == "main fuse" and self.value <= 0:
            raise ValueError("a main fuse of 0 A carries nothing; give its rating in A")
        return self

    @property
    def unit(self) -> str:
        return {"main fuse": "A", "export": "kW", "generation": "kVA"}[self.what]


class Choice(Frozen):
    """A choice of the customer: what was offered and advised, what was chosen, why, who and when."""

    id: Identifier
    about: Annotated[str, Field(min_length=1, max_length=80)]
    offered: Annotated[str, Field(max_length=400)] = ""
    advised: Annotated[str, Field(max_length=200)] = ""
    chosen: Annotated[str, Field(max_length=200)] = ""
    why: Annotated[str, Field(max_length=400)] = ""
    by: Annotated[str, Field(max_length=60)] = ""
    date: Date = ""

    @property
    def doubt(self) -> str:
        """What somebody will ask of it later: '' where it speaks for itself."""
        if not self.chosen:
            return "still to be chosen"
        if self.offered and self.chosen.casefold() not in self.offered.casefold():
            return f"{self.chosen} was chosen, which isn't among what was offered"
        if self.advised and self.advised.casefold() != self.chosen.casefold() and not self.why:
            return f"{self.chosen} was chosen, {self.advised} advised, and nobody said why"
        return ""
