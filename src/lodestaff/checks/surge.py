"""Surge protection of array runs: WIRE-SPD. That of the supply is SITE-SPACE's."""

from lodestaff.checks.check import check
from lodestaff.checks.finding import Findings, Verdict, soft
from lodestaff.checks.makers import at_most, one_of
from lodestaff.checks.runs import Run, reckoned
from lodestaff.quantities import Input, Provenance, Source, text_of
from lodestaff.quantities.convention import plain

USUAL = Source("a device at the unit, and one at the array where the way is long", Provenance.COMMON_PRACTICE)
LEADS = Source("IEC 60364-5-534: leads of a surge device as short as can be, 0.5 m", Provenance.FROM_MEMORY)
LEADS_M = 0.5
BOTH_ABOVE_M = 10.0  # where a pack gives none; IEC 60364-7-712, from memory


@check("WIRE-SPD", station="wire", rests_on="pack")
def wire_spd(run: Run) -> Findings:
    """Has every array run its surge protection, at both ends where it is long?"""
    if run.kind == "array":
        yield from reckoned(run, _protected)


def _protected(run: Run) -> Findings:
    cable, limit = run.chosen, run.pack.values.get("surge_both_ends_m")
    most = limit.value if limit is not None else BOTH_ABOVE_M
    long = cable.length_m > most
    needed = "both ends" if long else "one end"
    bad = {"none": Verdict.WARNS, "one end": Verdict.WARNS} if long else {"none": Verdict.WARNS}
    has = {"none": "none", "one end": "at one end", "both ends": "at both ends", None: "not known"}[
        cable.surge
    ]
    yield one_of(
        word=cable.surge,
        bad=bad,
        value=cable.length_m,
        unit="m",
        text=f"{run.name}: {plain(cable.length_m)} m; surge protection {has}, wanted at {needed}.",
        name=f"{run.name}: surge protection",
        formula="both ends above a length, else the unit's",
        inputs=(Input("both ends above", most, "m"), Input("fitted", cable.surge or "unknown")),
        source=limit.cite() if limit is not None else USUAL,
        because=("the surge protection is unknown",) if cable.surge is None else soft(cable=cable.known),
        cures=run.change(f"surge protection at {needed}", "surge", needed),
        advice="Leads under half a metre, coordinated with that of the supply; many units have one inside.",
    )
    if cable.surge in ("one end", "both ends"):
        lead = cable.surge_lead_m
        yield at_most(
            value=lead,
            limit=LEADS_M,
            unit="m",
            worse=Verdict.WARNS,
            text=f"{run.name}: leads of its surge protection "
            f"{'unknown' if lead is None else text_of(lead, 'm', 2)}; at most {text_of(LEADS_M, 'm')}.",
            name=f"{run.name}: leads of the surge protection",
            formula="both leads together",
            source=LEADS,
            because=() if lead is not None else ("the leads are unknown",),
            quantity="leads",
            advice="Shorten them, or loop the run through the device.",
        )
