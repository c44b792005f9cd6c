"""The earth of an island: WIRE-EARTH."""

from dataclasses import dataclass
from typing import Any

from lodestaff.catalogue import Pack
from lodestaff.checks.check import check
from lodestaff.checks.finding import Findings, Remedy, Verdict, soft
from lodestaff.checks.makers import Words, at_most, noted, open_
from lodestaff.checks.site import read
from lodestaff.electrical.earthing import rod_ohm
from lodestaff.job import Fact, Site
from lodestaff.quantities import Input, text_of
from lodestaff.quantities.convention import plain


@dataclass(frozen=True)
class Electrode:
    """The electrode that the island needs where the transfer opens the neutral."""

    site: Site
    planned: bool
    needed: bool
    pack: Pack
    off_grid: bool = False
    cures: tuple[Remedy, ...] = ()


@check("WIRE-EARTH", station="wire", rests_on="pack")
def wire_earth(record: Electrode) -> Findings:
    """Has the island an earth of its own?"""
    fact, pack = record.site.supply.electrode_ohm, record.pack
    limit, name = pack.value("island_electrode_max_ohm"), "Electrode for the island"
    if not record.needed:
        yield noted(
            verdict=Verdict.PASSED,
            text="The neutral isn't switched: the supply's earth and bond stay.",
            value=0.0,
            unit="ohm",
            name=name,
            formula="not needed: the neutral isn't switched",
            source=limit.cite(),
        )
        return
    soil = pack.value("soil_ohm_m")
    rod = rod_ohm(soil.value, pack.value("rod_m").value, pack.value("rod_diameter_m").value)
    value = fact.value if fact.value is not None else rod  # until it is measured: one usual rod in usual soil
    figure = Words(
        name=name,
        formula="measured, or the rod formula of BS 7430",
        source=limit.cite(),
        inputs=(
            read("electrode", fact, "ohm"),
            Input("one usual rod by the formula", rod, "ohm", f"{plain(soil.value)} ohm m, {soil.source}"),
        ),
        note="" if record.off_grid else pack.caution("tncs"),
    )
    if not record.planned:
        why = (
            "The transfer opens the neutral and no electrode is planned: the island has no earth of its own."
        )
        if record.off_grid:
            why = "There is no grid and no electrode is planned: the site has no earth."
        yield noted(
            verdict=Verdict.BLOCKS,
            text=why,
            value=value,
            unit="ohm",
            limit=limit.value,
            **figure,
            cures=record.cures,
            advice="Locate gas, cable and water first.",
        )
        return
    text = f"The electrode has {text_of(value, 'ohm')} of at most {text_of(limit.value, 'ohm')}."
    advice = "Drive a further rod; locate gas, cable and water first."
    if fact.value is None:
        yield open_(
            verdict=Verdict.PASSED,
            text=text,
            because=soft(electrode=fact),
            value=value,
            unit="ohm",
            limit=limit.value,
            **figure,
            advice=advice,
        )
        return
    yield at_most(
        value=value,
        limit=limit.value,
        unit="ohm",
        worse=Verdict.WARNS,
        text=text,
        **figure,
        because=soft(electrode=fact),
        advice=advice,
    )


@dataclass(frozen=True)
class BuildingEarth:
    """A further building with a board of its own: its electrode, and whether a residual-current device stands
    ahead."""

    id: str
    name: str
    building: str
    pack: Pack
    earthing: Fact[Any]
    electrode: str  # '' where none is planned there
    ohm: Fact[Any]
    guarded: bool
    cures: tuple[Remedy, ...] = ()


@check("WIRE-EARTH", "building", station="wire", rests_on="pack")
def building_earth(record: BuildingEarth) -> Findings:
    """Has every further building an earth that may be used there?"""
    needed = record.pack.values.get("building_electrode_needed")
    most = record.pack.value("island_electrode_max_ohm")
    figure = Words(
        name=f"Earth of the {record.building}",
        formula="an electrode of its own, or the supply's earth, examined",
        source=(needed or most).cite(),
        inputs=(
            Input("electrode", record.electrode or "none"),
            Input("resistance", record.ohm.value if record.ohm.value is not None else "unknown", "ohm"),
            Input("supply", record.earthing.value or "unknown", "", record.earthing.words()),
        ),
    )
    if record.electrode:
        value = record.ohm.value
        has = text_of(value, "ohm") if value is not None else "a resistance that was not measured"
        yield at_most(
            value=value,
            limit=most.value,
            unit="ohm",
            worse=Verdict.WARNS,
            text=f"{record.name}: its electrode has {has}; at most {text_of(most.value, 'ohm')}.",
            **figure,
            because=soft(electrode=record.ohm),
            advice="Measure it; a further rod where it is too high. Locate gas, cable and water first.",
        )
        apart = record.pack.values.get("building_electrode_apart")
        if apart is not None and apart.value and not record.guarded:
            yield noted(
                verdict=Verdict.WARNS,
                text=f"{record.name}: an electrode of its own and no residual-current device ahead: a "
                "fault there trips nothing.",
                **figure,
                quantity="device",
                advice="A residual-current device at the head of its feed or of its board.",
            )
        return
    if needed is not None and needed.value:
        yield noted(
            verdict=Verdict.BLOCKS,
            text=f"{record.name}: the {record.building} has no electrode of its own.",
            **figure,
            cures=record.cures,
            advice="Plan one; locate gas, cable and water first.",
        )
        return
    exported = record.earthing.value in ("TN-C-S", "TN-C", "MEN")
    yield open_(
        verdict=Verdict.WARNS if exported else Verdict.NOTES,
        text=f"{record.name}: the supply's earth ({record.earthing.value or 'unknown'}) is taken to the "
        f"{record.building}; whether it may be is not examined.",
        because=("the earth of the further building is undecided",),
        **figure,
        cures=record.cures,
        advice=record.pack.caution("tncs")
        + " An electrode of its own with a residual-current device, or the supply's earth with main "
        "bonding there.",
    )
