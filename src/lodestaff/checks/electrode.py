"""The earth of an island: WIRE-EARTH."""

from dataclasses import dataclass

from lodestaff.catalogue import Pack
from lodestaff.checks.check import check
from lodestaff.checks.finding import Findings, Remedy, Verdict, soft
from lodestaff.checks.makers import Words, at_most, noted, open_
from lodestaff.checks.site import read
from lodestaff.electrical.earthing import rod_ohm
from lodestaff.job import Site
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
