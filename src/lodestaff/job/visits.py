"""Who comes on which day for what: hands, days, what was laid on them, what is waited for and delivered."""

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from lodestaff.catalogue.frozen import Frozen
from lodestaff.job.facts import Fact
from lodestaff.job.found import Date
from lodestaff.job.types import Hour, Identifier, NotNegative, Positive

Name = Annotated[str, Field(min_length=1, max_length=60)]
Phone = Annotated[str, Field(max_length=40)]
TaskId = Annotated[str, Field(pattern=r"^[a-z0-9][a-z0-9-]*$", max_length=60)]
TaskHours = Annotated[float, Field(gt=0, le=200)]
People = Annotated[int, Field(ge=1, le=8)]
Skill = Literal["electrical", "roof", "general"]
Waiting = Literal["delivery", "scaffold", "permission", "fuse change", "inspection", "drying", "other trade"]
Order = Literal["cables first", "modules first"]


class Hand(Frozen):
    """One of those who come, with what they can do."""

    id: Identifier
    name: Name
    skills: Annotated[tuple[Skill, ...], Field(min_length=1)] = ("general",)
    phone: Phone = ""


class Visit(Frozen):
    """A day on site: who comes, from when to when, the typed forecast, and between which hours the people of
    the building have agreed to be without power (None: not asked)."""

    id: Identifier
    date: Annotated[Date, Field(min_length=10)]
    from_h: Hour = 8.0
    to_h: Hour = 16.5
    hands: Annotated[tuple[Identifier, ...], Field(max_length=12)] = ()
    off_from_h: Hour | None = None
    off_to_h: Hour | None = None
    wind_m_s: Fact[NotNegative] = Fact[NotNegative]()
    low_c: Fact[Annotated[float, Field(ge=-50, le=50)]] = Fact()
    rain: Fact[Literal["yes", "no"]] = Fact[Literal["yes", "no"]]()

    @model_validator(mode="after")
    def _hours_in_order(self) -> Self:
        if self.to_h <= self.from_h:
            raise ValueError(f"ends at {self.to_h:g} h, not after it begins at {self.from_h:g} h")
        if (self.off_from_h is None) != (self.off_to_h is None):
            raise ValueError("power may be off from and to an hour: give both, or neither")
        if self.off_from_h is not None and self.off_to_h is not None and self.off_to_h <= self.off_from_h:
            raise ValueError(
                f"power may be off until {self.off_to_h:g} h, which isn't after {self.off_from_h:g} h"
            )
        return self

    @property
    def hours(self) -> float:
        return self.to_h - self.from_h


class Laid(Frozen):
    """A piece of a task on a day: when it begins and who does it. `held` keeps it there when days are laid
    anew."""

    task: TaskId
    piece: Annotated[int, Field(ge=1, le=60)] = 1
    visit: Identifier
    at_h: Hour
    hands: Annotated[tuple[Identifier, ...], Field(max_length=8)] = ()
    held: bool = False


class Said(Frozen):
    """What a person says of a task that follows from the design: its hours, its hands, that others do it."""

    task: TaskId
    hours: TaskHours | None = None
    people: People | None = None
    by_others: bool = False
    why: Annotated[str, Field(max_length=200)] = ""


class OwnTask(Frozen):
    """A task that a person adds."""

    id: TaskId
    name: Name
    hours: TaskHours
    people: People = 1
    skill: Skill = "general"
    after: Annotated[tuple[TaskId, ...], Field(max_length=12)] = ()
    power_off: bool = False
    outside: bool = False


class Wait(Frozen):
    """What must be there first: expected on a date, there since another. Without `tasks` all of its kind
    wait."""

    id: Identifier
    what: Waiting
    name: Name
    tasks: Annotated[tuple[TaskId, ...], Field(max_length=40)] = ()
    due: Date = ""
    came: Date = ""


class Delivery(Frozen):
    """A line of a delivery note: what came, how many, and the rating on its label as it was read."""

    id: Identifier
    item: Annotated[str, Field(pattern=r"^[a-z0-9][a-z0-9.:-]*$", max_length=80)]
    count: Positive
    date: Annotated[Date, Field(min_length=10)]
    note: Annotated[str, Field(max_length=40)] = ""  # number of the delivery note
    labelled: Positive | None = None


class Contact(Frozen):
    """Whom to ring, and for what."""

    id: Identifier
    name: Name
    phone: Phone = ""
    what: Annotated[str, Field(max_length=80)] = ""


class Visits(Frozen):
    """The visits of a job. `order` is the school: modules last on dead cables, or modules first."""

    order: Order = "cables first"
    hands: Annotated[tuple[Hand, ...], Field(max_length=12)] = ()
    days: Annotated[tuple[Visit, ...], Field(max_length=40)] = ()
    laid: Annotated[tuple[Laid, ...], Field(max_length=400)] = ()
    said: Annotated[tuple[Said, ...], Field(max_length=120)] = ()
    own: Annotated[tuple[OwnTask, ...], Field(max_length=60)] = ()
    waits: Annotated[tuple[Wait, ...], Field(max_length=40)] = ()
    deliveries: Annotated[tuple[Delivery, ...], Field(max_length=200)] = ()
    contacts: Annotated[tuple[Contact, ...], Field(max_length=20)] = ()

    @model_validator(mode="after")
    def _parts_fit(self) -> Self:
        for kind in ("hands", "days", "own", "waits", "deliveries", "contacts"):
            ids = [row.id for row in getattr(self, kind)]
            twice = sorted({name for name in ids if ids.count(name) > 1})
            if twice:
                raise ValueError(f"{kind}: the id {twice[0]!r} stands twice; ids must differ")
        hands, days = [hand.id for hand in self.hands], [day.id for day in self.days]
        dates = [day.date for day in self.days]
        again = sorted({date for date in dates if dates.count(date) > 1})
        if again:
            raise ValueError(f"days: {again[0]} stands twice; one visit a day, its hours as long as they are")
        for day in self.days:
            _there(day.hands, hands, f"days {day.id} hands")
        for piece in self.laid:
            _there((piece.visit,), days, f"laid {piece.task} visit")
            _there(piece.hands, hands, f"laid {piece.task} hands")
        pieces = [(piece.task, piece.piece) for piece in self.laid]
        if len(set(pieces)) < len(pieces):
            raise ValueError("laid: one piece of a task stands twice")
        return self

    def day(self, visit: str) -> Visit:
        return next(day for day in self.days if day.id == visit)

    def hand(self, hand: str) -> Hand:
        return next(other for other in self.hands if other.id == hand)

    @property
    def in_order(self) -> tuple[Visit, ...]:
        """The days by date."""
        return tuple(sorted(self.days, key=lambda day: day.date))


def _there(names: tuple[str, ...], among: list[str], where: str) -> None:
    for name in names:
        if name not in among:
            choices = ", ".join(map(repr, among)) or "none yet"
            raise ValueError(f"{where}: {name!r} is not there; choose from {choices}")
