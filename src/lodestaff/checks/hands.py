"""What no device drops in an outage, what people must switch, what starts again together: LOAD-LOCK,
LOAD-WHOLE, LOAD-SURGE."""

from dataclasses import dataclass

from lodestaff.catalogue import PackValue
from lodestaff.checks.check import check
from lodestaff.checks.finding import Findings, Remedy, Verdict
from lodestaff.checks.makers import at_most, noted
from lodestaff.job import Change, Circuit, Role
from lodestaff.quantities import Input, Provenance, Source, text_of
from lodestaff.quantities.convention import plain

PRACTICE = Source(
    "what no device drops, a person must; people find out in the first outage", Provenance.COMMON_PRACTICE
)
RESTART = Source("motors held by one changeover start again together", Provenance.COMMON_PRACTICE)
REAL_LOADS = Source(
    "circuits are moved again when real loads are measured; both values are kept", Provenance.COMMON_PRACTICE
)
APART_S = 10.0


def _each(words: str, circuits: tuple[Circuit, ...], field: str, value: object) -> Remedy:
    return Remedy(words, tuple(Change(f"circuits/{c.id}/{field}", value) for c in circuits))


@dataclass(frozen=True)
class FullLoad:
    """A building behind an automatic changeover: what stays on it with nobody's hand, against what the
    source gives.

    `loads` are the circuits that no device drops, with what each asks; `needed` is whether the pack asks
    for capacity.
    """

    loads: tuple[Circuit, ...]
    managed: tuple[tuple[str, str], ...]
    rated_kva: float
    needed: PackValue


@check("LOAD-WHOLE", "full", station="loads", rests_on="unit's sheet, pack")
def load_full(record: FullLoad) -> Findings:
    """Has a whole building's source capacity for the full load, or is load management named?"""
    full = sum(c.running_kva for c in record.loads)
    yield at_most(
        value=full,
        limit=record.rated_kva,
        unit="kVA",
        worse=Verdict.BLOCKS if record.needed.value else Verdict.NOTES,
        text=f"Behind the changeover {text_of(full, 'kVA')} may run with nothing that drops it; the source "
        f"gives {text_of(record.rated_kva, 'kVA')}.",
        name="Full load behind the changeover",
        formula="sum of the running kVA of what no device drops",
        inputs=(
            *(Input(c.name, c.running_kva, "kVA", str(c.role)) for c in record.loads),
            *(Input(name, f"dropped by {what}") for name, what in record.managed),
        ),
        source=record.needed.cite(),
        cures=lambda: _managed(record, full),
        subjects=tuple(c.id for c in record.loads),
        advice="Name automatic load management for what is too much, or take a larger source.",
    )


def _managed(record: FullLoad, full: float) -> tuple[Remedy, ...]:
    """Load control on the largest that needn't be held, until the rest fits."""
    left, taken = full, []
    for c in sorted((c for c in record.loads if c.role is not Role.HELD), key=lambda c: -c.running_kva):
        if left <= record.rated_kva:
            break
        left -= c.running_kva
        taken.append(c)
    words = f"Load control on {', '.join(c.name for c in taken)}"
    enough = taken and left <= record.rated_kva
    return (_each(words, tuple(taken), "switched_by", "load control"),) if enough else ()


@dataclass(frozen=True)
class ByHand:
    """Circuits that are to be off in an outage, or shed, and hang on the island with nothing that drops
    them."""

    circuits: tuple[Circuit, ...]
    dropped: tuple[tuple[Circuit, str], ...]  # those that a device drops, and which
    grid: bool  # whether there is a grid at all
    over_kva: float  # by how much all of them together exceed what the source gives; 0 or less: they fit


@check("LOAD-LOCK", "by hand", station="loads", rests_on="common practice")
def load_hand(record: ByHand) -> Findings:
    """What must a person switch off by hand in an outage?"""
    circuits, dropped = record.circuits, record.dropped
    trips, stated = record.over_kva > 0, all(c.switched_by == "hand" for c in circuits)
    if circuits:
        text = f"By hand {'in an outage' if record.grid else 'when energy is short'}: "
        text += f"{', '.join(c.name for c in circuits)}."
        if trips:
            text += (
                f" All on together they exceed the source by {text_of(record.over_kva, 'kVA')}, and "
                "it trips first."
            )
        verdict = Verdict.NOTES if stated and not trips else Verdict.WARNS
    else:
        names = ", ".join(f"{c.name} by {what}" for c, what in dropped)
        text, verdict = f"Nothing has to be switched by hand{f': {names}' if names else ''}.", Verdict.PASSED
    yield noted(
        verdict=verdict,
        text=text,
        value=len(circuits),
        unit="circuits",
        limit=0 if circuits else None,
        margin=-float(len(circuits)) if circuits else None,
        name="Switched by hand on the island",
        formula="fed by the island, to be off or shed, no device",
        source=PRACTICE,
        inputs=(
            *(Input(c.name, c.running_kva, "kVA", str(c.role)) for c in circuits),
            *(Input(c.name, f"by {what}", "", str(c.role)) for c, what in dropped),
        ),
        cures=(
            _each("Load control drops them", circuits, "switched_by", "load control"),
            *(() if stated else (_each("Note that a person does it", circuits, "switched_by", "hand"),)),
        ),
        advice="A contactor or load control does it without a person; else a label at the board.",
        subjects=tuple(c.id for c in circuits),
    )


