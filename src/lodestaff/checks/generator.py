"""A generator that starts by itself: LIM-GEN."""

from dataclasses import dataclass

from lodestaff.checks.check import Owned, check
from lodestaff.checks.finding import Findings, Verdict, cure
from lodestaff.checks.makers import at_least, at_most, noted, open_
from lodestaff.quantities import Input, Provenance, Source, text_of
from lodestaff.quantities.convention import plain

SETTINGS = Source("the generator's settings", Provenance.JOB)
USUAL = Source("twenty points between start and stop, half an hour a run", Provenance.COMMON_PRACTICE)
YEAR = Source("simulated year", Provenance.DERIVED)
MAKER = Source("the generator's sheet", Provenance.SHEET)
ROOM = Source("rating x power factor x usable share − circuits' mean power", Provenance.DERIVED)
LEAST_GAP, LEAST_RUN_H = 0.2, 0.5


@dataclass(frozen=True)
class Starting(Owned):
    """A generator, what starts it ("": a person), and the charges that start and stop it.

    By volts these are the charges at which its battery has them, with the mean load and while it is charged;
    None where it never has.
    """

    owner: str
    name: str
    started_by: str
    start_soc: float | None
    stop_soc: float | None
    floor_soc: float
    by_volts: bool = False
    start_v: float | None = None  # by volts, where it starts by them
    stop_v: float | None = None
    told: bool = True  # whether the battery's sheet says what volts a charge and a load make
    delay_min: float = 0.0
    load_kw: float = 0.0  # of the battery, DC, while it starts
    charging_kw: float = 0.0  # into it, DC, while it stops


@check("LIM-GEN", "start and stop", station="limits", rests_on="settings")
def lim_gen(record: Starting) -> Findings:
    """Do the charges that start and stop the generator lie in order, far enough apart?"""
    if not record.started_by:
        yield noted(
            text=f"No unit starts {record.name}: a person does, and no year reckons with it.",
            name=f"Start of {record.name}",
            formula="the plan",
            source=SETTINGS,
            quantity="by hand",
        )
        return
    if record.by_volts and (not record.told or record.start_v is None or record.stop_v is None):
        at = "unknown volts" if record.start_v is None else text_of(record.start_v, "V", 1)
        yield open_(
            text=f"{record.name} starts after {plain(record.delay_min, 0)} min at {at}: when that is "
            "isn't reckoned, and no year has it.",
            name=f"Start of {record.name}",
            formula="volts over charge and load",
            source=SETTINGS,
            because=("the volts that start and stop it aren't both told",)
            if record.told
            else ("no sheet says what volts a charge and a load make",),
            quantity="by volts",
            cures=cure("Start it by the charge", f"parts/{record.owner}/start_by", "charge"),
            advice="Start it by the charge, or follow its maker's table.",
        )
        return
    path = f"parts/{record.owner}"
    if record.start_soc is None or record.stop_soc is None:
        never, volts = ("start", record.start_v) if record.start_soc is None else ("stop", record.stop_v)
        yield noted(
            verdict=Verdict.BLOCKS,
            text=f"{record.name} would never {never}: its battery doesn't come to "
            f"{text_of(volts or 0, 'V', 1)}"
            + (" before it is empty." if never == "start" else " while it is charged."),
            name=f"Volts that {never} {record.name}",
            formula="volts at rest ± current x resistance, over all charges",
            inputs=(Input("load", record.load_kw, "kW"), Input("charging", record.charging_kw, "kW")),
            source=SETTINGS,
            quantity="never",
            cures=cure("Start it by the charge", f"{path}/start_by", "charge"),
            advice="Choose volts that the battery's curve passes, or start it by the charge.",
        )
        return
    gap = record.stop_soc - record.start_soc
    starts, stops = (f"{plain(soc * 100, 0)} %" for soc in (record.start_soc, record.stop_soc))
    by_charge = not record.by_volts
    if record.by_volts:
        starts = f"{text_of(record.start_v or 0, 'V', 1)}, so {starts} with {text_of(record.load_kw, 'kW')},"
        stops = f"{text_of(record.stop_v or 0, 'V', 1)}, so {stops} with {text_of(record.charging_kw, 'kW')}"
    yield at_least(
        value=gap * 100,
        limit=LEAST_GAP * 100,
        unit="%",
        worse=Verdict.BLOCKS if gap <= 0 else Verdict.WARNS,
        text=f"{record.name} starts at {starts} and stops at {stops}.",
        name="Between start and stop",
        formula="stop − start",
        source=SETTINGS,
        rests_on=USUAL,
        quantity="gap",
        cures=cure("Stop at 80 %", f"{path}/stop_soc", 0.8) if by_charge and record.start_soc <= 0.6 else (),
        advice="Part them, so that it doesn't start again and again.",
    )
    yield at_least(
        value=record.start_soc * 100,
        limit=record.floor_soc * 100,
        unit="%",
        kept=record.start_soc > record.floor_soc + 0.02,
        text=f"It starts at {starts.rstrip(',')}; the battery's floor is "
        f"{plain(record.floor_soc * 100, 0)} %.",
        name="Charge that starts it, above the floor",
        formula="start against the battery's floor",
        source=SETTINGS,
        rests_on=MAKER,
        quantity="start",
        cures=cure("Start at 30 %", f"{path}/start_soc", 0.3) if by_charge else (),
        advice="Start it while the battery can still carry the start and the load.",
    )


