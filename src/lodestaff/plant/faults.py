"""What can be wrong at a simulated site: each fault has a name, the words people see, where it can occur, and
the steps that are meant to find it."""

from __future__ import annotations

from collections.abc import Callable, Collection
from dataclasses import dataclass, replace
from fnmatch import fnmatchcase

from lodestaff.job import Job
from lodestaff.job.plan import Generator
from lodestaff.plant import built as b
from lodestaff.plant import making
from lodestaff.plant.built import Built
from lodestaff.quantities.errors import JobError
from lodestaff.topology import Topology
from lodestaff.topology.questions import asked, ct_phases

Where = Callable[[Job, Topology], bool]


@dataclass(frozen=True)
class Fault:
    """One seeded error of installation or setting. `caught_by` are the ids of the steps that are meant to
    find it, with * for what differs from job to job."""

    name: str
    words: str
    occurs: Where
    caught_by: tuple[str, ...]

    def is_caught_by(self, step: str) -> bool:
        return any(fnmatchcase(step, pattern) for pattern in self.caught_by)


# --- where each can occur --------------------------------------------------------------------------------
def _transformer(job: Job, t: Topology) -> bool:
    return job.mains.grid and bool(b.grid_cts(t))


def _legs(job: Job, t: Topology) -> bool:
    cts = b.grid_cts(t)
    return (
        job.mains.grid
        and bool(cts)
        and len(job.site.phases) > 1
        and len(ct_phases(t, cts[0])) > 0
        and (
            any(
                len([c for c in t.conductor(name).cores if c in job.site.phases]) > 1
                for name in cts[0].conductors
            )
        )
    )


def _pair(job: Job, t: Topology) -> bool:
    cts = b.grid_cts(t)
    return job.mains.grid and bool(cts) and (len(ct_phases(t, cts[0])) > 1 or len(cts) > 1)


def _other_conductor(job: Job, t: Topology) -> bool:
    cts = b.grid_cts(t)
    return job.mains.grid and bool(cts) and b.feed_of_a_unit(t, cts[0]) is not None


def _string(job: Job, _: Topology) -> bool:
    return bool(making.wired(job))


def _plain_string(job: Job, _: Topology) -> bool:
    return bool(making.plain(job))


def _unlike(job: Job, _: Topology) -> bool:
    return making.unlike(job) is not None


def _optimisers(job: Job, _: Topology) -> bool:
    names = making.wired(job)
    return any(job.optimisers_on(s) == "all" and s.id in names for s in job.strings)


def _behind_modules(job: Job, _: Topology) -> bool:
    return any(job.sheet_of(unit).module_level and not unit.existing for unit in job.units)


def _stack(job: Job, _: Topology) -> bool:
    return any(bank.modules > 1 and not _sealed(job, bank.unit) for bank in job.banks)


def _sealed(job: Job, unit: str) -> bool:
    return bool(getattr(job.sheet_of(job.unit(unit)), "sealed", False))


def _open_battery(job: Job, _: Topology) -> bool:
    return any(not _sealed(job, bank.unit) for bank in job.banks)


def _limited(job: Job, t: Topology) -> bool:
    return job.mains.grid and bool(b.grid_cts(t)) and job.limits.export_kw > 0


def _grid(job: Job, _: Topology) -> bool:
    return job.mains.grid and bool(job.units)


def _units(job: Job, _: Topology) -> bool:
    return bool(job.units)


def _windows(job: Job, _: Topology) -> bool:
    return job.mains.grid and bool(job.limits.windows) and bool(job.banks)


def _relay(job: Job, t: Topology) -> bool:
    return bool(b.relay_bonds(t)) and bool(asked(t).islands)


def _relay_by_grid(job: Job, t: Topology) -> bool:
    return job.mains.grid and _relay(job, t)


def _island(job: Job, t: Topology) -> bool:
    return asked(t).has_backup and bool(b.held_board(t))


def _linked(job: Job, t: Topology) -> bool:
    return b.device_with_a_link(t) is not None


def _electrode(job: Job, _: Topology) -> bool:
    return job.has_electrode


def _movable(job: Job, t: Topology) -> bool:
    return b.can_move(t)


def _crossed(job: Job, t: Topology) -> bool:
    return job.mains.grid and b.crossed_feed(t) is not None


def _locked(job: Job, t: Topology) -> bool:
    return job.mains.grid and asked(t).has_backup and b.lock_out(job, t) is not None


def _metered(job: Job, t: Topology) -> bool:
    return job.mains.grid and any(ct.proves_limit for ct in b.grid_cts(t))


def _two_wire(job: Job, t: Topology) -> bool:
    return any(isinstance(part, Generator) and part.started_by and part.id in t.parts for part in job.parts)


def _transmitter(job: Job, t: Topology) -> bool:
    return b.transmitter_feed(t) is not None


