"""Boards, devices between sources, meters and transformers: each choice adds its parts and says what is fed
from where."""

from lodestaff.catalogue import load_pack
from lodestaff.job import Circuit, Role
from lodestaff.job.plan import Board, Combiner, Gateway, Generator, Throw
from lodestaff.templates import additions
from lodestaff.templates.layout import BLOCK, Layout
from lodestaff.templates.roofs import tracker_names
from lodestaff.templates.units import Chosen, Part
from lodestaff.templates.wanted import Wanted


def distribution(wanted: Wanted, chosen: Chosen, circuits: tuple[Circuit, ...]) -> Layout:
    """Go through the choices in the order of the wiring, from the supply to the loads."""
    plan = Layout(wanted, chosen, load_pack(wanted.pack), list(circuits))
    _generator(plan)
    if wanted.outbuilding:
        _outbuilding(plan)
    if wanted.arrangement == "side by side":
        _side_by_side(plan)
    elif wanted.family == "hybrid":
        _hybrids(plan)
    else:
        _behind_gateway(plan)
    _other_phases(plan)
    additions.existing(plan)
    additions.second_building(plan)
    additions.charger(plan)
    additions.surplus(plan)
    additions.transformers(plan)
    additions.shutdown(plan)
    additions.meter(plan)
    additions.electrodes(plan)
    additions.isolators(plan)
    if wanted.backup == "none":
        plan.circuits = [c.model_copy(update={"role": Role.GRID}) for c in plan.circuits]
    return plan


def _generator(plan: Layout) -> None:
    w = plan.wanted
    if not w.generator:
        return
    own = [unit for unit in plan.chosen.doing("backs") if tracker_names(unit).transfer]
    inputs = tuple(f"{unit.id}:generator" for unit in own)
    first = plan.chosen.doing("backs")[0].id
    # Where the unit opens the neutral the generator stands alone while it feeds, and makes its own bond.
    alone = w.begins.opens_neutral and (w.grid or w.units == 1 or w.arrangement != "together")
    plan.parts.append(
        Generator(
            id="generator",
            name="Generator",
            rated_kva=8,
            feeds=inputs,
            started_by=first,
            bonded=alone,
            phases="+".join(_covered(plan)),
        )
    )


def _outbuilding(plan: Layout) -> None:
    """A sub-main to an outbuilding where array and battery stand."""
    name = f"Outbuilding {plan.word('board')}"
    plan.parts.append(
        Board(id="outbuilding", name=name, fed_from=BLOCK, building="outbuilding", holds="named only")
    )


def _hybrids(plan: Layout) -> None:
    """Hybrids with changeovers inside: outputs joined where there are several, a board or outlet on them."""
    w, units = plan.wanted, plan.chosen.doing("backs")
    place = "outbuilding" if w.outbuilding else BLOCK
    for unit in units:
        plan.feeds[unit.id] = place if w.grid else ""
    if not all(tracker_names(unit).transfer for unit in units):
        _behind_gateway(plan)
        return
    if w.arrangement == "one on each phase":
        _one_on_each(plan, units)
        return
    output = f"{units[0].id}:backup"
    if len(units) > 1:
        plan.parts.append(
            Combiner(id="outputs", name="Outputs joined", feeds=tuple(f"{u.id}:backup" for u in units))
        )
        output = "outputs"
    if w.backup == "none":
        plan.parts.append(_board(plan, "board", BLOCK, "all"))
        return
    if w.backup == "outlet":
        plan.parts.append(_board(plan, "board", BLOCK, "rest"))
        plan.parts.append(
            Board(
                id="outlet",
                outlet=True,
                name="Emergency outlet",
                fed_from=output,
                holds="essential",
                main="rcd",
                feed="none",
            )
        )
        plan.backed = "outlet"
        _keep_few(plan)
        return
    feed = _bypass(plan, output)
    if w.backup == "whole building":
        link = not w.grid and (not w.begins.opens_neutral or len(units) > 1)
        plan.parts.append(_board(plan, "board", feed, "all").model_copy(update={"link": link}))
        plan.backed = "board"
        return
    main_feed = BLOCK
    if w.interlock:
        plan.parts.append(
            Throw(
                id="interlock",
                name="Interlock",
                use="interlock",
                first=BLOCK,
                second=output,
                rated_a=plan.rating_a,
                middle_off=True,
                neutral=plan.poles,
            )
        )
        main_feed = "interlock"
    plan.parts.append(_board(plan, "board", main_feed, "rest"))
    plan.parts.append(
        Board(
            id="essential",
            name=plan.name("essential_board"),
            fed_from=feed,
            holds="essential",
            main="rcd" if w.begins.essential_rcd else "none",
            feed="none",
        )
    )
    plan.backed = "essential"


def _board(plan: Layout, id: str, feed: str, holds: str) -> Board:
    device = "none" if feed == BLOCK else "breaker"
    return Board(id=id, name=plan.name("board"), fed_from=feed, holds=holds, feed=device)


def _bypass(plan: Layout, output: str) -> str:
    """A double throw between the units' output and the grid (or the generator where there is no grid)."""
    w = plan.wanted
    if w.bypass == "none":
        return output
    other = BLOCK if w.grid else "generator" if w.generator else ""
    if not other:
        return output
    plan.parts.append(
        Throw(
            id="bypass",
            name=plan.name("bypass") if w.bypass == "by hand" else "Automatic changeover",
            use="bypass" if w.bypass == "by hand" else "transfer",
            first=output,
            second=other,
            rated_a=plan.rating_a,
            automatic=w.bypass == "automatic",
            middle_off=w.bypass == "by hand",
            neutral=plan.poles,
        )
    )
    return "bypass"


