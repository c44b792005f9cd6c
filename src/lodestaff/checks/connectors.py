"""Connectors and joints of the array: ARR-CONN. One make and type at every joint; what a shared home run
carries."""

from dataclasses import dataclass

from lodestaff.checks.check import check
from lodestaff.checks.finding import Findings, Verdict
from lodestaff.checks.makers import at_most, noted, one_of
from lodestaff.quantities import Input, Provenance, Source, text_of

JOINTS = Source("connectors of unlike make are where arrays fail", Provenance.COMMON_PRACTICE)
PER_STRING = 2  # one at each end, to the home run
PER_BRANCH = 2  # one more pair where a string joins another's home run


@dataclass(frozen=True)
class Joint:
    """A string with the connectors at its two ends, None while unknown."""

    id: str
    name: str
    module: str | None
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
                ("the module's connectors aren't on its sheet", joint.module),
                ("the home run's connectors are unknown", joint.home_run),
            )
            if value is None
        ]
        same = None if unknown else "same" if _plain(joint.module) == _plain(joint.home_run) else "unlike"
        pair = f"{joint.module or 'unknown'} on {joint.home_run or 'unknown'}"
        yield one_of(
            found=same,
            bad={"unlike": Verdict.WARNS},
            because=tuple(unknown),
            subjects=(joint.id,),
            quantity=f"make of {joint.id}",
            text=f"String {joint.name}: its modules' connectors on its home run's: {pair}.",
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


def _plain(text: str | None) -> str:
    return "".join((text or "").casefold().split())
