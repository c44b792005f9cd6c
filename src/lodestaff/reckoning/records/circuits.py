"""Records for the checks of Loads that go by board, by the meter's log, and by who switches what."""

from collections.abc import Iterator

from lodestaff.checks.demand import Explained, ServiceDemand
from lodestaff.checks.finding import Remedy
from lodestaff.checks.hands import ByHand, FullLoad, Measured, Restart
from lodestaff.checks.phases import Legs, Strange
from lodestaff.electrical.demand import Demand, DemandRow, demand, logged_demand
from lodestaff.electrical.legs import LegLoad
from lodestaff.job import Circuit, Job, Role, Unit
from lodestaff.reckoning.legs import boards_on_legs, deal_out, load_of, system_of
from lodestaff.reckoning.metered import reconcile, scaled_changes, unlisted_change, usable_log
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.records.making import makes

BY_DEVICE = ("contactor", "load control")


# --- legs and phases -----------------------------------------------------------------------------------
@makes
def legs(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Legs]:
    """Boards on several legs as they are, and what each island holds on its legs."""
    limit = job.pack.value("leg_imbalance_pct")
    boards = [
        (board, on, circuits, load_of(job, circuits, on))
        for board, on, circuits in boards_on_legs(reckoner, job)
    ]
    held = list(_held_legs(reckoner, job))
    far = any(load.imbalance_pct > limit.value for *_, load in boards) or any(
        load.imbalance_pct > limit.value or any(a > b for a, b in zip(load.current_a, rated, strict=True))
        for *_, load, rated in held
    )
    cures: dict[str, Remedy] = {}
    if deep and far:  # dealing takes a programme for each board: only where something is out of balance
        cures = {
            dealt.board: Remedy(f"Deal {len(dealt.moved)} circuits anew", dealt.changes)
            for dealt in deal_out(reckoner, job)
            if dealt.changes
        }
    for board, on, circuits, load in boards:
        yield Legs(
            board=board.id,
            name=board.name,
            legs=on,
            load=load,
            rated_a=None,
            limit=limit,
            system=system_of(job, on),
            circuits=tuple(circuits),
            cures=tuple(filter(None, [cures.get(board.id)])),
            dealt=deep,
        )
    for unit, forming, on, circuits, load, rated in held:
        mine = tuple(
            cures[board.id] for board, *_ in boards if board.id in cures and unit.id in board.forming
        )
        yield Legs(
            board=unit.id,
            name=f"Backed up by {' and '.join(unit.name for unit in forming)}",
            legs=on,
            load=load,
            rated_a=rated,
            limit=limit,
            system=system_of(job, on),
            circuits=tuple(circuits),
            cures=mine,
            dealt=deep,
        )


Held = tuple[Unit, tuple[Unit, ...], tuple[str, ...], list[Circuit], LegLoad, tuple[float, ...]]


def _held_legs(reckoner: Reckoner, job: Job) -> Iterator[Held]:
    """What each island on several legs holds: its lead, its units, legs, circuits, load, and what each leg
    gives, A."""
    volts = job.pack.value("nominal_v").value
    for unit in reckoner.forming(job):
        backed = reckoner.backed(job, unit)
        on = tuple(leg for leg in job.site.phases if any(leg in unit.legs for unit in backed.forming))
        circuits = [c for c in backed.circuits if c.role is Role.HELD and set(c.legs) <= set(on)]
        if len(on) < 2 or not circuits:
            continue
        rated = tuple(
            sum(job.sheet_of(unit).rated_kva / len(unit.legs) for unit in backed.forming if leg in unit.legs)
            * 1000
            / volts
            for leg in on
        )
        yield unit, backed.forming, on, circuits, load_of(job, circuits, on), rated


@makes
def stranges(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Strange]:
    islands = reckoner.wiring(job).islands
    if not islands:
        return
    gives = [
        {leg for unit in job.units if unit.id in island.forming for leg in unit.legs} for island in islands
    ]
    wrong = tuple(
        c for c in job.with_role(Role.HELD, Role.SHED) if not any(set(c.legs) <= there for there in gives)
    )
    words = "; ".join("+".join(leg for leg in job.site.phases if leg in there) for there in gives)
    yield Strange(wrong, words)


# --- service demand ------------------------------------------------------------------------------------
def demand_row(job: Job, circuit: Circuit) -> DemandRow:
    """A circuit as the pack's method counts it: by its device where it is known, else by its running
    power."""
    volts = job.pack.value("nominal_v").value * len(circuit.legs)
    amps = circuit.device_a.value
    by_device = circuit.counted_as in ("sockets", "small appliances", "laundry")
    current = amps if amps is not None and by_device else circuit.running_kva * 1000 / volts
    return DemandRow(
        circuit.name, circuit.counted_as, circuit.running_kva * 1000, current, circuit.switch_socket
    )


