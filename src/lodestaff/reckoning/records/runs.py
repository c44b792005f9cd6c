"""The runs of cable: every conductor that carries power, with what flows in it in its worst state."""

from collections.abc import Iterator
from dataclasses import replace

from lodestaff.catalogue.families import sealed
from lodestaff.catalogue.proposes import RunUse
from lodestaff.checks.runs import Run
from lodestaff.electrical.legs import ANGLES
from lodestaff.energy.battery import battery_current
from lodestaff.job import Bank, Job, Unit
from lodestaff.job.array import array_run
from lodestaff.job.plan import Board
from lodestaff.reckoning.passing import flowing
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.records.making import makes
from lodestaff.topology import Topology
from lodestaff.topology.flows import Through
from lodestaff.topology.model import DC, QUIET


@makes
def runs(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Run]:
    """AC runs from the graph's flows, batteries' and arrays' runs from their sheets."""
    yield from reckoner.of_job("runs", job, lambda: tuple(_all(reckoner, job)))


def _all(reckoner: Reckoner, job: Job) -> Iterator[Run]:
    yield from _ac(reckoner, job)
    topology = reckoner.wiring(job).topology
    for unit in job.units:
        bank = job.bank_of(unit)
        if bank is not None and not sealed(job.sheet_of(unit)):
            yield _battery(job, unit, bank)
        yield from _arrays(job, unit, topology)


def run_ids(topology: Topology) -> tuple[str, ...]:
    """The runs that the installation has."""
    return tuple(dict.fromkeys(conductor.run for conductor in topology.conductors if conductor.run))


def _flowing(reckoner: Reckoner, job: Job) -> dict[str, list[tuple[str, Through]]]:
    """By run: the state and what passes in it, for each of its conductors."""
    wiring = reckoner.wiring(job)
    ways: dict[str, list[tuple[str, Through]]] = {}
    for answer, flow in flowing(reckoner, job):
        for conductor in wiring.topology.conductors:
            if conductor.run and conductor.id in flow.conductors:
                ways.setdefault(conductor.run, []).append((answer.state.name, flow.conductors[conductor.id]))
    return ways


def _ac(reckoner: Reckoner, job: Job) -> Iterator[Run]:
    topology = reckoner.wiring(job).topology
    cables = {cable.id: cable for cable in job.cables}
    before = reckoner.wiring(job).before
    guarded = {cable.id for cable in job.cables if cable.rcd_ma is not None}
    flowing, nominal = _flowing(reckoner, job), job.pack.value("nominal_v").value
    feeds = {f"{unit.id}-feed": unit for unit in job.units}
    outlets = {part.id for part in job.parts if isinstance(part, Board) and part.outlet}
    for run in run_ids(topology):
        members = [conductor for conductor in topology.conductors if conductor.run == run]
        if any(DC[0] in member.cores for member in members):
            continue
        legs = tuple(core for core in members[0].cores if core not in QUIET)
        load, source, state = _worst(flowing.get(run, []), legs)
        unit = feeds.get(run)
        sheet = job.sheet_of(unit) if unit is not None else None
        backing = any(value > 0 for _, value in source)
        drawing = any(value > 0 for _, value in load)
        yield Run(
            id=run,
            name=_name(job, topology, run),
            kind="AC source" if unit is not None else "AC load",
            pack=job.pack,
            site=job.site,
            cable=cables.get(run),
            voltage_v=nominal,
            load_a=load,
            source_a=source,
            legs=len(legs),
            angles_deg=leg_angles(job, legs),
            use=_use(job, topology, run),
            two_way=backing and (drawing or unit is not None),
            on_island=topology.runs[run].kind == "output",
            guarded_ahead=bool(guarded & set(before.get(run, ()))),
            outlet=bool(outlets & {member.b[0] for member in members}),
            state=state,
            asked_rcd_type=sheet.residual_current_type if sheet else None,
            terminals_c=sheet.terminals_c if sheet else None,
        )


def leg_angles(job: Job, legs: tuple[str, ...]) -> tuple[float, ...]:
    """Angles of the legs' voltages, degrees."""
    of = dict(zip(job.site.phases, ANGLES[job.mains.system], strict=False))
    return tuple(of.get(leg, 0.0) for leg in legs)


USES: dict[str, RunUse] = {"service": "service", "first feed": "first feed", "output": "output",
                           "generator": "generator"}  # fmt: skip


def _use(job: Job, topology: Topology, run: str) -> RunUse:
    """What a run of AC is for, as packs tell runs apart."""
    known = topology.runs[run]
    if any(run == f"{unit.id}-feed" for unit in job.units):
        return "source"
    ends = [member for member in topology.conductors if member.run == run]
    buildings = {topology.parts[terminal[0]].building for member in ends for terminal in (member.a, member.b)}
    if len(buildings) > 1:
        return "building"
    return USES.get(known.kind, "feed")


