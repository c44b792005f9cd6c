"""What years and places do to a battery: STO-LIFE, STO-TEMP."""

from dataclasses import dataclass

from lodestaff.checks.check import Owned, check
from lodestaff.checks.finding import Findings, Verdict
from lodestaff.checks.makers import at_least, at_most
from lodestaff.quantities import Input, Provenance, Source, text_of
from lodestaff.quantities.convention import plain

WARRANTY = Source("the battery's warranty", Provenance.SHEET)
YEAR = Source("simulated year", Provenance.DERIVED)
SHEET = Source("the battery's sheet", Provenance.SHEET)
PLACE = Source("the range of the place as typed", Provenance.JOB)


@dataclass(frozen=True)
class Life(Owned):
    """Cycles and energy out of a bank in a year, against its warranty's terms (None: the sheet is silent)."""

    owner: str
    name: str
    cycles_year: float
    mwh_year: float
    warranty_cycles: float | None
    warranty_mwh: float | None
    warranty_years: float | None


@check("STO-LIFE", station="storage", rests_on="the battery's warranty")
def sto_life(record: Life) -> Findings:
    """Do cycles and energy of its years stay within the warranty?"""
    years, cycles = record.warranty_years, record.warranty_cycles
    silent = (
        ()
        if years is not None and cycles is not None
        else ("the sheet gives no warranty in cycles and years",)
    )
    used = record.cycles_year * (years or 10.0)
    yield at_most(
        value=used,
        limit=cycles,
        worse=Verdict.WARNS,
        text=f"{record.name}: {plain(record.cycles_year, 0)} cycles a year, {plain(used, 0)} in "
        f"{plain(years or 10.0, 0)} years" + (f"; warranted are {plain(cycles, 0)}." if cycles else "."),
        name=f"Cycles of {record.name} within its warranty",
        formula="cycles of the simulated year x years",
        inputs=(
            Input("a year", record.cycles_year),
            Input("years", years if years is not None else "10, assumed"),
        ),
        source=YEAR,
        rests_on=WARRANTY,
        because=silent,
        quantity="cycles",
        advice="Cycle it less, or take more modules.",
    )
    if record.warranty_mwh is not None:
        through = record.mwh_year * (years or 10.0)
        yield at_most(
            value=through,
            limit=record.warranty_mwh,
            unit="MWh",
            worse=Verdict.WARNS,
            text=f"{record.name} gives {plain(through, 1)} MWh in {plain(years or 10.0, 0)} years; "
            f"warranted are {plain(record.warranty_mwh, 1)} MWh.",
            name=f"Energy of {record.name} within its warranty",
            formula="energy out of the simulated year x years",
            source=YEAR,
            rests_on=WARRANTY,
            because=silent if years is None else (),
            quantity="energy",
            advice="Cycle it less, or take more modules.",
        )


@dataclass(frozen=True)
class Warmth(Owned):
    """The range of a bank's place over the year, against what its sheet takes, °C (None: unknown)."""

    owner: str
    name: str
    low_c: float | None
    high_c: float | None
    charge_from_c: float | None
    works_to_c: float | None
    because: tuple[str, ...]


@check("STO-TEMP", station="storage", rests_on="the battery's sheet")
def sto_temp(record: Warmth) -> Findings:
    """Does its place stay within what the battery takes, charging in the cold above all?"""
    low = "unknown" if record.low_c is None else text_of(record.low_c, "°C")
    least = "an unknown temperature" if record.charge_from_c is None else text_of(record.charge_from_c, "°C")
    high = "unknown" if record.high_c is None else text_of(record.high_c, "°C")
    yield at_least(
        value=record.low_c,
        limit=record.charge_from_c,
        unit="°C",
        worse=Verdict.WARNS,
        text=f"{record.name}: the coldest of its place is {low}; it charges from {least} on.",
        name=f"Coldest place of {record.name}",
        formula="lowest of the year at its place",
        source=PLACE,
        rests_on=SHEET,
        because=record.because,
        quantity="cold",
        advice="A warmer place, or a battery with a heater: cells that charge below freezing are damaged.",
    )
    yield at_most(
        value=record.high_c,
        limit=record.works_to_c,
        unit="°C",
        worse=Verdict.WARNS,
        text=f"{record.name}: the hottest of its place is {high}; it works up to "
        f"{'an unknown temperature' if record.works_to_c is None else text_of(record.works_to_c, '°C')}.",
        name=f"Hottest place of {record.name}",
        formula="highest of the year at its place",
        source=PLACE,
        rests_on=SHEET,
        because=record.because,
        quantity="heat",
        advice="Out of the sun and away from heat; it gives less power when hot.",
    )