@dataclass(frozen=True)
class Restart:
    """Held motors by the delay after which they start again, on one island."""

    unit: str
    circuits: tuple[Circuit, ...]
    running_kva: float
    surge_kva: float
    surge_s: float
    grid: bool = True
    owner: str = ""


@check("LOAD-SURGE", "restart", station="loads", rests_on="unit's sheet")
def load_restart(record: Restart) -> Findings:
    """Can it carry all motors that start again together after the transfer?"""
    motors = [c for c in record.circuits if c.start_kva > c.running_kva]
    if len(motors) < 2:
        return
    groups: dict[float, list[Circuit]] = {}
    for c in motors:
        groups.setdefault(c.restart_s, []).append(c)

    def asked(delay: float) -> float:
        """kVA at this delay: those that start now, what started earlier and everything without a start
        running."""
        now = groups[delay]
        before = [c for c in motors if c.restart_s < delay]
        still = record.running_kva - sum(c.running_kva for c in motors)
        return still + sum(c.start_kva for c in now) + sum(c.running_kva for c in before)

    worst = max(groups, key=asked)
    ordered = sorted(motors, key=lambda c: -c.start_kva)
    delays = tuple(Change(f"circuits/{c.id}/restart_s", APART_S * n) for n, c in enumerate(ordered))
    yield at_most(
        value=asked(worst),
        limit=record.surge_kva,
        unit="kVA",
        worse=Verdict.WARNS,
        text=f"Motors that restart at once after {'the transfer' if record.grid else 'a trip'}, "
        f"{len(groups[worst])}: {text_of(asked(worst), 'kVA')} of {text_of(record.surge_kva, 'kVA')}.",
        name=f"Restart on {record.unit}",
        formula="sum of the starts of one delay + what runs already",
        inputs=tuple(Input(c.name, c.start_kva, "kVA", f"after {plain(c.restart_s)} s") for c in motors),
        source=RESTART,
        cures=(Remedy(f"Restart them {plain(APART_S)} s apart", delays),),
        advice="Delay the restart of some motors by a timer or contactor.",
        subjects=tuple(c.id for c in motors),
    )


@dataclass(frozen=True)
class Measured:
    """Circuits with a measured value beside the planned one."""

    circuits: tuple[Circuit, ...]


@check("LOAD-CONT", "measured", station="loads", rests_on="measurement")
def load_measured(record: Measured) -> Findings:
    """Is what was measured what is reckoned with?"""
    for c in record.circuits:
        watts, start = c.measured_w.value, c.measured_start_kva.value
        said = [*_running(c, watts), *_start(c, watts, start)]
        if not said:
            continue
        changes = tuple(change for _, made in said for change in made)
        on = c.measured_w.date or c.measured_start_kva.date
        yield noted(
            text=f"{c.name}: measured{f' on {on}' if on else ''} {'; '.join(words for words, _ in said)}.",
            value=watts if watts is not None else start or 0.0,
            unit="W" if watts is not None else "kVA",
            name=c.name,
            formula="measured",
            source=REAL_LOADS,
            inputs=(Input("planned", c.planned_w or c.running_w, "W"), Input("known", c.measured_w.words())),
            cures=(Remedy(f"Reckon with what was measured at {c.name}", changes),) if changes else (),
            advice="Take the measured value; the planned one is kept beside it.",
            subjects=(c.id,),
        )


Said = list[tuple[str, tuple[Change, ...]]]


def _running(c: Circuit, watts: float | None) -> Said:
    """Measured running power that differs, in words, with the changes that take it."""
    if watts is None or abs(watts - c.running_w) <= 1e-6:
        return []
    path, year = f"circuits/{c.id}", watts * 8.76
    less = (Change(f"{path}/kwh_year", year),) if c.kwh_year > year else ()  # no more than running all year
    changes = (
        *less,
        Change(f"{path}/running_w", watts),
        Change(f"{path}/planned_w", c.planned_w or c.running_w),
    )
    return [(f"{text_of(watts, 'W', 0)} running, {text_of(c.running_w, 'W', 0)} reckoned with", changes)]


def _start(c: Circuit, watts: float | None, start: float | None) -> Said:
    """A measured start that differs, in words, with the changes that take it where the model can express
    it."""
    if start is None or abs(start - c.start_kva) <= 1e-3 * start:
        return []
    kva = (watts or c.running_w) / 1000 / c.power_factor
    multiple = max(1.0, min(12.0, start / kva))
    path, fits = f"circuits/{c.id}", abs(multiple * kva - start) < 1e-6 * start
    changes = (
        (Change(f"{path}/start_multiple", multiple), Change(f"{path}/soft_start_multiple", None))
        if fits
        else ()
    )
    return [(f"{text_of(start, 'kVA')} at the start, {text_of(c.start_kva, 'kVA')} reckoned with", changes)]
