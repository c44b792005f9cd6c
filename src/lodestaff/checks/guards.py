"""Residual-current devices that stand as parts, one behind the other or ahead of sources: WIRE-RCD; meters of
generation: WIRE-METER."""

from dataclasses import dataclass
from typing import Any

from lodestaff.checks.check import check
from lodestaff.checks.finding import Findings, Remedy, Verdict, soft
from lodestaff.checks.makers import Words, at_least, noted, one_of
from lodestaff.job import Fact
from lodestaff.quantities import Input, Provenance, Source, text_of
from lodestaff.quantities.convention import plain

BACK = Source(
    "a device that sources feed from behind is bidirectional, or it may stay closed on a fault",
    Provenance.COMMON_PRACTICE,
)
THREE = Source(
    "IEC 61008: the one ahead at least three times the one behind, and delayed", Provenance.FROM_MEMORY
)
COUNTS = Source("generation behind a battery is energy out less energy in", Provenance.COMMON_PRACTICE)
TIMES, WORDS = 3.0, {True: "yes", False: "no"}


@dataclass(frozen=True)
class FedBehind:
    """A residual-current device in a board's head or put into a conductor, and what may come back through
    it, A."""

    id: str
    name: str
    source_a: float
    sources: tuple[str, ...]
    fact: Fact[Any]
    cures: tuple[Remedy, ...] = ()


@check("WIRE-RCD", "fed from behind", station="wire", rests_on="common practice")
def fed_behind(record: FedBehind) -> Findings:
    """Does any source stand behind a residual-current device that works one way only?"""
    said = {"yes": "is bidirectional", "no": "works one way only"}.get(
        record.fact.value or "", "may not be made for that"
    )
    yield one_of(
        word=record.fact.value,
        bad={"no": Verdict.BLOCKS},
        value=record.source_a,
        unit="A",
        text=f"{record.name}: {', '.join(record.sources)} may give {text_of(record.source_a, 'A')} back "
        f"through it; it {said}.",
        name=f"{record.name}: fed from behind",
        formula="sum of sources beyond it",
        inputs=tuple(Input(name, "beyond it") for name in record.sources),
        source=BACK,
        because=soft(bidirectional_device=record.fact),
        cures=record.cures,
        advice="Read it off the device; a bidirectional one, or the source taken ahead of it.",
    )


@dataclass(frozen=True)
class RcdPairs:
    """Residual-current devices one behind the other: run, name and mA, and those of the one ahead."""

    pairs: tuple[tuple[str, str, float, str, float], ...]

    @property
    def subjects(self) -> tuple[str, ...]:
        return tuple(pair[0] for pair in self.pairs)


@check("WIRE-RCD", "in series", station="wire", rests_on="IEC 61008", rules=("IEC",))
def rcds_in_series(record: RcdPairs) -> Findings:
    """Does the residual-current device nearest to a fault open alone?"""
    for run, name, own, ahead_name, ahead in record.pairs:
        yield at_least(
            value=ahead,
            limit=TIMES * own,
            unit="mA",
            worse=Verdict.WARNS,
            text=f"{name}: {plain(own)} mA behind {plain(ahead)} mA of {ahead_name}.",
            name=f"{name}: residual-current devices in series",
            formula="the one ahead >= 3 x the one behind",
            inputs=(Input("behind", own, "mA"), Input("ahead", ahead, "mA")),
            source=THREE,
            subjects=(run,),
            quantity=run,
            advice="One ahead of three times as much, delayed; or none there.",
        )


@dataclass(frozen=True)
class CountingMeter:
    """A meter of a unit's generation; `two_way` says whether it counts both ways."""

    id: str
    name: str
    unit: str
    stores: bool  # whether a battery stands behind it as well
    two_way: bool
    cures: tuple[Remedy, ...] = ()


@check("WIRE-METER", station="wire", rests_on="common practice")
def wire_meter(record: CountingMeter) -> Findings:
    """Does a meter of generation count what it must?"""
    ways = "both ways" if record.two_way else "one way only"
    figure = Words(
        name=f"{record.name}: ways it counts",
        formula="energy out less energy in",
        source=COUNTS,
        inputs=(
            Input("behind it", record.unit),
            Input("a battery as well", "yes" if record.stores else "no"),
        ),
    )
    wrong = record.stores and not record.two_way
    yield noted(
        verdict=Verdict.BLOCKS if wrong else Verdict.PASSED,
        value=2.0 if record.two_way else 1.0,
        limit=2.0 if record.stores else 1.0,
        text=f"{record.name} counts {ways}; {record.unit} has "
        f"{'a battery that charges through it' if record.stores else 'no battery'}.",
        **figure,
        cures=record.cures if wrong else (),
        advice="A two-way meter: generation is energy out less energy in." if wrong else "",
    )
