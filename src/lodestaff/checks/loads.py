"""What the unit can hold: LOAD-CONT, LOAD-SURGE, LOAD-ENERGY, LOAD-LOCK, LOAD-CARE."""

from dataclasses import dataclass

from lodestaff.catalogue import PackValue
from lodestaff.checks.finding import Finding, Remedy, Verdict
from lodestaff.electrical.split import Running, Totals, totals
from lodestaff.job import Change, Circuit, Role
from lodestaff.quantities import Figure, Input, Provenance, Source, text_of

SHEET = Source("the unit's sheet", Provenance.SHEET)
LARGEST_MOTOR = Source("largest-motor rule: others running and the largest start on top", Provenance.COMMON_PRACTICE)


def move(circuit: Circuit, role: Role) -> Remedy:
    return Remedy(f"Move {circuit.name} to {role}", (Change(f"circuits/{circuit.id}/role", str(role)),))


@dataclass(frozen=True)
class HeldLoad:
    """The held circuits of one unit against its ratings, derated to `rated_share`."""

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
            tuple(Running(c.name, c.running_w / 1000, c.power_factor, c.start_kva, c.start_s) for c in self.circuits)
        )


def _graded(value: float, limit: float, margin_share: float) -> Verdict:
    if value > limit * (1 + 1e-9):
        return Verdict.BLOCKS
    return Verdict.WARNS if value > limit * (1 - margin_share) else Verdict.PASSED


def _listed(circuits: tuple[Circuit, ...]) -> tuple[Input, ...]:
    return tuple(Input(c.name, c.running_w / 1000, "kW", f"pf {c.power_factor:g}, {c.known.words()}") for c in circuits)


def load_cont(record: HeldLoad) -> list[Finding]:
    """Continuous held load, kW and kVA, against the continuous rating, derated."""
    held = record.running()
    pairs = (
        (held.kw, record.rated_kw * record.rated_share, "kW"),
        (held.kva, record.rated_kva * record.rated_share, "kVA"),
    )
    value, limit, unit = max(pairs, key=lambda pair: pair[0] / max(pair[1], 1e-9))
    figure = Figure(
        f"Held load on {record.unit}, {record.phase}",
        value,
        unit,
        "sum of running power" if unit == "kW" else "sqrt(sum P² + sum Q²)",
        (*_listed(record.circuits), Input("share of the rating left", record.rated_share, "", record.derating_words)),
        SHEET,
        "In an outage all of them may run together; the grid is not there to cover a peak.",
    )
    verdict = _graded(value, limit, record.continuous_margin.value)
    return [
        Finding(
            "LOAD-CONT",
            verdict,
            f"The held circuits draw {text_of(value, unit)} together; the unit gives {text_of(limit, unit)} on {record.phase}.",
            figure,
            limit,
            limit - value,
            SHEET,
            record.soft_facts,
            _largest_out(record.circuits, value - limit) if verdict is not Verdict.PASSED else (),
            "Take a circuit off the essential board, or shed it first.",
            tuple(c.id for c in record.circuits),
        )
    ]


def _largest_out(circuits: tuple[Circuit, ...], over_kw: float) -> tuple[Remedy, ...]:
    """Move the smallest circuit that alone cures it; else the largest; those that must stay on are left."""
    free = [c for c in circuits if not c.wish and c.care == "none"]
    if not free:
        return ()
    enough = [c for c in free if c.running_w / 1000 >= over_kw]
    chosen = min(enough, key=lambda c: c.running_w) if enough else max(free, key=lambda c: c.running_w)
    return (move(chosen, Role.SHED),)


def load_surge(record: HeldLoad) -> list[Finding]:
    """The worst single start on top of the others, and its duration."""
    held = record.running()
    limit = record.surge_kva
    named = held.worst_name or "no start"
    figure = Figure(
        f"Worst start on {record.unit}, {record.phase}",
        held.worst_kva,
        "kVA",
        "sum of running kVA + max(start − running)",
        (
            Input("running together", held.running_kva_sum, "kVA"),
            Input(named, held.worst_step_kva, "kVA", "start less running"),
        ),
        LARGEST_MOTOR,
    )
    verdict = _graded(held.worst_kva, limit, record.surge_margin.value)
    long = held.worst_s > record.surge_s
    text = f"{named} on top of the others needs {text_of(held.worst_kva, 'kVA')} of {text_of(limit, 'kVA')}"
    text += f" for {held.worst_s:g} s." if held.worst_s else "."
    if long:
        verdict, text = Verdict.BLOCKS, text + f" The unit gives its surge for {record.surge_s:g} s only."
    starter = next((c for c in record.circuits if c.name == held.worst_name), None)
    remedies = _soften(starter) if starter is not None and verdict is not Verdict.PASSED else ()
    return [
        Finding(
            "LOAD-SURGE",
            verdict,
            text,
            figure,
            limit,
            limit - held.worst_kva,
            SHEET,
            record.soft_facts,
            remedies,
            "Fit a soft starter, or move the motor.",
            (starter.id,) if starter else (),
        )
    ]


def _soften(circuit: Circuit) -> tuple[Remedy, ...]:
    away = move(circuit, Role.GRID)
    if circuit.soft_start_multiple is not None or circuit.start_multiple <= 2.5:
        return (away,)
    starter = Remedy(f"Soft starter on {circuit.name}", (Change(f"circuits/{circuit.id}/soft_start_multiple", 2.5),))
    return (starter,) if circuit.wish else (starter, away)