@makes
def service_demands(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[ServiceDemand]:
    if not job.mains.grid:
        return
    method, nominal = job.pack.demand, job.pack.value("nominal_v").value
    phases = len(job.site.phases)
    circuits = [c for c in job.circuits if c.role is not Role.SURPLUS]
    log, why_not = usable_log(reckoner, job)
    logged, when = None, ""
    if log is not None:
        kw, at = log.highest()
        when = f"highest on {at}"
        added = tuple(demand_row(job, c) for c in circuits if c.added)
        logged = logged_demand(kw, added, method, nominal, phases)
    demanded, phase, soft_facts = _by_method(job, circuits)
    yield ServiceDemand(
        method=method,
        demand=demanded,
        phase=phase,
        logged=logged,
        logged_when=when,
        why_not=why_not,
        rating=job.site.supply.rating_a,
        volts=nominal,
        chargers=tuple(c for c in circuits if c.kind == "car charger"),
        permits=job.site.permits,
        soft_facts=soft_facts,
    )


def _by_method(job: Job, circuits: list[Circuit]) -> tuple[Demand, str, tuple[str, ...]]:
    """Demand of the busiest phase, or of the whole where both legs are one transformer's."""
    method, nominal = job.pack.demand, job.pack.value("nominal_v").value
    if method.kind == "optional":
        floor = job.site.floor_m2
        because = () if floor.firm else (f"the floor area is {floor.words()}",)
        rows = tuple(demand_row(job, c) for c in circuits)
        return demand(rows, method, nominal * len(job.site.phases), floor.value or 0.0), "", because
    by_phase = []
    for leg in job.site.phases:
        rows = tuple(demand_row(job, c) for c in circuits if leg in c.legs)
        by_phase.append((demand(rows, method, nominal), leg))
    worst, leg = max(by_phase, key=lambda pair: pair[0].current_a)
    return worst, leg if len(job.site.phases) > 1 else "", ()


@makes
def explaineds(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Explained]:
    log, _ = usable_log(reckoner, job)
    if log is None:
        return
    both = reconcile(reckoner, job, log)
    unlisted, scaled = unlisted_change(job, both), scaled_changes(job, both)
    listing = (Remedy("List what is missing as a circuit", (unlisted,)),) if unlisted is not None else ()
    scaling = (Remedy("Bring the circuits' energy to the log", scaled),) if scaled else ()
    yield Explained(
        measured_kwh=both.measured_kwh,
        circuits_kwh=both.circuits_kwh,
        unexplained_kwh=both.unexplained_kwh,
        over_kwh=both.over_kwh,
        base_kw=both.base_kw,
        base_circuits_kw=both.base_circuits_kw,
        span=" to ".join(str(day) for day in log.span()),
        covered=log.covered,
        gaps=len(log.gaps),
        cures=(*listing, *scaling),
    )


# --- who switches what ---------------------------------------------------------------------------------
@makes
def by_hands(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[ByHand]:
    wiring = reckoner.wiring(job)
    dark = wiring.state("island")
    if dark is None or not wiring.islands:
        return
    hand, dropped = [], []
    for c in job.circuits:
        if c.role in (Role.HELD, Role.SURPLUS) or not dark.fed.get(c.id):
            if (
                c.role is not Role.HELD
                and (board := wiring.board_of(c.id)) is not None
                and board.contactor
                and board.forming
            ):
                dropped.append((c, f"its contactor ({board.contactor})"))
            continue
        if c.switched_by in BY_DEVICE:
            dropped.append((c, c.switched_by))
        else:
            hand.append(c)
    inside = {name for island in wiring.islands for name in island.circuits}
    held = sum(c.running_kva for c in job.with_role(Role.HELD) if c.id in inside)
    given = sum(
        job.sheet_of(unit).rated_kva
        for unit in job.units
        if any(unit.id in island.forming for island in wiring.islands)
    )
    yield ByHand(tuple(hand), tuple(dropped), job.mains.grid, held + sum(c.running_kva for c in hand) - given)


@makes
def full_loads(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[FullLoad]:
    """Islands on which circuits hang that are left to the grid: whole buildings behind a changeover."""
    if not job.mains.grid:
        return
    wiring = reckoner.wiring(job)
    dark = wiring.state("island")
    for island in wiring.islands if dark is not None else ():
        assert dark is not None
        fed = [
            c
            for c in job.circuits
            if c.id in island.circuits and dark.fed.get(c.id) and c.role is not Role.SURPLUS
        ]
        if not any(c.role in (Role.GRID, Role.LOCKED) for c in fed):
            continue
        rated = sum(job.sheet_of(unit).rated_kva for unit in job.units if unit.id in island.forming)
        loads = tuple(c for c in fed if c.switched_by not in BY_DEVICE)
        managed = tuple((c.name, c.switched_by) for c in fed if c.switched_by in BY_DEVICE)
        yield FullLoad(loads, managed, rated, job.pack.value("full_load_needed"))


@makes
def restarts(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Restart]:
    for unit in reckoner.forming(job):
        backed = reckoner.backed(job, unit)
        held = tuple(c for c in backed.circuits if c.role is Role.HELD)
        sheets = [job.sheet_of(unit) for unit in backed.forming]
        yield Restart(
            owner=unit.id,
            unit=" and ".join(unit.name for unit in backed.forming),
            circuits=held,
            running_kva=sum(c.running_kva for c in held),
            surge_kva=sum(sheet.surge_kva for sheet in sheets),
            surge_s=sheets[0].surge_s,
            grid=job.mains.grid,
        )


@makes
def measureds(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Measured]:
    yield Measured(
        tuple(
            c
            for c in job.circuits
            if c.measured_w.value is not None or c.measured_start_kva.value is not None
        )
    )
