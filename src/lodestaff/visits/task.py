"""A task as it follows from the design, with what it wants and what it waits for."""

from dataclasses import dataclass

from lodestaff.job.visits import Skill


@dataclass(frozen=True)
class Item:
    """What a task takes along. `rated` with its unit is what must stand on the label, None where nothing
    can be read there."""

    key: str
    words: str
    count: float
    unit: str = "pieces"
    rated: float | None = None
    rated_in: str = ""

    def amount(self, count: float) -> str:
        """So many of it, in words."""
        unit = "piece" if count == 1 and self.unit == "pieces" else self.unit
        return f"{count:g} {unit}"


@dataclass(frozen=True)
class Hold:
    """What a task waits for: in words, on which date it is expected ('' for nobody knows), whether it is
    there."""

    what: str
    words: str
    due: str = ""
    there: bool = False


@dataclass(frozen=True)
class Task:
    """One task. `hours` is how long `people` together take; `plain_h` the same before it was corrected by
    what was booked.

    `dark` are circuits without power while it goes on; `building` says that the whole building is. `alone`
    is False where a second person must be on site.
    """

    id: str
    kind: str
    name: str
    hours: float
    plain_h: float
    people: int
    skill: Skill
    why_hours: str
    formula: str
    after: tuple[str, ...] = ()
    dark: tuple[str, ...] = ()
    building: bool = False
    alone: bool = True
    roof: bool = False
    daylight: bool = False
    wind_m_s: float | None = None
    dry: bool = False
    frost_free: bool = False
    tools: tuple[str, ...] = ()
    lift: str = ""
    holds: tuple[Hold, ...] = ()
    items: tuple[Item, ...] = ()
    of: str = ""  # the part that it is about
    own: bool = False
    others: bool = False  # done by others: it is told of and not laid

    @property
    def power_off(self) -> bool:
        return self.building or bool(self.dark)

    @property
    def due(self) -> str:
        """The date before which it can't be done; '' where it can be done now or nobody knows when."""
        return max((hold.due for hold in self.holds if not hold.there and hold.due), default="")

    @property
    def stuck(self) -> tuple[Hold, ...]:
        """What it waits for without a date."""
        return tuple(hold for hold in self.holds if not hold.there and not hold.due)
