"""What carries the modules: ARR-MOUNT and ARR-EARTH. Clear of the edges; supports, rails and weights as
information; bonding of the metal."""

from dataclasses import dataclass

from lodestaff.catalogue import PackValue
from lodestaff.checks.check import check
from lodestaff.checks.finding import Findings, Verdict
from lodestaff.checks.makers import Words, at_least, noted, one_of, open_
from lodestaff.quantities import Input, Provenance, Source, text_of
from lodestaff.quantities.convention import plain

SHEET = Source("the mounting's and module's sheets", Provenance.SHEET)
FOR_THE_ENGINEER = "Information for whoever answers for the structure; wind and snow by the maker's tables."


@dataclass(frozen=True)
class Mounted:
    """A face with modules: how near they lie to its edges, and what its mounting takes.

    `edge_m` and `ridge_m` are the least that is free at eaves and sides, and at the ridge.
    """

    id: str
    name: str
    edge_m: float
    ridge_m: float
    least_edge: PackValue | None
    least_ridge: PackValue | None
    sheet: str  # '' while no mounting is chosen
    modules: int
    rail_m: float = 0.0
    lengths: int | None = None
    supports: int = 0
    clamps: tuple[int, int] = (0, 0)  # end, middle
    spacing_m: float | None = None  # the most, by the sheet
    pitch_m: float | None = None
    rafter_m: float | None = None
    overhang_m: float | None = None
    weight_kg: float | None = None
    area_m2: float = 0.0
    guard_m: float = 0.0
    clamp_zone_m: tuple[float, float] | None = None  # from a module's short side
    covering: str = ""
    soft: tuple[str, ...] = ()
    rails: int = 0
    listed: bool | None = None  # clamps listed for bonding, by the sheet
    bonded: str | None = None  # how rails and frames are bonded; None while unknown
    bond_mm2: float | None = None
    least_bond: PackValue | None = None


def _of(name: str, formula: str, *inputs: Input) -> Words:
    return Words(name=name, formula=formula, inputs=inputs, source=SHEET)


@check("ARR-MOUNT", station="array", rests_on="mounting's sheet, pack")
def arr_mount(record: Mounted) -> Findings:
    """Do the modules keep clear of the edges, and what carries them?"""
    for words, value, limit, quantity in (
        ("eaves and sides", record.edge_m, record.least_edge, "edges"),
        ("the ridge", record.ridge_m, record.least_ridge, "ridge"),
    ):
        if limit is None:
            continue
        yield at_least(
            value=value,
            limit=limit.value,
            unit="m",
            quantity=quantity,
            worse=Verdict.WARNS,
            text=f"{record.name}: modules come to {text_of(value, 'm', 2)} of {words}; "
            f"{text_of(limit.value, 'm', 2)} stay clear.",
            name=f"{record.name}, clear of {words}",
            formula="least distance",
            source=limit.cite(),
            advice="Move them in, or follow the local rule and correct the pack's value.",
        )
    if not record.sheet:
        yield open_(
            text=f"{record.name}: no mounting is chosen; rails, supports and weight aren't reckoned.",
            because=("no mounting is chosen",),
            quantity="parts",
            advice="Take a mounting from the shelf into the job.",
            **_of(f"{record.name}, mounting", "sheet"),
        )
        return
    yield from _supports(record)
    if record.pitch_m is not None:
        yield from _parts(record)


def _supports(record: Mounted) -> Findings:
    spacing, rafter = record.spacing_m, record.rafter_m
    on_rafters = "" if rafter is None else f", on rafters {text_of(rafter, 'm', 2)} apart"
    most = "unknown" if spacing is None else text_of(spacing, "m", 2)
    pitch = "none fits" if record.pitch_m is None else text_of(record.pitch_m, "m", 2)
    yield at_least(
        value=spacing,
        limit=rafter if rafter is not None else spacing,
        unit="m",
        quantity="spacing",
        worse=Verdict.WARNS,
        because=record.soft if spacing is not None else ("the sheet gives no spacing of supports",),
        text=f"{record.name}: supports at most {most} apart{on_rafters}: {pitch}.",
        advice="A mounting that spans the rafters, or battens between them by the structure's engineer.",
        **_of(f"{record.name}, spacing of supports", "the most whole rafters within the sheet's spacing"),
    )