@dataclass(frozen=True)
class HeldEnergy:
    """Energy of the held circuits over the wanted hours from late afternoon, by month, without sun."""

    unit: str
    hours: float
    start_hour: float
    needed_kwh: float
    month: str
    usable_kwh: float
    capacity_kwh: float
    reserve_soc: float
    top_soc: float
    discharge_share: float
    largest: Circuit | None
    percentile: float
    soft_facts: tuple[str, ...]
    above: str = "reserve"
    owner: str = ""


def load_energy(record: HeldEnergy) -> list[Finding]:
    """Energy of the held circuits for the wanted hours, worst month, against usable energy above the reserve."""
    figure = Figure(
        f"Night energy of the held circuits, {record.month}",
        record.needed_kwh,
        "kWh",
        f"sum of held load and own use over {record.hours:g} h from {record.start_hour:g}:00, "
        f"{record.percentile:g} of 100 nights need less",
        (
            Input("capacity", record.capacity_kwh, "kWh"),
            Input("top", record.top_soc * 100, "%"),
            Input("reserve", record.reserve_soc * 100, "%"),
            Input("left after discharge and inverter losses", record.discharge_share, ""),
        ),
        Source("capacity x (top − reserve) x efficiency", Provenance.DERIVED),
    )
    fits = record.needed_kwh <= record.usable_kwh
    remedies = (move(record.largest, Role.SHED),) if record.largest and not fits else ()
    text = (
        f"From late afternoon {text_of(record.hours, 'h')} of held load take {text_of(record.needed_kwh, 'kWh')} in "
        f"{record.month}; {text_of(record.usable_kwh, 'kWh')} stand above the {record.above}."
    )
    return [
        Finding(
            "LOAD-ENERGY",
            Verdict.PASSED if fits else Verdict.WARNS,
            text,
            figure,
            record.usable_kwh,
            record.usable_kwh - record.needed_kwh,
            figure.source,
            record.soft_facts,
            remedies,
            "Hold less, lower the reserve, or add a battery module.",
        )
    ]


@dataclass(frozen=True)
class LockOut:
    """Circuits that should not run on the battery without a stated wish."""

    circuits: tuple[Circuit, ...]


def load_lock(record: LockOut) -> list[Finding]:
    """Car chargers, heaters and the like among the circuits that the unit feeds in an outage."""
    source = Source("a battery that empties itself into the car is a standing complaint", Provenance.COMMON_PRACTICE)
    findings = []
    for c in record.circuits:
        never = c.on_battery == "never on the battery"
        if (c.kind not in ("car charger", "heating") and not never) or c.role not in (Role.HELD, Role.SHED):
            continue
        if c.role is Role.SHED and c.kind == "heating" and not never:
            continue
        figure = Figure(c.name, c.running_w / 1000, "kW", "running power", _listed((c,)), source)
        verdict = Verdict.BLOCKS if c.kind == "car charger" or never else Verdict.WARNS
        verdict = Verdict.NOTES if c.on_battery == "on the battery" else verdict
        text = f"{c.name} ({text_of(c.running_w / 1000, 'kW')}) would run from the battery in an outage"
        said = "" if c.on_battery == "not decided" else f"; the customer's choice is: {c.on_battery}"
        text += said + (f"; noted: {c.wish}." if c.wish else ".")
        findings.append(
            Finding(
                "LOAD-LOCK",
                verdict,
                text,
                figure,
                limit_source=source,
                remedies=(move(c, Role.LOCKED), *(() if c.on_battery != "not decided" else (_chosen(c),))),
                advice="Lock it out, or record the customer's choice.",
                subjects=(c.id,),
            )
        )
    if not findings:
        count = sum(c.role is Role.LOCKED for c in record.circuits)
        figure = Figure("Circuits locked out in an outage", count, "", "count", (), source)
        findings.append(
            Finding("LOAD-LOCK", Verdict.PASSED, "No charger or heater is held without a lock-out.", figure)
        )
    return findings


def _chosen(circuit: Circuit) -> Remedy:
    change = Change(f"circuits/{circuit.id}/on_battery", "on the battery")
    return Remedy(f"Note that the customer wants {circuit.name} on the battery", (change,))


@dataclass(frozen=True)
class Care:
    """Circuits that somebody's life or treatment hangs on."""

    circuits: tuple[Circuit, ...]
    caution: str


def load_care(record: Care) -> list[Finding]:
    """Medical and life-safety equipment: this is not a certified emergency supply."""
    source = Source("life-safety and medical supplies have standards of their own", Provenance.COMMON_PRACTICE)
    findings = []
    for c in record.circuits:
        if c.care == "none":
            continue
        held = c.role is Role.HELD
        figure = Figure(c.name, c.running_w / 1000, "kW", "running power", _listed((c,)), source)
        text = f"{c.name} ({c.care}): {record.caution[0].lower() + record.caution[1:]}"
        if not held:
            text = f"{c.name} ({c.care}) is not held in an outage. " + record.caution
        findings.append(
            Finding(
                "LOAD-CARE",
                Verdict.NOTES if held else Verdict.WARNS,
                text,
                figure,
                limit_source=source,
                remedies=() if held else (move(c, Role.HELD),),
                advice="Plan a ride-through supply of its own for it.",
                subjects=(c.id,),
            )
        )
    return findings
