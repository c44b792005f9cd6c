"""What the unit can hold: LOAD-CONT, LOAD-SURGE, LOAD-ENERGY, LOAD-LOCK, LOAD-CARE."""

from dataclasses import dataclass

from lodestaff.catalogue import PackValue
from lodestaff.checks.check import check
from lodestaff.checks.finding import Findings, Remedy, Verdict, cure
from lodestaff.checks.makers import at_most, noted
from lodestaff.electrical.split import Running, Totals, totals
from lodestaff.energy.calendar import MONTH_NAMES
from lodestaff.energy.night import LATE_AFTERNOON_H, Night
from lodestaff.job import Circuit, Role
from lodestaff.quantities import Input, Provenance, Source, text_of
from lodestaff.quantities.convention import plain

SHEET = Source("the unit's sheet", Provenance.SHEET)
LARGEST_MOTOR = Source(
    "largest-motor rule: others running and the largest start on top", Provenance.COMMON_PRACTICE
)
STORE = Source("capacity x (top − reserve) x efficiency", Provenance.DERIVED)
COMPLAINT = Source(
    "a battery that empties itself into the car is a standing complaint", Provenance.COMMON_PRACTICE
)
LIFE = Source("life-safety and medical supplies have standards of their own", Provenance.COMMON_PRACTICE)


def move(circuit: Circuit, role: Role) -> Remedy:
    return cure(f"Move {circuit.name} to {role}", f"circuits/{circuit.id}/role", str(role))[0]


@dataclass(frozen=True)
class HeldLoad:
    """The held circuits of one island against the ratings of its units, derated to `rated_share`."""

    unit: str
    phase: str
    circuits: tuple[Circuit, ...]
    rated_kw: float
    rated_kva: float
    surge_kva: float
    surge_s: float
    rated_share: float
    derating_words: str
    continuous_margin: PackValue
    surge_margin: PackValue
    soft_facts: tuple[str, ...]
    owner: str = ""

    def running(self) -> Totals:
        return totals(
            tuple(
                Running(c.name, c.running_w / 1000, c.power_factor, c.start_kva, c.start_s)
                for c in self.circuits
            )
        )


def _listed(circuits: tuple[Circuit, ...]) -> tuple[Input, ...]:
    return tuple(
        Input(c.name, c.running_w / 1000, "kW", f"pf {plain(c.power_factor)}, {c.known.words()}")
        for c in circuits
    )


@check("LOAD-CONT", "held", station="loads", rests_on="unit's sheet, derated")
def load_cont(record: HeldLoad) -> Findings:
    """Can the unit carry all backed-up circuits at once, in kW and kVA, on each phase?"""
    held = record.running()
    pairs = (
        (held.kw, record.rated_kw * record.rated_share, "kW"),
        (held.kva, record.rated_kva * record.rated_share, "kVA"),
    )
    value, limit, unit = max(pairs, key=lambda pair: pair[0] / max(pair[1], 1e-9))
    share = Input("share of the rating left", record.rated_share, "", record.derating_words)
    yield at_most(
        value=value,
        limit=limit,
        unit=unit,
        near=limit * (1 - record.continuous_margin.value),
        text=f"The backed-up circuits draw {text_of(value, unit)} together; the unit gives "
        f"{text_of(limit, unit)} on {record.phase}.",
        name=f"Backed-up load on {record.unit}, {record.phase}",
        formula="sum of running power" if unit == "kW" else "sqrt(sum P² + sum Q²)",
        inputs=(*_listed(record.circuits), share),
        source=SHEET,
        because=record.soft_facts,
        note="In an outage all of them may run together; the grid is not there to cover a peak.",
        cures=lambda: _largest_out(record.circuits, value - limit),
        advice="Take a circuit off the essential board, or shed it first.",
        subjects=tuple(c.id for c in record.circuits),
    )


def _largest_out(circuits: tuple[Circuit, ...], over_kw: float) -> tuple[Remedy, ...]:
    """Move the smallest circuit that alone cures it; else the largest; those that must stay on are left."""
    free = [c for c in circuits if not c.wish and c.care == "none"]
    if not free:
        return ()
    enough = [c for c in free if c.running_w / 1000 >= over_kw]
    chosen = min(enough, key=lambda c: c.running_w) if enough else max(free, key=lambda c: c.running_w)
    return (move(chosen, Role.SHED),)


@check("LOAD-SURGE", "start", station="loads", rests_on="unit's sheet")
def load_surge(record: HeldLoad) -> Findings:
    """Can it carry the worst start on top of the others, for as long as the start lasts?"""
    held, limit = record.running(), record.surge_kva
    named, long = held.worst_name or "no start", held.worst_s > record.surge_s
    text = f"{named} on top of the others needs {text_of(held.worst_kva, 'kVA')} of {text_of(limit, 'kVA')}"
    text += f" for {plain(held.worst_s)} s." if held.worst_s else "."
    if long:
        text += f" The unit gives its surge for {plain(record.surge_s)} s only."
    starter = next((c for c in record.circuits if c.name == held.worst_name), None)
    step = Input(named, held.worst_step_kva, "kVA", "start less running")
    made = at_most(
        value=held.worst_kva,
        limit=limit,
        unit="kVA",
        near=limit * (1 - record.surge_margin.value),
        text=text,
        kept=False if long else None,
        name=f"Worst start on {record.unit}, {record.phase}",
        formula="sum of running kVA + max(start − running)",
        source=LARGEST_MOTOR,
        rests_on=SHEET,
        inputs=(Input("running together", held.running_kva_sum, "kVA"), step),
        because=record.soft_facts,
        cures=lambda: _soften(starter) if starter is not None else (),
        advice="Fit a soft starter, or move the motor.",
        subjects=(starter.id,) if starter else (),
    )
    yield made


