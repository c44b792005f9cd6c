"""What units are told to do: LIM-MODE, LIM-CHARGE."""

from dataclasses import dataclass

from lodestaff.checks.check import Owned, check
from lodestaff.checks.finding import Finding, Findings, Remedy, Verdict, cure
from lodestaff.checks.makers import at_most, noted, open_
from lodestaff.quantities import Input, Provenance, Source, text_of
from lodestaff.quantities.convention import plain

SETTINGS = Source("the settings of this job", Provenance.JOB)
LEAST = Source("the least of the unit's sheet, the modules and the cable's device", Provenance.SHEET)
METER = Source("how the supply's meter counts its phases", Provenance.COMMON_PRACTICE)


@dataclass(frozen=True)
class Served(Owned):
    """What one unit is told to serve and to let out, and what stands there for it."""

    owner: str
    unit: str
    serves: str
    exports: str
    has_ct: bool
    on_own_port: int
    stores: bool = True  # whether a battery is behind it
    export_kw: float = 1.0  # what the site may let out
    others: tuple[str, ...] = ()  # of the same transformer that are told something else


@check("LIM-MODE", "serves", station="limits", rests_on="the plan of the wiring")
def lim_mode(record: Served) -> Findings:
    """Does what the unit is told to serve agree with the wiring, and with what may go out?"""
    name, serves, path = record.unit, record.serves, f"units/{record.owner}"
    told = f"{name} serves {'the grid as well' if serves == 'grid' else serves}"
    out = _out(record.exports, record.stores)
    verdict, text = Verdict.PASSED, f"{told}; {out} may go out."
    if record.has_ct and record.export_kw <= 0:
        text = f"{told}; the export limit lets nothing out."
    cures: tuple[Remedy, ...] = ()
    if serves == "own port" and record.on_own_port == 0:
        verdict = Verdict.WARNS
        text = f"{told}, and nothing hangs there: it serves nothing."
        cures = cure("Serve the grid as well", f"{path}/serves", "grid")
    elif serves == "up to the CT" and not record.has_ct:
        verdict = Verdict.WARNS
        text = f"{told}, and no transformer is planned that it obeys."
        cures = cure("Serve its own port only", f"{path}/serves", "own port")
    elif serves == "up to the CT" and record.exports != "nothing":
        verdict = Verdict.NOTES
        text = f"{told}: nothing goes out past it, though {out} might."
        cures = (
            *cure("Serve the grid as well", f"{path}/serves", "grid"),
            *cure("Note that nothing goes out", f"{path}/exports", "nothing"),
        )
    elif record.others:
        verdict = Verdict.WARNS
        text = f"{name} and {' and '.join(record.others)} obey one transformer and are told different things."
    yield noted(
        verdict=verdict,
        text=text,
        name=f"What {name} serves",
        formula="what it is told against what hangs on its port and the transformer that it obeys",
        inputs=(
            Input("circuits on its own port", record.on_own_port),
            Input("obeys a transformer", "yes" if record.has_ct else "no"),
            Input("may go out", record.exports),
        ),
        source=SETTINGS,
        cures=cures,
        advice="Choose what the customer was promised, and read it back on the unit.",
    )


def _out(exports: str, stores: bool) -> str:
    """What may go out, in words; who has no battery isn't told of one."""
    if exports == "nothing" or not stores:
        return "nothing" if exports == "nothing" else "its sun"
    return "sun and battery" if exports == "sun and battery" else "sun, never the battery,"


@dataclass(frozen=True)
class Netting:
    """How the meter counts phases, where it may count each or their sum; shares of the load met both ways."""

    summed: bool
    met_pct: float
    otherwise_pct: float | None  # None: not reckoned now
    because: tuple[str, ...]


@check("LIM-MODE", "netting", station="limits", rests_on="the meter")
def lim_netting(record: Netting) -> Findings:
    """Does the meter count each phase, or their sum?"""
    now, other = ("their sum", "each phase") if record.summed else ("each phase", "their sum")
    name = "Met without import, as the meter counts"
    formula = "1 − import / load, import by phase or of the sum"
    inputs: tuple[Input, ...] = ()
    if record.otherwise_pct is not None:
        inputs = (Input(f"if it counts {other}", record.otherwise_pct, "%"),)
    also = (
        "" if record.otherwise_pct is None else f"; {plain(record.otherwise_pct, 1)} % if it counts {other}"
    )
    text = f"The meter counts {now}: {plain(record.met_pct, 1)} % are met without import{also}."
    if not record.because:
        yield noted(
            verdict=Verdict.PASSED,
            value=record.met_pct,
            unit="%",
            text=text,
            name=name,
            formula=formula,
            inputs=inputs,
            source=METER,
        )
        return
    yield open_(
        name=name,
        formula=formula,
        inputs=inputs,
        source=METER,
        value=record.met_pct,
        unit="%",
        text=f"How the meter counts phases isn't known. {text}",
        because=record.because,
        cures=(
            *cure("It counts the sum of its phases", "mains/netting", _read("sum of phases")),
            *cure("It counts each phase", "mains/netting", _read("each phase")),
        ),
        advice="Read the meter's plate, or ask its operator.",
    )


