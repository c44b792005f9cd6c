"""Changes made by hand, replayed on what the decisions give; one whose place is gone becomes an orphan."""

from lodestaff.job import Job
from lodestaff.job.address import address
from lodestaff.job.plan import (
    AddBoard,
    AddBypass,
    Board,
    Combiner,
    Insert,
    Intercept,
    MoveTransformer,
    Placed,
    Throw,
)
from lodestaff.topology.building.builder import Builder
from lodestaff.topology.building.normalised import Plan
from lodestaff.topology.building.transforming import fed_conductor
from lodestaff.topology.model import Conductor, Orphan, Way

FEEDS = ("fed_from", "first", "second")


def adjusted(job: Job, plan: Plan) -> tuple[Plan, list[Orphan]]:
    """The plan after all adjustments of parts, in their order; insertions into conductors come later."""
    orphans: list[Orphan] = []
    for one in job.adjustments:
        known = {"block", *(unit.id for unit in plan.units), *(part.id for part in plan.parts)}
        parts = {part.id: part for part in plan.parts}
        if isinstance(one, MoveTransformer):
            if one.ct not in parts:
                orphans.append(Orphan(one.id, one.kind, f"the current transformer {one.ct} is not there"))
                continue
            plan = _with(plan, one.ct, {"on": one.on})
        elif isinstance(one, AddBoard):
            if address(one.fed_from).part not in known:
                orphans.append(Orphan(one.id, one.kind, f"{one.fed_from} is not there"))
                continue
            board = Board(id=one.id, name=one.name, fed_from=one.fed_from, holds="named only")
            plan = Plan(plan.units, (*plan.parts, board))
        elif isinstance(one, AddBypass):
            if address(one.around).part not in known or address(one.grid).part not in known:
                orphans.append(Orphan(one.id, one.kind, f"{one.around} or {one.grid} is not there"))
                continue
            throw = Throw(
                id=one.id,
                name=one.name,
                use="bypass",
                first=one.around,
                second=one.grid,
                rated_a=one.rated_a,
                automatic=one.automatic,
            )
            plan = _fed_anew(plan, one.around, one.id)
            plan = Plan(plan.units, (*plan.parts, throw))
        elif isinstance(one, Intercept):
            board = parts.get(one.board)  # type: ignore[assignment]
            by = address(one.by).part
            if board is None or by not in known or not hasattr(board, "fed_from"):
                orphans.append(
                    Orphan(one.id, one.kind, f"{one.board if board is None else one.by} is not there")
                )
                continue
            before = board.fed_from
            plan = _with(plan, one.board, {"fed_from": one.by})
            plan = _with(plan, by, {"fed_from": before})
    return plan, orphans


def _with(plan: Plan, id: str, fields: dict[str, object]) -> Plan:
    """The plan with fields of one part or unit set."""
    units = tuple(unit.model_copy(update=fields) if unit.id == id else unit for unit in plan.units)
    parts: tuple[Placed, ...] = tuple(
        part.model_copy(update=fields) if part.id == id else part for part in plan.parts
    )
    return Plan(units, parts)


def _fed_anew(plan: Plan, before: str, now: str) -> Plan:
    """Everything that was fed from one outlet fed from another."""
    for part in (*plan.units, *plan.parts):
        fields = {field: now for field in FEEDS if getattr(part, field, None) == before}
        if isinstance(part, Combiner) and before in part.feeds:
            fields["feeds"] = tuple(now if feed == before else feed for feed in part.feeds)  # type: ignore[assignment]
        if fields:
            plan = _with(plan, part.id, dict(fields))
    return plan


def _way_into(b: Builder, conductor: Conductor) -> Way:
    """The way into a unit that a conductor ends; '' where it ends at none."""
    unit = next((one for one in b.units if one.unit == conductor.b[0]), None)
    return "grid" if unit is not None and unit.grid == conductor.b else ""


def inserted(b: Builder, job: Job) -> None:
    """Isolators, meters, breakers and residual-current devices put into the conductors that feed a
    terminal."""
    for one in job.adjustments:
        if not isinstance(one, Insert):
            continue
        name = fed_conductor(b, one.into)
        if name is None:
            b.orphans.append(Orphan(one.id, one.kind, f"nothing feeds {one.into}"))
            continue
        index = next(i for i, conductor in enumerate(b.conductors) if conductor.id == name)
        old = b.conductors[index]
        origin = f"adjustments/{one.id}"
        if one.what == "meter":
            rating = "two-way" if one.two_way else "one way"
            b.through(one.id, "meter", one.name, old.cores, rating=rating, decided_by=origin)
        else:
            way = _way_into(b, old)
            b.switch(
                one.id, one.what, one.name, old.cores, decided_by=origin, way=way, of=old.b[0] if way else ""
            )
        halves = [
            Conductor(
                f"{old.a[0]}.{old.a[1]}>{one.id}.line",
                old.a,
                b=(one.id, "line"),
                cores=old.cores,
                run=old.run,
                pen=old.pen,
            ),
            Conductor(
                f"{one.id}.load>{old.b[0]}.{old.b[1]}",
                (one.id, "load"),
                b=old.b,
                cores=old.cores,
                run=old.run,
                pen=old.pen,
            ),
        ]
        b.conductors[index : index + 1] = halves