CT, STRING, BOND = ("ct", "ct-*"), ("voc-*",), ("bond-*",)
FAULTS: tuple[Fault, ...] = (
    Fault("ct-reversed", "the CT on the tails sits the wrong way round", _transformer, CT),
    Fault("ct-wrong-leg", "a CT sits on the leg or phase beside its own", _legs, CT),
    Fault("ct-swapped", "two CTs or their leads are exchanged", _pair, CT),
    Fault("ct-unplugged", "the CT's lead is not plugged in", _transformer, CT),
    Fault("ct-elsewhere", "the CT sits on a unit's feed", _other_conductor, CT),
    Fault("string-reversed", "plus and minus of the last string are exchanged", _plain_string, STRING),
    Fault("strings-swapped", "two strings lie at each other's tracker", _unlike, STRING),
    Fault(
        "module-missing", "the last string has one module fewer than drawn", _string, (*STRING, "released-*")
    ),
    Fault("string-open", "the last string is open at a connector", _plain_string, STRING),
    Fault("string-resistance", "a bad joint in the last string", _plain_string, ("power-*",)),
    Fault(
        "string-shaded",
        "modules of the last string lie in shade",
        _plain_string,
        (*STRING, "isc-*", "power-*"),
    ),
    Fault(
        "optimiser-unpaired",
        "the optimisers were never paired",
        _optimisers,
        ("released-*", "power-*", "start-*-array"),
    ),
    Fault("module-unit-silent", "one unit behind a module is silent", _behind_modules, ("power-*",)),
    Fault(
        "battery-module-missing",
        "one battery module is not connected",
        _stack,
        ("battery-*", "start-*-battery"),
    ),
    Fault("battery-address", "two battery modules have one address", _stack, ("start-*-battery",)),
    Fault("battery-protocol", "the unit speaks another protocol", _open_battery, ("start-*-battery",)),
    Fault("export-unit", "the unit takes the export limit in tens of watts", _limited, ("set-*-export_kw",)),
    Fault("clock-hour", "the unit's clock is set an hour off", _units, ("set-*-clock",)),
    Fault("clock-half-day", "the unit's clock is set twelve hours off", _units, ("set-*-clock",)),
    Fault("window-midnight", "a window lies on the wrong side of midnight", _windows, ("set-*-window:*",)),
    Fault("profile-wrong", "another country's grid profile is set", _grid, ("set-*-grid_profile",)),
    Fault("bond-open", "the bond relay does not close in island mode", _relay, BOND),
    Fault("bond-closed", "the bond relay stays closed with the grid", _relay_by_grid, BOND),
    Fault("second-bond", "a link was left in the board that lives in an outage", _island, BOND),
    Fault("link-left", "the link that came with a gateway or unit was not taken out", _linked, BOND),
    Fault("electrode-poor", "the electrode's resistance is too high", _electrode, ("electrode*",)),
    Fault("circuit-elsewhere", "a circuit was left on the board that dies", _movable, ("outage",)),
    Fault("legs-crossed", "two legs of a unit's feed are exchanged", _crossed, ("legs-*",)),
    Fault("neutral-borrowed", "a circuit's neutral lies on another board", _movable, ("bond-*", "outage")),
    Fault("charger-live", "the car charger stays on in an outage", _locked, ("outage", "charger*-outage")),
    Fault("meter-lost", "the unit goes on when its meter is lost", _metered, ("lost-*",)),
    Fault("start-pair-open", "the two wires don't start the generator", _two_wire, ("generator-*",)),
    Fault(
        "transmitter-unfed",
        "the transmitter has no supply",
        _transmitter,
        ("power-*", "start-*-array", "released-*"),
    ),
)


def fault_named(name: str) -> Fault:
    """The fault of a name. Raises JobError where there is none."""
    for fault in FAULTS:
        if fault.name == name:
            return fault
    raise JobError(f"no fault {name!r}", "--fault", f"choose from {', '.join(each.name for each in FAULTS)}")


def faults_of(job: Job, topology: Topology) -> tuple[Fault, ...]:
    """The faults that can occur in a job."""
    return tuple(fault for fault in FAULTS if fault.occurs(job, topology))


def built_with(job: Job, topology: Topology, faults: Collection[str]) -> Built:
    """The wiring with what is wrong with it. Raises JobError for a fault that this site can't have."""
    for fault in FAULTS:
        if fault.name in faults and not fault.occurs(job, topology):
            could = ", ".join(other.name for other in faults_of(job, topology))
            raise JobError(f"this site can't have {fault.name!r}", "--fault", f"choose from {could}")
    wiring = topology
    for name, change in (
        ("bond-open", b.bond_open),
        ("bond-closed", b.bond_closed),
        ("second-bond", b.second_bond),
        ("link-left", b.link_left),
        ("circuit-elsewhere", b.circuit_elsewhere),
        ("neutral-borrowed", b.neutral_elsewhere),
        ("transmitter-unfed", b.transmitter_unfed),
    ):
        wiring = change(wiring) if name in faults else wiring
    if "charger-live" in faults:
        wiring = b.lock_out_welded(job, wiring)
    built = b.as_drawn(wiring)
    if "legs-crossed" in faults:
        built = b.legs_crossed(built)
    if "ct-reversed" in faults:
        built = b.turned(built)
    if "ct-wrong-leg" in faults:
        built = b.on_next_leg(built)
    if "ct-swapped" in faults:
        built = b.swapped(built)
    if "ct-elsewhere" in faults:
        built = b.elsewhere(built)
    if "ct-unplugged" in faults:
        first = b.grid_cts(wiring)[0].id
        built = b.with_channels(
            built, first, (replace(channel, sign=0.0) for channel in built.channels[first])
        )
    return built
