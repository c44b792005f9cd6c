"""What no device drops in an outage, what people must switch, what starts again together: LOAD-LOCK, LOAD-WHOLE, LOAD-SURGE."""

from dataclasses import dataclass

from lodestaff.catalogue import PackValue
from lodestaff.checks.finding import Finding, Remedy, Verdict
from lodestaff.job import Change, Circuit, Role
from lodestaff.quantities import Figure, Input, Provenance, Source, text_of

PRACTICE = Source(
    "what no device drops, a person must; people find out in the first outage", Provenance.COMMON_PRACTICE
)
RESTART = Source("motors held by one changeover start again together", Provenance.COMMON_PRACTICE)
APART_S = 10.0


@dataclass(frozen=True)
class ByHand:
    """Circuits that are to be off in an outage, or shed, and hang on the island with nothing that drops them."""

    circuits: tuple[Circuit, ...]
    dropped: tuple[tuple[Circuit, str], ...]  # those that a device drops, and which
    grid: bool  # whether there is a grid at all
    over_kva: float  # by how much all of them together exceed what the source gives; 0 or less: they fit


@dataclass(frozen=True)
class FullLoad:
    """A building behind an automatic changeover: what stays on it with nobody's hand, against what the source gives.

    `loads` are the circuits that no device drops, with what each asks; `needed` is whether the pack asks for capacity.
    """

    loads: tuple[Circuit, ...]
    managed: tuple[tuple[str, str], ...]
    rated_kva: float
    needed: PackValue


def load_full(record: FullLoad) -> list[Finding]:
    """Capacity for the full load of a whole building, or automatic load management named."""
    full = sum(c.running_kva for c in record.loads)
    figure = Figure(
        "Full load behind the changeover", full, "kVA", "sum of the running kVA of what no device drops",
        (*(Input(c.name, c.running_kva, "kVA", str(c.role)) for c in record.loads),
         *(Input(name, f"dropped by {what}") for name, what in record.managed)), record.needed.cite(),
    )  # fmt: skip
    over = full > record.rated_kva * (1 + 1e-9)
    cures: tuple[Remedy, ...] = ()
    if over:
        free = sorted((c for c in record.loads if c.role is not Role.HELD), key=lambda c: -c.running_kva)
        left, taken = full, []
        for c in free:
            if left <= record.rated_kva:
                break
            left -= c.running_kva
            taken.append(c)
        names = ", ".join(c.name for c in taken)
        changes = tuple(Change(f"circuits/{c.id}/switched_by", "load control") for c in taken)
        cures = (Remedy(f"Load control on {names}", changes),) if taken and left <= record.rated_kva else ()
    verdict = Verdict.PASSED if not over else Verdict.BLOCKS if record.needed.value else Verdict.NOTES
    text = f"Behind the changeover {text_of(full, 'kVA')} may run with nothing that drops it; the source gives {text_of(record.rated_kva, 'kVA')}."
    return [Finding("LOAD-WHOLE", verdict, text, figure, record.rated_kva, record.rated_kva - full, record.needed.cite(), (),
                    cures, "Name automatic load management for what is too much, or take a larger source.",
                    tuple(c.id for c in record.loads))]  # fmt: skip


@dataclass(frozen=True)
class Restart:
    """Held motors by the delay after which they start again, on one island."""

    unit: str
    circuits: tuple[Circuit, ...]
    running_kva: float
    surge_kva: float
    surge_s: float
    grid: bool = True


def load_hand(record: ByHand) -> list[Finding]:
    """The list that goes on the door of the board: what a person switches off, and what comes off by itself."""
    figure = Figure(
        "Switched by hand on the island", len(record.circuits), "circuits", "fed by the island, to be off or shed, no device",
        (*(Input(c.name, c.running_kva, "kVA", str(c.role)) for c in record.circuits),
         *(Input(c.name, f"by {what}", "", str(c.role)) for c, what in record.dropped)), PRACTICE,
    )  # fmt: skip
    if not record.circuits:
        names = ", ".join(f"{c.name} by {what}" for c, what in record.dropped)
        return [
            Finding(
                "LOAD-LOCK",
                Verdict.PASSED,
                f"Nothing has to be switched by hand{f': {names}' if names else ''}.",
                figure,
            )
        ]
    names = ", ".join(c.name for c in record.circuits)
    trips = record.over_kva > 0
    stated = all(c.switched_by == "hand" for c in record.circuits)
    cures = (
        Remedy("Load control drops them", tuple(Change(f"circuits/{c.id}/switched_by", "load control") for c in record.circuits)),
        Remedy("Note that a person does it", tuple(Change(f"circuits/{c.id}/switched_by", "hand") for c in record.circuits)),
    )  # fmt: skip
    text = f"By hand {'in an outage' if record.grid else 'when energy is short'}: {names}."
    if trips:
        text += f" All on together they exceed the source by {text_of(record.over_kva, 'kVA')}, and it trips first."
    verdict = Verdict.NOTES if stated and not trips else Verdict.WARNS
    return [Finding("LOAD-LOCK", verdict, text, figure, 0, -float(len(record.circuits)), PRACTICE, (), cures[: 1 if stated else 2],
                    "A contactor or load control does it without a person; else a label at the board.",
                    tuple(c.id for c in record.circuits))]  # fmt: skip


