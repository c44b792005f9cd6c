"""What lies in conduits and trunkings: WIRE-FILL."""

from dataclasses import dataclass

from lodestaff.catalogue import Pack
from lodestaff.checks.check import check
from lodestaff.checks.finding import Finding, Findings, Remedy, Verdict, cure, soft
from lodestaff.checks.makers import Words, at_most, noted, open_
from lodestaff.job import Containment
from lodestaff.quantities import Input, Provenance, Source, text_of
from lodestaff.quantities.convention import plain

TOGETHER = Source("circuits that lie together count for the rating of each", Provenance.COMMON_PRACTICE)

METAL = {True: "in metal", False: "not in metal", None: "whether in metal is unknown"}
SUNLIT = Source("what lies outside is of a material that stands sun", Provenance.COMMON_PRACTICE)
APART = Source("DC and AC are kept apart, or separated by a partition", Provenance.COMMON_PRACTICE)


@dataclass(frozen=True)
class Filled:
    """A conduit or trunking with what lies in it: runs with their cores and the area of them, mm², None where
    no table has it; whether array DC is among them, and DC beside AC; runs rated for fewer than lie here."""

    containment: Containment
    pack: Pack
    runs: tuple[tuple[str, str, int, float | None], ...]
    strays: tuple[str, ...]
    array_dc: bool
    mixed: bool  # DC and AC lie together
    too_few: tuple[tuple[str, str, int], ...]

    @property
    def owner(self) -> str:
        return self.containment.id

    @property
    def subjects(self) -> tuple[str, ...]:
        return (self.containment.id, *(run for run, *_ in self.runs))


@check("WIRE-FILL", station="wire", rests_on="pack")
def wire_fill(record: Filled) -> Findings:
    """Do the conductors go into their conduits and trunkings?"""
    containment, pack = record.containment, record.pack
    inside = pack.containment_sizes[containment.size]
    cores = sum(count for _, _, count, _ in record.runs)
    areas = [area for *_, area in record.runs]
    limit = pack.usual_table("fill").above(max(1, cores), "share")
    figure = Words(
        name=f"{containment.name}: fill",
        formula="area of all conductors / area inside",
        source=pack.usual_table("fill").cite(),
        inputs=(
            Input("inside", inside, "mm²", containment.size),
            *(
                Input(name, area if area is not None else "unknown", "mm²", f"{count} cores")
                for _, name, count, area in record.runs
            ),
        ),
    )
    known = [area for area in areas if area is not None]
    whole = len(known) == len(areas)
    share = 100 * sum(known) / inside
    if record.strays:
        is_ = "is" if len(record.strays) == 1 else "are"
        yield open_(
            text=f"{containment.name}: {', '.join(record.strays)} {is_} no run.",
            because=("a run is unknown",),
            **figure,
            quantity="strays",
            verdict=Verdict.WARNS,
            advice="Take it out, or name the run that lies there.",
        )
    part = text_of(share, "%") if whole else "an unknown part"
    yield at_most(
        value=share if whole else None,
        limit=100 * limit,
        unit="%",
        text=f"{containment.name}, {containment.size}: {cores} conductors fill {part} of it; at most "
        f"{text_of(100 * limit, '%')}.",
        **figure,
        because=soft(containment=containment.known) if whole else ("a cable's area is unknown",),
        cures=lambda: _larger(record, sum(known) / limit),
        advice="A larger one, or two.",
    )
    yield from _bends(record)
    if record.array_dc and containment.inside:
        yield from _metal(record)
    if not containment.inside:
        yield _in_the_sun(containment)
    if record.mixed:
        yield noted(
            verdict=Verdict.WARNS,
            text=f"{containment.name}: DC and AC lie in it together.",
            name=f"{containment.name}: DC and AC",
            formula="kinds of current in one containment",
            source=APART,
            quantity="apart",
            advice="A way of its own for DC, or a partition and insulation for the highest voltage.",
        )
    count = len(record.runs)
    for run, name, grouping in record.too_few:
        yield noted(
            verdict=Verdict.WARNS,
            text=f"{name} is rated for {grouping} together; {count} circuits lie in {containment.name}.",
            value=float(grouping),
            limit=float(count),
            name=f"{name}: circuits together",
            formula="runs in one containment",
            source=TOGETHER,
            cures=cure(f"{name}: {count} circuits", f"cables/{run}/grouping", count),
            quantity=f"together {run}",
            advice="Rate it for as many as lie there.",
        )


def _in_the_sun(containment: Containment) -> Finding:
    stands = {True: "stands sun", False: "does not stand sun", None: "whether it stands sun is unknown"}
    return noted(
        verdict=Verdict.WARNS if containment.sun_proof is False else Verdict.PASSED,
        text=f"{containment.name}: outside, {stands[containment.sun_proof]}.",
        name=f"{containment.name}: sun",
        formula="material that stands sun where it lies outside",
        source=SUNLIT,
        because=() if containment.sun_proof is not None else ("what it is made of is unknown",),
        quantity="sun",
        advice="Metal, or a material whose sheet says so." if containment.sun_proof is False else "",
    )


def _larger(record: Filled, wanted_mm2: float) -> tuple[Remedy, ...]:
    sizes = sorted((area, size) for size, area in record.pack.containment_sizes.items() if area >= wanted_mm2)
    if not sizes:
        return ()
    return cure(f"Take {sizes[0][1]}", f"containments/{record.containment.id}/size", sizes[0][1])


def _bends(record: Filled) -> Findings:
    containment, most = record.containment, record.pack.values.get("bends_most_deg")
    bends = plain(containment.bends_deg) if containment.bends_deg is not None else "an unknown number of"
    if most is not None:
        yield at_most(
            value=containment.bends_deg,
            limit=most.value,
            unit="°",
            worse=Verdict.WARNS,
            text=f"{containment.name}: bends of {bends} degrees between two places to draw in; at most "
            f"{plain(most.value)}.",
            name=f"{containment.name}: bends",
            formula="sum of its bends",
            source=most.cite(),
            quantity="bends",
            advice="A box to draw in between them.",
        )


def _metal(record: Filled) -> Findings:
    containment, rule = record.containment, record.pack.values.get("array_dc_in_metal")
    asked = rule is not None and rule.value > 0
    if rule is None or not asked:
        return
    yield noted(
        verdict=Verdict.BLOCKS if containment.metal is False else Verdict.PASSED,
        text=f"{containment.name}: array DC inside the building, {METAL[containment.metal]}.",
        name=f"{containment.name}: metal",
        formula="metal where array DC is inside",
        source=rule.cite(),
        because=() if containment.metal is not None else ("what it is made of is unknown",),
        quantity="metal",
        advice="Metal conduit, or the run outside." if containment.metal is False else "",
    )
