"""Rain where a part stands, and people who hear it: of STO-PLACE's room about every part."""

from collections.abc import Iterator
from dataclasses import dataclass

from lodestaff.checks.finding import Finding, Verdict
from lodestaff.checks.makers import one_of
from lodestaff.quantities import Provenance, Source

SHEET = Source("where its sheet lets it stand", Provenance.SHEET)
HEARD = Source("fans, relays and engines are heard where people sleep", Provenance.COMMON_PRACTICE)


@dataclass(frozen=True)
class Stood:
    """A part on its wall: whether its size matters, where its sheet lets it stand, whether it is outside, in
    the rain, near people who sleep, and as what it is heard ('' for nothing)."""

    large: bool
    weather: str | None
    outside: bool
    rain: str | None
    quiet: str | None
    loud: str


def weathered(name: str, record: Stood) -> Iterator[Finding]:
    """Whether it may stand in the rain that it gets, and whether anybody is kept awake by it."""
    if record.outside and record.large:
        yield _rained_on(name, record)
    if record.loud == "generator" or (record.loud and record.quiet == "yes"):
        yield one_of(
            word=record.quiet,
            bad={"yes": Verdict.WARNS if record.loud == "generator" else Verdict.NOTES},
            text=f"{name}: people {'sleep or rest near' if record.quiet == 'yes' else 'are not kept awake'}."
            if record.quiet
            else f"{name}: whether people sleep near isn't known.",
            because=() if record.quiet else ("whether people sleep near is unknown",),
            name=f"{name}: who hears it",
            formula="as read of its place",
            source=HEARD,
            quantity="noise",
            advice="Another wall, or ask those who sleep there." if record.quiet != "no" else "",
        )


def _rained_on(name: str, record: Stood) -> Finding:
    """By its sheet: in the open, under a roof, or indoors only."""
    may, rain = record.weather, record.rain
    allowed = f"its sheet lets it stand {may}" if may else "no sheet says whether it may"
    where = {"yes": "in the rain", "no": "outside, out of the rain", None: "outside"}[rain]
    because = []
    if may is None:
        because.append("its sheet doesn't say whether it may stand outside")
    elif may == "under a roof" and rain is None:
        because.append("whether it stands in the rain is unknown")
    wrong = may == "indoors" or (may == "under a roof" and rain == "yes")
    return one_of(
        word="wrong" if wrong else "right" if not because else None,
        bad={"wrong": Verdict.BLOCKS if may == "indoors" else Verdict.WARNS},
        text=f"{name} stands {where}; {allowed}.",
        because=tuple(because),
        name=f"{name}: weather",
        formula="as its sheet and its wall say",
        source=SHEET,
        quantity="weather",
        advice="A roof over it, or indoors." if wrong else "",
    )