def load_restart(record: Restart) -> list[Finding]:
    """All held motors that start again at the same moment after the transfer, against the surge rating."""
    motors = [c for c in record.circuits if c.start_kva > c.running_kva]
    if len(motors) < 2:
        return []
    groups: dict[float, list[Circuit]] = {}
    for c in motors:
        groups.setdefault(c.restart_s, []).append(c)

    def asked(delay: float) -> float:
        """kVA at this delay: those that start now, what started earlier and everything without a start running."""
        now = groups[delay]
        before = [c for c in motors if c.restart_s < delay]
        still = record.running_kva - sum(c.running_kva for c in motors)
        return still + sum(c.start_kva for c in now) + sum(c.running_kva for c in before)

    worst = max(groups, key=asked)
    value, limit = asked(worst), record.surge_kva
    figure = Figure(
        f"Restart on {record.unit}", value, "kVA", "sum of the starts of one delay + what runs already",
        tuple(Input(c.name, c.start_kva, "kVA", f"after {c.restart_s:g} s") for c in motors), RESTART,
    )  # fmt: skip
    over = value > limit
    text = f"Motors that restart at once after {'the transfer' if record.grid else 'a trip'}, {len(groups[worst])}: {text_of(value, 'kVA')} of {text_of(limit, 'kVA')}."
    cures: tuple[Remedy, ...] = ()
    if over:
        ordered = sorted(motors, key=lambda c: -c.start_kva)
        delays = tuple(Change(f"circuits/{c.id}/restart_s", APART_S * n) for n, c in enumerate(ordered))
        cures = (Remedy(f"Restart them {APART_S:g} s apart", delays),)
    return [Finding("LOAD-SURGE", Verdict.WARNS if over else Verdict.PASSED, text, figure, limit, limit - value, RESTART, (),
                    cures, "Delay the restart of some motors by a timer or contactor.", tuple(c.id for c in motors))]  # fmt: skip


@dataclass(frozen=True)
class Measured:
    """Circuits with a measured value beside the planned one."""

    circuits: tuple[Circuit, ...]


def load_measured(record: Measured) -> list[Finding]:
    """Measured running power that isn't the one reckoned with."""
    found = []
    source = Source(
        "circuits are moved again when real loads are measured; both values are kept", Provenance.COMMON_PRACTICE
    )
    for c in record.circuits:
        watts, start = c.measured_w.value, c.measured_start_kva.value
        changes, words = [], []
        if watts is not None and abs(watts - c.running_w) > 1e-6:
            changes += [
                Change(f"circuits/{c.id}/running_w", watts),
                Change(f"circuits/{c.id}/planned_w", c.planned_w or c.running_w),
            ]
            words.append(f"{text_of(watts, 'W', 0)} running, {text_of(c.running_w, 'W', 0)} reckoned with")
            if c.kwh_year > watts * 8.76:
                changes.insert(0, Change(f"circuits/{c.id}/kwh_year", watts * 8.76))
        if start is not None and abs(start - c.start_kva) > 1e-3 * start:
            kva = (watts or c.running_w) / 1000 / c.power_factor
            multiple = max(1.0, min(12.0, start / kva))
            if abs(multiple * kva - start) < 1e-6 * start:
                changes += [
                    Change(f"circuits/{c.id}/start_multiple", multiple),
                    Change(f"circuits/{c.id}/soft_start_multiple", None),
                ]
            words.append(f"{text_of(start, 'kVA')} at the start, {text_of(c.start_kva, 'kVA')} reckoned with")
        if not words:
            continue
        date = (
            f" on {c.measured_w.date or c.measured_start_kva.date}"
            if c.measured_w.date or c.measured_start_kva.date
            else ""
        )
        figure = Figure(c.name, watts if watts is not None else start or 0.0, "W" if watts is not None else "kVA", "measured",
                        (Input("planned", c.planned_w or c.running_w, "W"), Input("known", c.measured_w.words())), source)  # fmt: skip
        cure = (Remedy(f"Reckon with what was measured at {c.name}", tuple(changes)),) if changes else ()
        found.append(Finding("LOAD-CONT", Verdict.NOTES, f"{c.name}: measured{date} {'; '.join(words)}.", figure, None, None,
                             source, (), cure, "Take the measured value; the planned one is kept beside it.", (c.id,)))  # fmt: skip
    return found
