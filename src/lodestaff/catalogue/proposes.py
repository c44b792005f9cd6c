"""How a pack proposes a run that nobody has chosen yet: how long it is taken to be, and by which ways it may
run."""

from typing import Literal

from pydantic import Field, PositiveFloat

from lodestaff.catalogue.frozen import Frozen

RunUse = Literal[
    "service", "feed", "first feed", "output", "source", "building", "generator", "battery", "array"
]


class UsualRun(Frozen):
    """One use of a run: its length until it is measured, methods of the pack in the order in which they are
    tried, the trip curve of its device, and the least that people fit whatever flows."""

    length_m: PositiveFloat
    methods: tuple[str, ...] = Field(min_length=1)
    curve: Literal["B", "C", "D"] | None = None
    least_mm2: PositiveFloat | None = None
    least_device_a: PositiveFloat | None = None


class Proposes(Frozen):
    """Every use of a run, with the source of the lengths."""

    source: str
    runs: dict[RunUse, UsualRun]
