"""The earth of an island: WIRE-EARTH."""

from dataclasses import dataclass

from lodestaff.catalogue import Pack
from lodestaff.checks.finding import Finding, Remedy, Verdict, soft
from lodestaff.electrical.earthing import rod_ohm
from lodestaff.job import Site
from lodestaff.quantities import Figure, Input, text_of


@dataclass(frozen=True)
class Electrode:
    """The electrode that the island needs where the transfer opens the neutral."""

    site: Site
    planned: bool
    needed: bool
    limit_name: str
    pack: Pack
    off_grid: bool = False
    cures: tuple[Remedy, ...] = ()


def wire_earth(record: Electrode) -> list[Finding]:
    """Earth electrode where the transfer opens the neutral, or where there is no grid: resistance against the limit."""
    fact, limit = record.site.supply.electrode_ohm, record.pack.value(record.limit_name)
    if not record.needed:
        figure = Figure(
            "Electrode for the island", 0.0, "ohm", "not needed: the neutral isn't switched", (), limit.cite()
        )
        return [
            Finding(
                "WIRE-EARTH", Verdict.PASSED, "The neutral isn't switched: the supply's earth and bond stay.", figure
            )
        ]
    soil = record.pack.value("soil_ohm_m")
    rod = rod_ohm(soil.value, record.pack.value("rod_m").value, record.pack.value("rod_diameter_m").value)
    value = fact.value if fact.value is not None else rod  # until it is measured: one usual rod in usual soil
    figure = Figure(
        "Electrode for the island",
        value,
        "ohm",
        "measured, or the rod formula of BS 7430",
        (
            Input("electrode", fact.value if fact.value is not None else "unknown", "ohm", fact.words()),
            Input("one usual rod by the formula", rod, "ohm", f"{soil.value:g} ohm m, {soil.source}"),
        ),
        limit.cite(),
        "" if record.off_grid else record.pack.caution("tncs"),
    )
    if not record.planned:
        return [
            Finding(
                "WIRE-EARTH",
                Verdict.BLOCKS,
                "There is no grid and no electrode is planned: the site has no earth."
                if record.off_grid
                else "The transfer opens the neutral and no electrode is planned: the island has no earth of its own.",
                figure,
                limit.value,
                None,
                limit.cite(),
                (),
                record.cures,
                "Locate gas, cable and water first.",
            )
        ]
    over = fact.value is not None and fact.value > limit.value
    return [
        Finding(
            "WIRE-EARTH",
            Verdict.WARNS if over else Verdict.PASSED,
            f"The electrode has {text_of(value, 'ohm')} of at most {text_of(limit.value, 'ohm')}.",
            figure,
            limit.value,
            None if fact.value is None else limit.value - fact.value,
            limit.cite(),
            soft(electrode=fact),
            (),
            "Drive a further rod; locate gas, cable and water first.",
        )
    ]