def _read(word: str) -> dict[str, str]:
    return {"value": word, "known": "read on site", "note": "", "date": ""}


@dataclass(frozen=True)
class Modes:
    """What batteries are told by mode and windows, and what stands there for it."""

    mode: str
    has_backup: bool
    peak_kw: float | None
    import_kw: float
    gives: tuple[str, ...]  # windows that give to the grid
    sellers: tuple[str, ...]  # units that may let the battery out
    export_kw: float


@check("LIM-MODE", "modes", station="limits", rests_on="the settings")
def lim_modes(record: Modes) -> Findings:
    """Can the mode and the windows do what they say?"""
    if record.mode == "hold for outages" and not record.has_backup:
        yield _contradiction(
            "mode",
            "Batteries are held for an outage in which nothing lives here: they do nothing.",
            cure("Serve the circuits", "limits/mode", "serve circuits"),
        )
    if record.mode == "shave the peak" and record.peak_kw is not None:
        yield at_most(
            value=record.peak_kw,
            limit=record.import_kw,
            unit="kW",
            worse=Verdict.WARNS,
            text=f"The peak is kept below {text_of(record.peak_kw, 'kW')}; the import limit is "
            f"{text_of(record.import_kw, 'kW')}.",
            name="Peak that batteries keep the import below",
            formula="setting",
            source=SETTINGS,
            quantity="peak",
            advice="A peak above the import limit is never reached.",
        )
    windows = " and ".join(record.gives)
    if record.gives and not record.sellers:
        yield _contradiction(
            "give",
            f"{windows}: the battery is to give to the grid; no unit may let it out.",
            (),
            "Let a unit export sun and battery, where the permission allows it.",
        )
    elif record.gives and record.export_kw <= 0:
        yield _contradiction(
            "give",
            f"{windows}: the battery is to give to the grid; the export limit is 0 kW.",
            (),
            "Ask for the export, or take the window out.",
        )
    if not record.gives and record.mode == "serve circuits":
        yield noted(
            verdict=Verdict.PASSED,
            text="Sun and battery serve the circuits; what is over charges, then "
            + ("goes out." if record.export_kw > 0 else "is lost: nothing may go out."),
            quantity="mode",
            name="Mode",
            formula="setting",
            source=SETTINGS,
        )


def _contradiction(quantity: str, text: str, cures: tuple[Remedy, ...], advice: str = "") -> Finding:
    return noted(
        verdict=Verdict.WARNS,
        text=text,
        quantity=quantity,
        name="Settings against each other",
        formula="settings against the plan",
        source=SETTINGS,
        cures=cures,
        advice=advice or "Change the one or the other.",
    )


@dataclass(frozen=True)
class Powers(Owned):
    """Charge and discharge settings of one bank against the least that everything in its way bears, kW."""

    owner: str
    unit: str
    charge_kw: float
    discharge_kw: float
    bears_charge_kw: float
    bears_discharge_kw: float
    several: bool


@check("LIM-CHARGE", station="limits", rests_on="sheets of unit and battery, the cable's device")
def lim_charge(record: Powers) -> Findings:
    """Are charging and discharging set within what battery, cable and unit bear?"""
    at = f"banks/{record.owner}" if record.several else "limits"
    for word, field, setting, bears in (
        ("Charging", "charge_kw", record.charge_kw, record.bears_charge_kw),
        ("Discharging", "discharge_kw", record.discharge_kw, record.bears_discharge_kw),
    ):
        within = f"{record.unit} with its battery and cable bears {text_of(bears, 'kW')}"
        more = (
            f"; it is told {text_of(bears, 'kW')}" if setting > bears * (1 + 1e-9) and record.several else ""
        )
        yield at_most(
            value=setting,
            limit=bears,
            unit="kW",
            worse=Verdict.NOTES if record.several else Verdict.WARNS,
            text=f"{word} is set to {text_of(setting, 'kW')}; {within}{more}.",
            name=f"{word} power of {record.unit}",
            formula="setting against min(unit, modules x limit, device / margin x lowest volts)",
            source=SETTINGS,
            rests_on=LEAST,
            quantity=field,
            cures=cure(f"Set it to {text_of(bears, 'kW')}", f"{at}/{field}", bears),
            advice="Set it at or below the least of them.",
        )
