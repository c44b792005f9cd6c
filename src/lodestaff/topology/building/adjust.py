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
    for adjustment in job.adjustments:
        known = {"block", *(unit.id for unit in plan.units), *(part.id for part in plan.parts)}
        parts = {part.id: part for part in plan.parts}
        if isinstance(adjustment, MoveTransformer):
            if adjustment.ct not in parts:
                orphans.append(
                    Orphan(
                        adjustment.id,
                        adjustment.kind,
                        f"the current transformer {adjustment.ct} is not there",
                    )
                )
                continue
            plan = _with(plan, adjustment.ct, {"on": adjustment.on})
        elif isinstance(adjustment, AddBoard):
            if address(adjustment.fed_from).part not in known:
                orphans.append(Orphan(adjustment.id, adjustment.kind, f"{adjustment.fed_from} is not there"))
                continue
            board = Board(
                id=adjustment.id, name=adjustment.name, fed_from=adjustment.fed_from, holds="named only"
            )
            plan = Plan(plan.units, (*plan.parts, board))
        elif isinstance(adjustment, AddBypass):
            if address(adjustment.around).part not in known or address(adjustment.grid).part not in known:
                orphans.append(
                    Orphan(
                        adjustment.id,
                        adjustment.kind,
                        f"{adjustment.around} or {adjustment.grid} is not there",
                    )
                )
                continue
            throw = Throw(
                id=adjustment.id,
                name=adjustment.name,
                use="bypass",
                first=adjustment.around,
                second=adjustment.grid,
                rated_a=adjustment.rated_a,
                automatic=adjustment.automatic,
            )
            plan = _fed_anew(plan, adjustment.around, adjustment.id)
            plan = Plan(plan.units, (*plan.parts, throw))
        elif isinstance(adjustment, Intercept):
            board = parts.get(adjustment.board)  # type: ignore[assignment]
            by = address(adjustment.by).part
            if board is None or by not in known or not hasattr(board, "fed_from"):
                orphans.append(
                    Orphan(
                        adjustment.id,
                        adjustment.kind,
                        f"{adjustment.board if board is None else adjustment.by} is not there",
                    )
                )
                continue
            before = board.fed_from
            plan = _with(plan, adjustment.board, {"fed_from": adjustment.by})
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
    unit = next((unit for unit in b.units if unit.unit == conductor.b[0]), None)
    return "grid" if unit is not None and unit.grid == conductor.b else ""


def inserted(b: Builder, job: Job) -> None:
    """Isolators, meters, breakers and residual-current devices put into the conductors that feed a
    terminal."""
    for adjustment in job.adjustments:
        if not isinstance(adjustment, Insert):
            continue
        name = fed_conductor(b, adjustment.into)
        if name is None:
            b.orphans.append(Orphan(adjustment.id, adjustment.kind, f"nothing feeds {adjustment.into}"))
            continue
        index = next(i for i, conductor in enumerate(b.conductors) if conductor.id == name)
        old = b.conductors[index]
        origin = f"adjustments/{adjustment.id}"
        if adjustment.what == "meter":
            rating = "two-way" if adjustment.two_way else "one way"
            b.through(adjustment.id, "meter", adjustment.name, old.cores, rating=rating, decided_by=origin)
        else:
            way = _way_into(b, old)
            b.switch(
                adjustment.id,
                adjustment.what,
                adjustment.name,
                old.cores,
                decided_by=origin,
                way=way,
                of=old.b[0] if way else "",
            )
        halves = [
            Conductor(
                f"{old.a[0]}.{old.a[1]}>{adjustment.id}.line",
                old.a,
                b=(adjustment.id, "line"),
                cores=old.cores,
                run=old.run,
                pen=old.pen,
            ),
            Conductor(
                f"{adjustment.id}.load>{old.b[0]}.{old.b[1]}",
                (adjustment.id, "load"),
                b=old.b,
                cores=old.cores,
                run=old.run,
                pen=old.pen,
            ),
        ]
        b.conductors[index : index + 1] = halves