def _parts(record: Mounted) -> Findings:
    lengths = "" if record.lengths is None else f" in {record.lengths} lengths"
    ends, middles = record.clamps
    text = (
        f"{record.name}: {text_of(record.rail_m, 'm', 1)} of rail{lengths}, {record.supports} supports, "
        f"{ends} end and {middles} middle clamps"
    )
    if record.overhang_m is not None:
        text += f", rails at most {text_of(record.overhang_m, 'm', 2)} beyond the last support"
    if record.clamp_zone_m is not None:
        near, far = record.clamp_zone_m
        text += f", clamps {text_of(near, 'm', 2)} to {text_of(far, 'm', 2)} from the modules' short sides"
    if record.covering in ("tiles", "slates"):
        text += f", {record.supports} flashings or hooks for {record.covering}"
    inputs = [
        Input("modules", float(record.modules)),
        Input("rail", record.rail_m, "m"),
        Input("supports", float(record.supports)),
        Input("end clamps", float(ends)),
        Input("middle clamps", float(middles)),
        Input("around the modules, for a guard against birds", record.guard_m, "m"),
    ]
    weight = record.weight_kg
    if weight is None:
        yield open_(
            text=f"{text}; the sheets don't give all weights.",
            because=("the weight of module, rail or support isn't on its sheet",),
            quantity="parts",
            advice=FOR_THE_ENGINEER,
            name=f"{record.name}, weight of the array",
            formula="modules + rails + supports",
            inputs=tuple(inputs),
            source=SHEET,
        )
        return
    each = weight / record.supports if record.supports else 0.0
    yield noted(
        verdict=Verdict.PASSED,
        value=weight,
        unit="kg",
        quantity="parts",
        text=f"{text}; {plain(weight, 0)} kg, {plain(weight / record.area_m2, 1)} kg/m², "
        f"{plain(each, 1)} kg a support.",
        advice=FOR_THE_ENGINEER,
        name=f"{record.name}, weight of the array",
        formula="modules + rails + supports",
        inputs=(
            *inputs,
            Input("area of the modules", record.area_m2, "m²"),
            Input("to each support", each, "kg"),
        ),
        source=SHEET,
        note=FOR_THE_ENGINEER,
    )


@check("ARR-EARTH", station="array", rests_on="mounting's sheet, pack")
def arr_earth(record: Mounted) -> Findings:
    """Are rails and frames bonded, and by a conductor of the pack's size?"""
    if not record.modules:
        return
    bonds = f"{record.rails} rails" if record.rails else "its rails"
    advice = "Through the anodising: a bond on every rail, or clamps that their maker has had listed for it."
    clamps = record.bonded == "by the clamps"
    because: tuple[str, ...] = ()
    if record.bonded is None:
        because = ("how it is bonded is unknown",)
    elif clamps and record.listed is None:
        because = ("no sheet says whether the clamps are listed for bonding",)
    words = {
        None: f"{record.name}: how {bonds} and the frames are bonded isn't known.",
        "every rail": f"{record.name}: {bonds} are bonded one by one.",
        "by the clamps": f"{record.name}: {bonds} and frames are bonded by the clamps"
        + ("." if record.listed else ", which their sheet doesn't list for it."),
        "not bonded": f"{record.name}: {bonds} and frames are not bonded.",
    }[record.bonded]
    yield one_of(
        word=record.bonded,
        bad={
            "not bonded": Verdict.WARNS,
            **({"by the clamps": Verdict.WARNS} if record.listed is False else {}),
        },
        because=because,
        quantity="bonds",
        value=float(record.rails),
        text=words,
        advice=advice,
        **_of(f"{record.name}, rails to bond", "rows x rails of a row"),
    )
    if record.bonded in (None, "not bonded") or record.least_bond is None:
        return
    size, least = record.bond_mm2, record.least_bond
    yield at_least(
        value=size,
        limit=least.value,
        unit="mm²",
        quantity="size",
        because=() if size is not None else ("the bonding conductor is unknown",),
        text=f"{record.name}: bonding conductor {'unknown' if size is None else text_of(size, 'mm²')}; "
        f"at least {text_of(least.value, 'mm²')}.",
        name=f"{record.name}, bonding conductor",
        formula="size",
        source=least.cite(),
        advice="A larger conductor.",
    )
