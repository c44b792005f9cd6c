"""Connectors and joints of the array: ARR-CONN. One make and type at every joint; what a shared home run
carries."""

from dataclasses import dataclass

from lodestaff.catalogue import PackValue
from lodestaff.checks.check import check
from lodestaff.checks.finding import Findings, Verdict
from lodestaff.checks.makers import at_most, noted, one_of
from lodestaff.quantities import Input, Provenance, Source, text_of

JOINTS = Source("connectors of unlike make are where arrays fail", Provenance.COMMON_PRACTICE)
ISOLATOR = Source("IEC 62548, isolators of the array", Provenance.FROM_MEMORY)
PER_STRING = 2  # one at each end, to the home run
PER_BRANCH = 2  # one more pair where a string joins another's home run


@dataclass(frozen=True)
class Joint:
    """A string with the connectors at its two ends, None while unknown."""

    id: str
    name: str
    behind: str  # what its home run is plugged into: its modules, or their optimisers
    end: str | None
    home_run: str | None
    joined: bool
    isc_a: float


@dataclass(frozen=True)
class HomeRuns:
    """The strings of a tracker, and how many pairs of terminals it has."""

    owner: str
    name: str
    strings: tuple[Joint, ...]
    inputs: int
    run: str
    cold_v: float  # the most on the run, at the record low
    factor: PackValue  # of the short-circuit current
    isolator_v: float | None
    isolator_a: float | None
    soft: tuple[str, ...] = ()

    @property
    def subjects(self) -> tuple[str, ...]:
        return tuple(joint.id for joint in self.strings)


@check("ARR-CONN", station="array", rests_on="module's sheet, what was read of the home runs")
def arr_conn(record: HomeRuns) -> Findings:
    """Are connectors of one make and type, and does every home run know what it carries?"""
    for joint in record.strings:
        unknown = [
            words
            for words, value in (
                (f"the connectors of its {joint.behind} aren't on a sheet", joint.end),
                ("the home run's connectors are unknown", joint.home_run),
            )
            if value is None
        ]
        same = None if unknown else "same" if _plain(joint.end) == _plain(joint.home_run) else "unlike"
        pair = f"{joint.end or 'unknown'} on {joint.home_run or 'unknown'}"
        yield one_of(
            word=same,
            bad={"unlike": Verdict.WARNS},
            because=tuple(unknown),
            subjects=(joint.id,),
            quantity=f"make of {joint.id}",
            text=f"String {joint.name}: connectors of its {joint.behind} on its home run's: {pair}.",
            advice="Connectors of one make and type at each joint, crimped with its own tool.",
            name=f"String {joint.name}, connectors",
            formula="sheet and what was read",
            source=JOINTS,
        )
    joined = [joint for joint in record.strings if joint.joined]
    runs = len(record.strings) - max(0, len(joined) - 1)
    joints = PER_STRING * len(record.strings) + PER_BRANCH * max(0, len(joined) - 1)
    amps = max([sum(joint.isc_a for joint in joined), *(j.isc_a for j in record.strings if not j.joined)])
    text = f"{record.name}: {joints} field joints on {runs} home run{'s' if runs > 1 else ''}"
    if len(joined) > 1:
        names = " + ".join(joint.name for joint in joined)
        text += f"; one carries strings {names}, {text_of(amps, 'A')} short circuit"
    yield noted(
        value=float(joints),
        quantity="joints",
        text=f"{text}.",
        verdict=Verdict.NOTES if len(joined) > 1 else Verdict.PASSED,
        name=f"{record.name}, field joints",
        formula="2 a string, 2 more where one joins another's home run",
        inputs=(Input("home runs", float(runs)), Input("most short-circuit current on one", amps, "A")),
        source=JOINTS,
    )
    yield at_most(
        value=float(runs),
        limit=float(record.inputs),
        quantity="inputs",
        worse=Verdict.WARNS,
        text=f"{record.name}: {runs} home run{'s' if runs > 1 else ''} on {record.inputs} "
        f"pair{'s' if record.inputs > 1 else ''} of terminals.",
        advice="Join them on the roof by branch connectors, or in a combiner.",
        name=f"{record.name}, home runs",
        formula="strings less those joined on the roof",
        source=Source("the unit's sheet", Provenance.SHEET),
    )


@check("ARR-ISO", station="array", rests_on="isolator's rating, pack's factor")
def arr_iso(record: HomeRuns) -> Findings:
    """Does the DC isolator open what the array can give?"""
    amps = record.factor.value * sum(joint.isc_a for joint in record.strings)
    live = PER_STRING * (len(record.strings) - max(0, sum(joint.joined for joint in record.strings) - 1))
    in_daylight = f"{live} conductors stay live in daylight on its array side"
    for quantity, value, limit, unit, formula in (
        ("volts", record.cold_v, record.isolator_v, "V", "open circuit at the record low"),
        ("current", amps, record.isolator_a, "A", "factor x sum of Isc"),
    ):
        rated = "unknown" if limit is None else text_of(limit, unit)
        yield at_most(
            value=value,
            limit=limit,
            unit=unit,
            quantity=quantity,
            because=record.soft if limit is not None else ("the isolator's rating is unknown",),
            text=f"{record.name}: its DC isolator opens up to {text_of(value, unit)}; rated {rated}. "
            f"{in_daylight}.",
            advice="An isolator rated for DC, its poles as its sheet draws them.",
            name=f"{record.name}, DC isolator, {quantity}",
            formula=formula,
            inputs=(Input("conductors live in daylight", float(live)),),
            source=record.factor.cite() if quantity == "current" else ISOLATOR,
        )


def _plain(text: str | None) -> str:
    return "".join((text or "").casefold().split())