Legs = tuple[tuple[str, float], ...]


def _worst(flowing: list[tuple[str, Through]], legs: tuple[str, ...]) -> tuple[Legs, Legs, str]:
    """By leg the most towards circuits and the most from sources, over states and conductors; the state of
    the most."""
    load, source, worst, state = dict.fromkeys(legs, 0.0), dict.fromkeys(legs, 0.0), 0.0, ""
    for name, through in flowing:
        for leg, taken, given in through.legs:
            if leg in load:
                load[leg], source[leg] = max(load[leg], taken), max(source[leg], given)
        if through.most_a > worst + 1e-9:
            worst, state = through.most_a, name
    return tuple(load.items()), tuple(source.items()), state


def _name(job: Job, topology: Topology, run: str) -> str:
    """A run's name as people say it."""
    known = topology.runs[run]
    part = topology.parts.get(known.of)
    name = part.name if part is not None else known.of
    match known.kind:
        case "service":
            return job.pack.word("service_conductors").capitalize()
        case "output":
            return _output_name(job, topology, run, name)
        case "generator":
            return f"{name} run"
        case "first feed":
            return f"{name} first feed"
    if (
        part is not None
        and part.kind == "bypass"
        and sum(part.kind == "bypass" for part in topology.parts.values()) == 1
    ):
        return "Bypass feed"
    return f"{name} feed"


def _output_name(job: Job, topology: Topology, run: str, unit: str) -> str:
    """The run by which a unit gives out on its island: by the board that it feeds."""
    ends = (topology.parts[conductor.b[0]] for conductor in topology.conductors if conductor.run == run)
    board = next((part for part in ends if part.kind == "board"), None)
    if board is None:
        return f"Output of {unit}"
    if len(job.units) > 1:
        return f"{board.name} feed of {unit}"
    return f"{board.name} feed" if job.parts else "Essential board feed"


def _battery(job: Job, unit: Unit, bank: Bank) -> Run:
    sheet, cells = job.sheet_of(unit), job.sheets.batteries[bank.sheet]
    series = cells.modules_in_series(bank.modules)
    whose = f" of {unit.name}" if len(job.units) > 1 else ""
    why = (
        "the sheet gives no lowest voltage"
        if cells.v_min is None
        else "the sheet doesn't say how modules are wired"
    )
    run = Run(
        id=f"{bank.id}-run",
        name=f"Battery run{whose}",
        kind="battery",
        use="battery",
        pack=job.pack,
        site=job.site,
        cable=next((cable for cable in job.cables if cable.id == f"{bank.id}-run"), None),
        voltage_v=None,
        two_way=True,
    )
    if cells.v_min is None or series is None:
        return replace(run, unknown=(why,))
    power_kw = min(sheet.discharge_kw, bank.modules * cells.module_kwh * cells.discharge_c_per_h)
    margin, sizes = job.pack.value("battery_current_margin").value, job.pack.table("battery_fuses").row_keys()
    lowest_v = cells.v_min * series
    drawn = battery_current(power_kw * 1000, lowest_v, sheet.eta_dcdc, margin, sizes)
    charging_kw = min(sheet.charge_kw, bank.modules * cells.module_kwh * cells.charge_c_per_h)
    return replace(
        run, voltage_v=lowest_v, load_a=(("", max(drawn.current_a, charging_kw * 1000 / lowest_v)),)
    )


def _arrays(job: Job, unit: Unit, topology: Topology) -> Iterator[Run]:
    sheet = job.sheet_of(unit)
    if sheet.module_level:
        return
    cables = {cable.id: cable for cable in job.cables}
    whose = f" of {unit.name}" if len(job.units) > 1 else ""
    for tracker in sheet.trackers:
        strings = [
            (string, parts)
            for string in job.strings_on(unit.id, tracker.name)
            if (parts := job.modules_in(string.id))
        ]
        if not strings:
            continue
        modules = [job.sheets.modules[parts[0][0].module] for _, parts in strings]
        joined = [
            module for (string, _), module in zip(strings, modules, strict=True) if string.joined_on_roof
        ]
        ways = [[module] for module in modules] if len(joined) < 2 else [joined]
        if len(joined) > 1:
            ways += [[m] for (s, _), m in zip(strings, modules, strict=True) if not s.joined_on_roof]
        most = max(ways, key=lambda on: sum(module.isc_a for module in on))
        id = array_run(unit.id, tracker.name)
        yield Run(
            id=id,
            name=f"Array run {tracker.name}{whose}",
            kind="array",
            use="array",
            pack=job.pack,
            site=job.site,
            cable=cables.get(id),
            voltage_v=min(
                sum(n for _, n in parts) * other.vmp_v
                for (_, parts), other in zip(strings, modules, strict=True)
            ),
            load_a=(("", sum(module.imp_a for module in most)),),
            isc_a=sum(module.isc_a for module in most),
            pairs=len(ways),
        )
