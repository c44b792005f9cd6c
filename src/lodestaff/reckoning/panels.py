"""Circuits dealt between the panels of units that form islands of their own, and between their legs."""

from dataclasses import dataclass, replace

from lodestaff.electrical.dealing import deal
from lodestaff.job import Change, Circuit, Job, Role
from lodestaff.reckoning.legs import ALIKE_KVA
from lodestaff.reckoning.load_groups import LoadGroup, drop_changes, load_groups, stops_of
from lodestaff.reckoning.reckoner import Reckoner


@dataclass(frozen=True)
class Bin:
    """A leg of a panel: what its source gives on it, kVA, what stays there, and the circuits that may be
    moved."""

    group: LoadGroup
    rated_kva: float
    fixed_kva: float
    free: tuple[str, ...]


@dataclass(frozen=True)
class PanelDealing:
    """Headroom of each leg of each panel before and after, kVA, and the circuits that are moved with their
    changes."""

    bins: tuple[tuple[str, str], ...]  # panel, leg
    rated_kva: tuple[float, ...]
    before_kva: tuple[float, ...]
    after_kva: tuple[float, ...]
    moved: tuple[tuple[str, str, str], ...]  # circuit, from, to
    changes: tuple[Change, ...]
    exact: bool


def deal_panels(reckoner: Reckoner, job: Job) -> PanelDealing | None:
    """Held and shed circuits of one leg dealt over all panels of all islands so that headroom is most even.

    The fewest moves that reach it. None where fewer than two sources of their own feed panels. Circuits in
    another building, on contactors, or between legs stay where they are.
    """
    bins = _bins(reckoner, job)
    if len({panel.group.source for panel in bins}) < 2:
        return None
    circuits = [job.circuit(name) for panel in bins for name in panel.free]
    most = max(panel.rated_kva for panel in bins)
    now = tuple(index for index, box in enumerate(bins) for _ in box.free)
    base = tuple(
        panel.fixed_kva + most - panel.rated_kva for panel in bins
    )  # less rating counts as load: headroom is dealt
    dealt = deal(tuple(c.running_kva for c in circuits), len(bins), now, base, ALIKE_KVA)
    wiring = reckoner.wiring(job)
    moved: list[tuple[str, str, str]] = []
    changes: list[Change] = []
    for c, there, here in zip(circuits, dealt.legs, now, strict=True):
        if there != here:
            group = replace(bins[there].group, role=c.role)
            changes += drop_changes(job, wiring, c, group)
            moved.append((c.id, _name(bins[here]), _name(bins[there])))
    after = [panel.fixed_kva for panel in bins]
    for c, there in zip(circuits, dealt.legs, strict=True):
        after[there] += c.running_kva
    before = tuple(
        panel.fixed_kva + sum(job.circuit(name).running_kva for name in panel.free) for panel in bins
    )
    return PanelDealing(
        tuple((panel.group.name, panel.group.leg) for panel in bins),
        tuple(panel.rated_kva for panel in bins),
        before_kva=before,
        after_kva=tuple(after),
        moved=tuple(moved),
        changes=tuple(changes),
        exact=dealt.exact,
    )


def _name(box: Bin) -> str:
    return " ".join(filter(None, (box.group.name, box.group.leg)))


def _bins(reckoner: Reckoner, job: Job) -> list[Bin]:
    """The first panel of each island, by leg; further panels of it are load that stays."""
    groups = load_groups(job, reckoner.wiring(job))
    held = [group for group in groups if group.role is Role.HELD and group.source and not group.building]
    first = {group.source: group.board for group in reversed(held)}
    bins = []
    for group in held:
        if group.board != first[group.source]:
            continue
        leg = group.leg or job.site.phases[0]
        stop = stops_of(job, group.source).get(leg)
        if stop is None:
            continue
        same = [
            move
            for move in groups
            if move.role in (Role.HELD, Role.SHED) and move.source == group.source and move.leg == group.leg
        ]
        free: list[str] = []
        fixed = 0.0
        for other in same:
            for name in other.circuits:
                c: Circuit = job.circuit(name)
                if len(c.legs) == 1 and other.board == group.board and not other.contactor:
                    free.append(name)
                else:
                    fixed += c.running_kva / len(c.legs)
        bins.append(Bin(group, stop[0], fixed, tuple(free)))
    return bins