def _keep_few(plan: Layout) -> None:
    """An outlet carries two circuits; the others stay on the grid."""
    kept = [c.id for c in plan.circuits if c.role is Role.HELD][:2]
    plan.circuits = [
        c.model_copy(update={"role": Role.GRID})
        if c.role in (Role.HELD, Role.SHED) and c.id not in kept
        else c
        for c in plan.circuits
    ]


def _one_on_each(plan: Layout, units: tuple[Part, ...]) -> None:
    """A unit on each phase with a board of its own; the old board keeps the rest of all phases."""
    plan.parts.append(_board(plan, "board", BLOCK, "rest"))
    for unit in units:
        phase = str(unit.fields["phase"])
        name = f"{plan.name('essential_board')} {phase}"
        plan.parts.append(
            Board(
                id=f"{unit.id}-essential",
                name=name,
                fed_from=f"{unit.id}:backup",
                phases=phase,
                holds="essential",
                main="rcd",
                feed="none",
            )
        )
    plan.backed = f"{units[0].id}-essential"
    covered = {str(unit.fields["phase"]) for unit in units}
    plan.circuits = [
        c
        if c.phase in covered or c.role not in (Role.HELD, Role.SHED)
        else c.model_copy(update={"role": Role.GRID})
        for c in plan.circuits
    ]


def _side_by_side(plan: Layout) -> None:
    """Systems that don't know of each other: each a grid board, a unit, a backup board, a bypass."""
    w, units = plan.wanted, plan.chosen.doing("backs")
    for number, unit in enumerate(units, start=1):
        grid, backup = f"grid-{number}", f"backup-{number}"
        plan.parts.append(Board(id=grid, name=f"Grid board {number}", fed_from=BLOCK, holds="rest"))
        plan.feeds[unit.id] = grid
        feed = f"{unit.id}:backup"
        if w.bypass != "none":
            plan.parts.append(
                Throw(
                    id=f"bypass-{number}",
                    name=f"Bypass {number}",
                    use="bypass",
                    first=feed,
                    second=grid,
                    rated_a=plan.rating_a / 2,
                    neutral=plan.poles,
                )
            )
            feed = f"bypass-{number}"
        plan.parts.append(
            Board(
                id=backup,
                name=f"Backup board {number}",
                fed_from=feed,
                holds="essential",
                main="none",
                feed="none",
            )
        )
    boards = {Role.HELD: "backup", Role.SHED: "backup", Role.GRID: "grid", Role.LOCKED: "grid"}
    for turn, circuit in enumerate(plan.circuits):
        plan.move([circuit.id], f"{boards[circuit.role]}-{turn % len(units) + 1}")
    plan.backed = "backup-1"


def _behind_gateway(plan: Layout) -> None:
    """Sources that meet on AC: behind a gateway where an outage is to be ridden, else beside the board."""
    w = plan.wanted
    if w.backup == "none":
        plan.parts.append(_board(plan, "board", BLOCK, "all"))
        for unit in plan.chosen.units:
            plan.feeds[unit.id] = BLOCK
        return
    opens = w.begins.opens_neutral
    plan.parts.append(
        Gateway(
            id="gateway",
            name="Gateway",
            fed_from=_grid_or_generator(plan),
            phases="+".join(_covered(plan)),
            rated_a=min(200, plan.rating_a),
            neutral_switched=opens,
            bond="relay" if opens else "none",
        )
    )
    for unit in plan.chosen.units:
        plan.feeds[unit.id] = "gateway"
    feed = _bypass(plan, "gateway")
    if w.backup == "whole building":
        plan.parts.append(_board(plan, "board", feed, "all"))
        plan.backed = "board"
    else:
        plan.parts.append(_board(plan, "board", BLOCK, "rest"))
        plan.parts.append(
            Board(
                id="essential",
                name=plan.name("essential_board"),
                fed_from=feed,
                holds="essential",
                main="none",
            )
        )
        plan.backed = "essential"


def _covered(plan: Layout) -> tuple[str, ...]:
    """The phases that units feed in an outage."""
    legs = {leg for unit in plan.chosen.doing("backs") for leg in str(unit.fields["phase"]).split("+")}
    return tuple(phase for phase in plan.wanted.phases if phase in legs)


def _other_phases(plan: Layout) -> None:
    """Circuits on phases that no unit feeds stay with the grid: on a board of their own where the others
    pass a unit."""
    covered = set(_covered(plan))
    away = [c.id for c in plan.circuits if not set(c.legs) <= covered]
    if not away or plan.wanted.backup == "none":
        return
    whole = plan.wanted.backup == "whole building"
    if whole:
        plan.parts.append(
            Board(id="other-phases", name="Grid board", fed_from=BLOCK, holds="named only", feed="none")
        )
    plan.circuits = [
        c.model_copy(update={"role": Role.GRID} | ({"board": "other-phases"} if whole else {}))
        if c.id in away
        else c
        for c in plan.circuits
    ]


def _grid_or_generator(plan: Layout) -> str:
    """What a gateway is fed from: the grid, or by a changeover the generator."""
    if not plan.wanted.generator:
        return BLOCK
    plan.parts.append(
        Throw(
            id="generator-changeover",
            name="Generator changeover",
            use="transfer",
            first=BLOCK,
            second="generator",
            rated_a=plan.rating_a,
            neutral=plan.poles,
        )
    )
    return "generator-changeover"