def _soften(circuit: Circuit) -> tuple[Remedy, ...]:
    away = move(circuit, Role.GRID)
    if circuit.soft_start_multiple is not None or circuit.start_multiple <= 2.5:
        return (away,)
    starter = cure(f"Soft starter on {circuit.name}", f"circuits/{circuit.id}/soft_start_multiple", 2.5)
    return starter if circuit.wish else (*starter, away)


@dataclass(frozen=True)
class HeldEnergy:
    """The night of an island's held circuits against what its battery has above the reserve, without sun."""

    owner: str
    night: Night
    capacity_kwh: float
    reserve_soc: float
    top_soc: float
    largest: Circuit | None
    soft_facts: tuple[str, ...]
    above: str = "reserve"


@check("LOAD-ENERGY", station="loads", rests_on="battery's sheet and reserve")
def load_energy(record: HeldEnergy) -> Findings:
    """Does the battery above its reserve carry the backed-up circuits through the worst month's night?"""
    largest, night = record.largest, record.night
    needed, usable, month = night.needed_kwh, night.usable_kwh, MONTH_NAMES[night.month]
    yield at_most(
        value=needed,
        limit=usable,
        unit="kWh",
        worse=Verdict.WARNS,
        text=f"From late afternoon {text_of(night.hours, 'h')} of backed-up load take "
        f"{text_of(needed, 'kWh')} in {month}; {text_of(usable, 'kWh')} stand above the {record.above}.",
        name=f"Night energy of the backed-up circuits, {month}",
        formula=f"sum of backed-up load and own use over {plain(night.hours)} h from "
        f"{plain(LATE_AFTERNOON_H)}:00, {plain(night.percentile)} of 100 nights need less",
        inputs=(
            Input("capacity", record.capacity_kwh, "kWh"),
            Input("top", record.top_soc * 100, "%"),
            Input("reserve", record.reserve_soc * 100, "%"),
            Input("left after discharge and inverter losses", night.discharge_share, ""),
        ),
        source=STORE,
        because=record.soft_facts,
        cures=(move(largest, Role.SHED),) if largest else (),
        advice="Back up less, lower the reserve, or add a battery module.",
    )


@dataclass(frozen=True)
class LockOut:
    """Circuits that should not run on the battery without a stated wish."""

    circuits: tuple[Circuit, ...]


@check("LOAD-LOCK", "held", station="loads", rests_on="common practice")
def load_lock(record: LockOut) -> Findings:
    """Is a car charger or heater backed up without a stated wish?"""
    running = [c for c in record.circuits if _runs_it_down(c)]
    for c in running:
        banned = c.kind == "car charger" or c.on_battery == "never on the battery"
        verdict = Verdict.BLOCKS if banned else Verdict.WARNS
        undecided = c.on_battery == "not decided"
        said = "" if undecided else f"; the customer's choice is: {c.on_battery}"
        yield noted(
            verdict=Verdict.NOTES if c.on_battery == "on the battery" else verdict,
            value=c.running_w / 1000,
            unit="kW",
            text=f"{c.name} ({text_of(c.running_w / 1000, 'kW')}) would run from the battery in an "
            f"outage{said}{f'; noted: {c.wish}.' if c.wish else '.'}",
            name=c.name,
            formula="running power",
            inputs=_listed((c,)),
            source=COMPLAINT,
            cures=(move(c, Role.LOCKED), *(_chosen(c) if undecided else ())),
            advice="Lock it out, or record the customer's choice.",
            subjects=(c.id,),
        )
    if not running:
        yield noted(
            verdict=Verdict.PASSED,
            text="No charger or heater is backed up without a lock-out.",
            value=sum(c.role is Role.LOCKED for c in record.circuits),
            name="Circuits locked out in an outage",
            formula="count",
            source=COMPLAINT,
        )


def _runs_it_down(c: Circuit) -> bool:
    """Whether an outage would empty the battery into it."""
    never = c.on_battery == "never on the battery"
    if c.role is Role.SHED and c.kind == "heating" and not never:
        return False
    return (c.kind in ("car charger", "heating") or never) and c.role in (Role.HELD, Role.SHED)


def _chosen(c: Circuit) -> tuple[Remedy, ...]:
    words = f"Note that the customer wants {c.name} on the battery"
    return cure(words, f"circuits/{c.id}/on_battery", "on the battery")


@dataclass(frozen=True)
class Care:
    """Circuits that somebody's life or treatment hangs on."""

    circuits: tuple[Circuit, ...]
    caution: str


@check("LOAD-CARE", station="loads", rests_on="common practice")
def load_care(record: Care) -> Findings:
    """Does treatment or life hang on a circuit?"""
    for c in record.circuits:
        if c.care == "none":
            continue
        held = c.role is Role.HELD
        text = f"{c.name} ({c.care}): {record.caution[0].lower() + record.caution[1:]}"
        yield noted(
            verdict=Verdict.NOTES if held else Verdict.WARNS,
            value=c.running_w / 1000,
            unit="kW",
            text=text if held else f"{c.name} ({c.care}) is not backed up. {record.caution}",
            name=c.name,
            formula="running power",
            inputs=_listed((c,)),
            source=LIFE,
            cures=() if held else (move(c, Role.HELD),),
            advice="Plan a ride-through supply of its own for it.",
            subjects=(c.id,),
        )
