"""The labels of the installation: WIRE-LABEL."""

from dataclasses import dataclass

from lodestaff.checks.check import check
from lodestaff.checks.finding import Findings, Verdict
from lodestaff.checks.makers import at_most
from lodestaff.quantities import Input, Provenance, Source

RATED = Source(
    "isolation points of sources and units say their volts and amperes", Provenance.COMMON_PRACTICE
)


@dataclass(frozen=True)
class LabelSchedule:
    """How many labels there are, how many of them say volts and amperes, and the places that can't yet."""

    count: int
    rated: int
    unrated: tuple[str, ...]


@check("WIRE-LABEL", station="wire", rests_on="common practice")
def wire_label(record: LabelSchedule) -> Findings:
    """Can every label of a source or a unit say its volts and amperes?"""
    missing, text = len(record.unrated), f"{record.count} labels in the schedule"
    if missing:
        text += f"; without volts and amperes: {', '.join(record.unrated)}."
    else:
        text += f", {record.rated} of them with their volts and amperes."
    yield at_most(
        value=float(missing),
        limit=0.0,
        unit="labels",
        worse=Verdict.NOTES,
        text=text,
        name="Labels without volts and amperes",
        formula="isolators of sources and units whose rating can't be reckoned",
        inputs=(
            Input("labels", float(record.count)),
            Input("with volts and amperes", float(record.rated)),
            *(Input(name, "unknown") for name in record.unrated),
        ),
        source=RATED,
        because=tuple(f"the volts and amperes at {name} are unknown" for name in record.unrated),
        advice="Take them from the equipment's plates and write them by hand." if missing else "",
    )