@dataclass(frozen=True)
class Shared(Owned):
    """What a generator leaves for the chargers that take of it, kW."""

    owner: str
    name: str
    usable_kw: float
    mean_load_kw: float
    chargers: tuple[tuple[str, float], ...]  # units, and what each takes for its battery, kW


@check("LIM-GEN", "chargers", station="limits", rests_on="the generator's sheet")
def lim_gen_chargers(record: Shared) -> Findings:
    """Does the generator carry the circuits and all chargers together?"""
    room, asked = max(0.0, record.usable_kw - record.mean_load_kw), sum(kw for _, kw in record.chargers)
    each = tuple((name, room * kw / asked if asked > room else kw) for name, kw in record.chargers)
    said = ", ".join(f"{name} {text_of(kw, 'kW')}" for name, kw in each)
    yield at_most(
        value=asked,
        limit=room,
        unit="kW",
        worse=Verdict.NOTES,
        text=f"{record.name}: chargers would take {text_of(asked, 'kW')}; beside the circuits' mean of "
        f"{text_of(record.mean_load_kw, 'kW')} it leaves {text_of(room, 'kW')}: {said}.",
        name=f"Chargers on {record.name}",
        formula="sum of chargers against usable power − circuits; shares in proportion",
        inputs=tuple(Input(name, kw, "kW") for name, kw in record.chargers),
        source=SETTINGS,
        rests_on=ROOM,
        advice="Set each charger to its share, rounded down to whole amperes.",
        cures=cure(
            f"Each charger takes {text_of(room / max(1, len(each)), 'kW')} of it",
            f"parts/{record.owner}/charger_kw",
            round(room / max(1, len(each)), 2),
        )
        if room > 0.1
        else (),
    )


@dataclass(frozen=True)
class Running(Owned):
    """A generator's simulated year."""

    owner: str
    hours: float
    starts: int
    kwh: float
    litres: float | None
    least_share: float | None
    rated_kw: float


@check("LIM-GEN", "run", station="limits", rests_on="simulated year, the generator's sheet")
def lim_gen_run(record: Running) -> Findings:
    """Does it run long enough at a time, with enough load on it?"""
    mean = record.hours / record.starts
    many = "s" if record.starts != 1 else ""
    fuel = f", {plain(record.litres, 0)} l" if record.litres is not None else ", fuel unknown"
    yield at_least(
        value=mean,
        limit=LEAST_RUN_H,
        unit="h",
        worse=Verdict.WARNS,
        text=f"{plain(record.starts, 0)} start{many} a year, {plain(record.hours, 0)} h in all, "
        f"{text_of(mean, 'h')} each{fuel}.",
        name="Hours of a run",
        formula="hours / starts of the simulated year",
        source=YEAR,
        rests_on=USUAL,
        quantity="run",
        advice="Stop it later, or start it earlier.",
    )
    load = record.kwh / record.hours / record.rated_kw
    yield at_least(
        value=load * 100,
        limit=None if record.least_share is None else record.least_share * 100,
        unit="%",
        worse=Verdict.WARNS,
        text=f"It runs at {plain(load * 100, 0)} % of its rating on the mean.",
        name="Load of the generator",
        formula="energy / hours / rating",
        source=YEAR,
        rests_on=MAKER,
        quantity="load",
        because=("the least load isn't known",) if record.least_share is None else (),
        advice="Let the chargers take more of it, or take a smaller one: a diesel at low load wears.",
    )
