"""What stands beside the boards: meters, chargers, surplus loads, transformers, shutdown, electrodes,
isolators."""

from lodestaff.job import Role
from lodestaff.job.plan import Board, Contactor, Electrode, Gateway, Insert, OwnSun, Shutdown, Transformer
from lodestaff.templates.circuits import addition, circuit
from lodestaff.templates.layout import BLOCK, Layout
from lodestaff.templates.roofs import tracker_names
from lodestaff.templates.units import Part
from lodestaff.templates.wanted import Wanted


def existing(plan: Layout) -> None:
    """Generation that is there already beside a hybrid stays on the grid side, with its own meter; without a
    grid it feeds the board that the units feed."""
    side = BLOCK if plan.wanted.grid else plan.backed or BLOCK
    for unit in plan.chosen.units:
        if unit.fields.get("existing"):
            plan.feeds.setdefault(unit.id, side)
            plan.adjustments.append(
                Insert(
                    id=f"{unit.id}-meter",
                    name="Meter of the existing array",
                    what="meter",
                    into=unit.id,
                    two_way=False,
                )
            )


def second_building(plan: Layout) -> None:
    """Three held circuits stand in a second building with its own feeder."""
    if not plan.wanted.second_building or not plan.backed:
        return
    plan.parts.append(
        Board(
            id="second",
            name="Second building",
            fed_from=plan.backed,
            building="second building",
            holds="named only",
            main="isolator",
        )
    )
    legs = set(str(plan.chosen.doing("backs")[0].fields["phase"]).split("+"))
    kept = [c.id for c in plan.circuits if c.role in (Role.HELD, Role.SHED) and set(c.legs) <= legs][-3:]
    plan.move(kept, "second")
    if plan.wanted.family == "microinverters and battery unit":
        branches = plan.chosen.doing("sun")
        plan.feeds[branches[-1].id] = "second"


def charger(plan: Layout) -> None:
    """A car charger; where its board is fed in an outage, behind a contactor that the grid holds."""
    w = plan.wanted
    if not w.charger:
        return
    phase = "+".join(w.phases) if w.across else w.phases[0]
    board = next((p.id for p in plan.parts if isinstance(p, Board) and p.holds in ("rest", "all")), "board")
    on = board
    if board == plan.backed:
        plan.parts.append(
            Contactor(
                id="charger-lock",
                name="Charger contactor",
                fed_from=board,
                rated_a=40,
                phases=phase,
                closes="with the grid",
            )
        )
        on = "charger-lock"
    plan.circuits.append(circuit(addition(w, "charger"), phase, board=on))
    first = plan.chosen.doing("backs")
    if first:
        plan.parts.append(
            Transformer(
                id="charger-ct",
                name="Charger CT",
                on=("circuit-charger",),
                serves="charger-lock" if on == "charger-lock" else first[0].id,
                watches="charger",
            )
        )


def surplus(plan: Layout) -> None:
    w = plan.wanted
    if not w.surplus:
        return
    board = plan.backed or "board"
    phase = w.phases[0]
    plan.parts.append(
        Contactor(
            id="surplus",
            name="Surplus contactor",
            fed_from=board,
            rated_a=25,
            phases=phase,
            closes="with surplus",
        )
    )
    plan.parts.append(
        Board(
            id="surplus-loads",
            name="Surplus loads",
            fed_from="surplus",
            phases=phase,
            holds="named only",
            main="none",
            feed="none",
        )
    )
    plan.circuits += [
        circuit(addition(w, id), phase, board="surplus-loads") for id in ("element-1", "element-2")
    ]
    if w.arrangement == "side by side":
        plan.circuits.append(circuit(addition(w, "tank"), phase, board="grid-1", also_on="backup-2"))
    if w.own_sun:
        plan.circuits.append(
            circuit(
                addition(w, "sun-cooler"), phase, board="grid-2" if w.arrangement == "side by side" else board
            )
        )
        plan.parts.append(OwnSun(id="cooler-sun", name="Cooler's own array", circuit="sun-cooler", modules=3))


