"""The hours in which batteries are told something, against the tariff and each other: LIM-WINDOW."""

from dataclasses import dataclass

from lodestaff.checks.check import check
from lodestaff.checks.finding import Findings, Remedy, Verdict
from lodestaff.checks.makers import at_most, noted
from lodestaff.quantities import Input, Provenance, Source, text_of
from lodestaff.quantities.convention import plain

BANDS = Source("the tariff's low band, by its own clock", Provenance.JOB)
WINDOWS = Source("the windows of this job, by the device's clock", Provenance.JOB)


@dataclass(frozen=True)
class Hours:
    """Charge windows against the low band over the year: hours outside it, and what that costs."""

    windows: tuple[str, ...]
    window_h: float
    outside_h: float
    device_clock: str
    tariff_clock: str
    cost: float | None  # a year, against windows that follow the tariff's clock; None: not reckoned
    currency: str
    cures: tuple[Remedy, ...] = ()


@check("LIM-WINDOW", "band", station="limits", rests_on="the tariff")
def charge_hours_in_band(record: Hours) -> Findings:
    """Do the charge windows lie in the tariff's low band all year?"""
    outside, mixed = record.outside_h, record.device_clock != record.tariff_clock
    words = f"Charge windows lie {plain(outside, 0)} h a year outside the low band."
    if outside <= 0:
        words = "Charge windows lie in the low band all year."
    elif mixed:
        words += (
            f" The device goes by {_clock(record.device_clock)}, the tariff by {_clock(record.tariff_clock)}."
        )
    if record.cost is not None and record.cost > 0.5:
        words += f" It costs {plain(record.cost, 0)} {record.currency} a year."
    yield at_most(
        value=outside,
        limit=0.0,
        unit="h",
        worse=Verdict.WARNS,
        text=words,
        name="Hours of charge windows outside the low band, a year",
        formula="steps of the year in a charge window and not in the low band",
        inputs=(
            Input("hours in charge windows", record.window_h, "h"),
            Input("the device goes by", _clock(record.device_clock)),
            Input("the tariff goes by", _clock(record.tariff_clock)),
        ),
        source=WINDOWS,
        rests_on=BANDS,
        quantity="band",
        cures=record.cures,
        advice="Let both follow one clock, or set the windows well inside the band.",
    )


def _clock(word: str) -> str:
    return "standard time all year" if word == "standard" else "the household's clock"


@dataclass(frozen=True)
class Overlaps:
    """Windows that tell the same batteries different things at the same time."""

    pairs: tuple[tuple[str, str, float], ...]  # names, and hours a year
    short: tuple[tuple[str, float, float], ...]  # windows whose target lies below the reserve
    reserve_soc: float
    count: int


@check("LIM-WINDOW", "overlaps", station="limits", rests_on="the settings")
def windows_that_fight(record: Overlaps) -> Findings:
    """Do the windows agree with each other and with the reserve?"""
    for first, other, hours in record.pairs:
        yield noted(
            verdict=Verdict.WARNS,
            value=hours,
            unit="h",
            text=f"{first} and {other} run at the same time for {text_of(hours, 'h')} a year; the later in "
            "the list holds.",
            name="Windows that overlap, a year",
            formula="steps of the year in both",
            source=WINDOWS,
            quantity=f"{first}, {other}",
            advice="Part them, so that what the device shows is what it does.",
        )
    for name, target, reserve in record.short:
        yield noted(
            verdict=Verdict.NOTES,
            value=target,
            limit=reserve,
            text=f"{name} has a target of {plain(target * 100, 0)} %, below the reserve of "
            f"{plain(reserve * 100, 0)} %: it does nothing there.",
            name="Target of a window",
            formula="setting",
            source=WINDOWS,
            quantity=name,
            advice="Set the target above the reserve.",
        )
    if not record.pairs and not record.short and record.count:
        yield noted(
            verdict=Verdict.PASSED,
            text="No two windows run at the same time.",
            name="Windows that overlap, a year",
            formula="steps of the year in both",
            source=WINDOWS,
            quantity="overlaps",
        )