def transformers(plan: Layout) -> None:
    """What each unit watches: the whole site, its own side, or chosen circuits."""
    w = plan.wanted
    backs = plan.chosen.doing("backs")
    if not w.grid or not backs:
        return
    if w.arrangement == "side by side":
        for number, unit in enumerate(backs, start=1):
            plan.parts.append(
                Transformer(
                    id=f"ct-{number}",
                    name=f"CT {number}",
                    on=(f"grid-{number}",),
                    serves=unit.id,
                    watches="own circuits",
                )
            )
        return
    if w.chosen_loads_ct:
        plan.parts.append(
            Transformer(
                id="ct",
                name="CT on chosen circuits",
                on=("board",),
                serves=backs[0].id,
                watches="own circuits",
            )
        )
        return
    for number, unit in enumerate(backs, start=1):
        if number > 1 and w.arrangement != "one on each phase":
            break
        id = "ct" if number == 1 else f"ct-{number}"
        phases = str(unit.fields["phase"]) if w.arrangement == "one on each phase" else ""
        plan.parts.append(
            Transformer(
                id=id,
                name="Supply CT" if number == 1 else f"Supply CT {number}",
                on=("main-isolator",),
                serves=unit.id,
                watches="whole site",
                phases=phases,
                proves_limit=True,
                obeyed_by=_followers(w, backs, number),
            )
        )


def _followers(w: Wanted, backs: tuple[Part, ...], number: int) -> tuple[str, ...]:
    """Battery units behind one gateway are led by the first of them."""
    if number > 1 or w.arrangement != "together" or w.family == "hybrid":
        return ()
    return tuple(unit.id for unit in backs[1:])


def shutdown(plan: Layout) -> None:
    """The transmitter is fed from a board that lives in every state."""
    if not plan.wanted.shutdown:
        return
    solar = tuple(
        unit.id
        for unit in plan.chosen.units
        if tracker_names(unit).trackers and not tracker_names(unit).module_level
    )
    plan.parts.append(
        Shutdown(id="transmitter", name="Shutdown transmitter", fed_from=plan.backed or "board", units=solar)
    )


def meter(plan: Layout) -> None:
    if not plan.wanted.metered:
        return
    for unit in plan.chosen.units:
        if not unit.fields.get("existing") and plan.feeds.get(unit.id):
            two_way = unit.does == "backs"
            plan.adjustments.append(
                Insert(
                    id=f"{unit.id}-meter",
                    name="Generation meter",
                    what="meter",
                    into=unit.id + (":grid" if tracker_names(unit).transfer else ""),
                    two_way=two_way,
                )
            )


def isolators(plan: Layout) -> None:
    """An isolator beside each unit, on its AC side."""
    for unit in plan.chosen.units:
        port = "grid" if tracker_names(unit).transfer else "ac"
        if plan.feeds.get(unit.id):
            name = f"{plan.name('isolator')} at {unit.fields['name']}"
            into = f"{unit.id}:{port}"
            plan.adjustments.append(Insert(id=f"{unit.id}-isolator", name=name, what="isolator", into=into))


def electrodes(plan: Layout) -> None:
    """An electrode where the changeover opens the neutral, and at each further building."""
    w = plan.wanted
    name = f"{plan.word('earth').capitalize()} electrode"
    if (w.begins.opens_neutral and w.backup != "none") or not w.grid:
        gateway = any(isinstance(part, Gateway) for part in plan.parts)
        places = ["gateway"] if gateway else [unit.id for unit in plan.chosen.doing("backs")]
        if w.arrangement != "one on each phase":
            places = places[:1]
        for number, place in enumerate(places):
            plan.parts.append(
                Electrode(id="electrode" if not number else f"electrode-{number + 1}", name=name, at=place)
            )
    for part in list(plan.parts):
        if isinstance(part, Board) and part.building:
            plan.parts.append(Electrode(id=f"{part.id}-electrode", name=name, at=part.id))
