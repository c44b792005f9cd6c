"""Boards, devices between sources, meters and transformers: each choice adds its parts and says what is fed from where."""

from dataclasses import dataclass, field

from lodestaff.catalogue import Pack, load_pack
from lodestaff.job import Circuit, Role
from lodestaff.job.plan import (
    Adjustment,
    Board,
    Combiner,
    Contactor,
    Electrode,
    Gateway,
    Generator,
    Insert,
    OwnSun,
    Placed,
    Shutdown,
    Throw,
    Transformer,
)
from lodestaff.starts.circuits import CHARGER, COOLER, SURPLUS, TANK, circuit
from lodestaff.starts.roofs import tracker_names
from lodestaff.starts.units import Chosen, Part
from lodestaff.starts.wanted import Wanted

BLOCK = "block"


@dataclass
class Layout:
    """What grows while the choices are gone through. `feeds` says where each unit is connected."""

    wanted: Wanted
    chosen: Chosen
    pack: Pack
    circuits: list[Circuit]
    parts: list[Placed] = field(default_factory=list)
    adjustments: list[Adjustment] = field(default_factory=list)
    feeds: dict[str, str] = field(default_factory=dict)
    origin: str = BLOCK  # where the house's boards come from while nothing stands between
    backed: str = ""  # the board that is fed in an outage
    bonds: dict[str, str] = field(default_factory=dict)

    @property
    def rating_a(self) -> float:
        return self.wanted.rating_a or 100

    def word(self, idea: str) -> str:
        return self.pack.word(idea)

    def name(self, idea: str) -> str:
        word = self.word(idea)
        return word[0].upper() + word[1:]

    def move(self, ids: list[str], board: str, role: Role | None = None) -> None:
        """Put circuits on a board."""
        change = {"board": board} | ({"role": role} if role else {})
        self.circuits = [c.model_copy(update=change) if c.id in ids else c for c in self.circuits]


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
    _existing(plan)
    _second_building(plan)
    _charger(plan)
    _surplus(plan)
    _transformers(plan)
    _shutdown(plan)
    _meter(plan)
    _electrodes(plan)
    _isolators(plan)
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
    alone = w.pack == "uk" and (w.grid or w.units == 1)
    plan.parts.append(
        Generator(id="generator", name="Generator", rated_kva=8, feeds=inputs, started_by=first, bonded=alone,
                  phases="+".join(w.phases) if w.split else w.phases[0])
    )  # fmt: skip


def _outbuilding(plan: Layout) -> None:
    """A sub-main to an outbuilding where array and battery stand."""
    name = f"Outbuilding {plan.word('board')}"
    plan.parts.append(Board(id="outbuilding", name=name, fed_from=BLOCK, building="outbuilding", holds="named only"))


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
        plan.parts.append(Combiner(id="outputs", name="Outputs joined", feeds=tuple(f"{u.id}:backup" for u in units)))
        output = "outputs"
    if w.backup == "none":
        plan.parts.append(_board(plan, "board", BLOCK, "all"))
        return
    if w.backup == "outlet":
        plan.parts.append(_board(plan, "board", BLOCK, "rest"))
        plan.parts.append(Board(id="outlet", name="Emergency outlet", fed_from=output, holds="essential", main="rcd",
                                feed="none"))  # fmt: skip
        plan.backed = "outlet"
        _keep_few(plan)
        return
    feed = _bypass(plan, output)
    if w.backup == "whole building":
        link = not w.grid and (w.pack != "uk" or len(units) > 1)
        plan.parts.append(_board(plan, "board", feed, "all").model_copy(update={"link": link}))
        plan.backed = "board"
        return
    main_feed = BLOCK
    if w.interlock:
        plan.parts.append(Throw(id="interlock", name="Interlock", use="interlock", first=BLOCK, second=output,
                                rated_a=plan.rating_a, middle_off=True, neutral=_poles(plan)))  # fmt: skip
        main_feed = "interlock"
    plan.parts.append(_board(plan, "board", main_feed, "rest"))
    plan.parts.append(Board(id="essential", name=plan.name("essential_board"), fed_from=feed, holds="essential",
                            main="rcd" if w.pack == "uk" else "none", feed="none"))  # fmt: skip
    plan.backed = "essential"


def _poles(plan: Layout) -> str:
    return "with neutral" if plan.wanted.pack == "uk" else "phases only"


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
        Throw(id="bypass", name=plan.name("bypass") if w.bypass == "by hand" else "Automatic changeover",
              use="bypass" if w.bypass == "by hand" else "transfer", first=output, second=other, rated_a=plan.rating_a,
              automatic=w.bypass == "automatic", middle_off=w.bypass == "by hand", neutral=_poles(plan))
    )  # fmt: skip
    return "bypass"


def _keep_few(plan: Layout) -> None:
    """An outlet carries two circuits; the others stay on the grid."""
    kept = [c.id for c in plan.circuits if c.role is Role.HELD][:2]
    plan.circuits = [
        c.model_copy(update={"role": Role.GRID}) if c.role in (Role.HELD, Role.SHED) and c.id not in kept else c
        for c in plan.circuits
    ]


def _one_on_each(plan: Layout, units: tuple[Part, ...]) -> None:
    """A unit on each phase with a board of its own; the old board keeps the rest of all phases."""
    plan.parts.append(_board(plan, "board", BLOCK, "rest"))
    for unit in units:
        phase = str(unit.fields["phase"])
        name = f"{plan.name('essential_board')} {phase}"
        plan.parts.append(Board(id=f"{unit.id}-essential", name=name, fed_from=f"{unit.id}:backup", phases=phase,
                                holds="essential", main="rcd", feed="none"))  # fmt: skip
    plan.backed = f"{units[0].id}-essential"
    covered = {str(unit.fields["phase"]) for unit in units}
    plan.circuits = [c if c.phase in covered or c.role not in (Role.HELD, Role.SHED)
                     else c.model_copy(update={"role": Role.GRID}) for c in plan.circuits]  # fmt: skip


def _side_by_side(plan: Layout) -> None:
    """Systems that don't know of each other: each a grid board, a unit, a backup board, a bypass."""
    w, units = plan.wanted, plan.chosen.doing("backs")
    for number, unit in enumerate(units, start=1):
        grid, backup = f"grid-{number}", f"backup-{number}"
        plan.parts.append(Board(id=grid, name=f"Grid board {number}", fed_from=BLOCK, holds="rest"))
        plan.feeds[unit.id] = grid
        feed = f"{unit.id}:backup"
        if w.bypass != "none":
            plan.parts.append(Throw(id=f"bypass-{number}", name=f"Bypass {number}", use="bypass", first=feed, second=grid,
                                    rated_a=plan.rating_a / 2, neutral=_poles(plan)))  # fmt: skip
            feed = f"bypass-{number}"
        plan.parts.append(Board(id=backup, name=f"Backup board {number}", fed_from=feed, holds="essential", main="none",
                                feed="none"))  # fmt: skip
    boards = {Role.HELD: "backup", Role.SHED: "backup", Role.GRID: "grid", Role.LOCKED: "grid"}
    for turn, one in enumerate(plan.circuits):
        plan.move([one.id], f"{boards[one.role]}-{turn % len(units) + 1}")
    plan.backed = "backup-1"


def _behind_gateway(plan: Layout) -> None:
    """Sources that meet on AC: behind a gateway where an outage is to be ridden, else beside the board."""
    w = plan.wanted
    if w.backup == "none":
        plan.parts.append(_board(plan, "board", BLOCK, "all"))
        for unit in plan.chosen.units:
            plan.feeds[unit.id] = BLOCK
        return
    opens = w.pack == "uk"
    plan.parts.append(
        Gateway(id="gateway", name="Gateway", fed_from=_grid_or_generator(plan), rated_a=min(200, plan.rating_a), neutral_switched=opens,
                bond="relay" if opens else "none")
    )  # fmt: skip
    for unit in plan.chosen.units:
        plan.feeds[unit.id] = "gateway"
    feed = _bypass(plan, "gateway")
    if w.backup == "whole building":
        plan.parts.append(_board(plan, "board", feed, "all"))
        plan.backed = "board"
    else:
        plan.parts.append(_board(plan, "board", BLOCK, "rest"))
        plan.parts.append(Board(id="essential", name=plan.name("essential_board"), fed_from=feed, holds="essential",
                                main="none"))  # fmt: skip
        plan.backed = "essential"


def _grid_or_generator(plan: Layout) -> str:
    """What a gateway is fed from: the grid, or by a changeover the generator."""
    if not plan.wanted.generator:
        return BLOCK
    plan.parts.append(Throw(id="generator-changeover", name="Generator changeover", use="transfer", first=BLOCK,
                            second="generator", rated_a=plan.rating_a, neutral=_poles(plan)))  # fmt: skip
    return "generator-changeover"


def _existing(plan: Layout) -> None:
    """Generation that is there already beside a hybrid stays on the grid side, with its own meter."""
    for unit in plan.chosen.units:
        if unit.fields.get("existing"):
            plan.feeds.setdefault(unit.id, BLOCK)
            plan.adjustments.append(
                Insert(
                    id=f"{unit.id}-meter", name="Meter of the existing array", what="meter", into=unit.id, two_way=False
                )
            )


def _second_building(plan: Layout) -> None:
    """Three held circuits stand in a second building with its own feeder."""
    if not plan.wanted.second_building or not plan.backed:
        return
    plan.parts.append(Board(id="second", name="Second building", fed_from=plan.backed, building="second building",
                            holds="named only", main="isolator"))  # fmt: skip
    kept = [c.id for c in plan.circuits if c.role in (Role.HELD, Role.SHED)][-3:]
    plan.move(kept, "second")
    if plan.wanted.family == "microinverters and battery unit":
        branches = plan.chosen.doing("sun")
        plan.feeds[branches[-1].id] = "second"


def _charger(plan: Layout) -> None:
    """A car charger; where its board is fed in an outage, behind a contactor that the grid holds."""
    w = plan.wanted
    if not w.charger:
        return
    phase = "+".join(w.phases) if w.split else w.phases[0]
    board = next((p.id for p in plan.parts if isinstance(p, Board) and p.holds in ("rest", "all")), "board")
    on = board
    if board == plan.backed:
        plan.parts.append(Contactor(id="charger-lock", name="Charger contactor", fed_from=board, rated_a=40,
                                    phases=phase, closes="with the grid"))  # fmt: skip
        on = "charger-lock"
    plan.circuits.append(circuit(CHARGER, phase, board=on))
    first = plan.chosen.doing("backs")
    if first:
        plan.parts.append(Transformer(id="charger-ct", name="Charger CT", on=("circuit-charger",), serves="charger-lock"
                                      if on == "charger-lock" else first[0].id, watches="charger"))  # fmt: skip


def _surplus(plan: Layout) -> None:
    w = plan.wanted
    if not w.surplus:
        return
    board = plan.backed or "board"
    phase = w.phases[0]
    plan.parts.append(Contactor(id="surplus", name="Surplus contactor", fed_from=board, rated_a=25, phases=phase,
                                closes="with surplus"))  # fmt: skip
    plan.parts.append(Board(id="surplus-loads", name="Surplus loads", fed_from="surplus", phases=phase,
                            holds="named only", main="none", feed="none"))  # fmt: skip
    plan.circuits += [circuit(row, phase, board="surplus-loads") for row in SURPLUS]
    if w.arrangement == "side by side":
        plan.circuits.append(circuit(TANK, phase, board="grid-1", also_on="backup-2"))
    if w.own_sun:
        plan.circuits.append(circuit(COOLER, phase, board="grid-2" if w.arrangement == "side by side" else board))
        plan.parts.append(OwnSun(id="cooler-sun", name="Cooler's own array", circuit="sun-cooler", modules=3))


def _transformers(plan: Layout) -> None:
    """What each unit watches: the whole site, its own side, or chosen circuits."""
    w = plan.wanted
    backs = plan.chosen.doing("backs")
    if not w.grid or not backs:
        return
    if w.arrangement == "side by side":
        for number, unit in enumerate(backs, start=1):
            plan.parts.append(Transformer(id=f"ct-{number}", name=f"CT {number}", on=(f"grid-{number}",), serves=unit.id,
                                          watches="own circuits"))  # fmt: skip
        return
    if w.chosen_loads_ct:
        plan.parts.append(Transformer(id="ct", name="CT on chosen circuits", on=("board",), serves=backs[0].id,
                                      watches="own circuits"))  # fmt: skip
        return
    for number, unit in enumerate(backs, start=1):
        if number > 1 and w.arrangement != "one on each phase":
            break
        id = "ct" if number == 1 else f"ct-{number}"
        phases = str(unit.fields["phase"]) if w.arrangement == "one on each phase" else ""
        plan.parts.append(Transformer(id=id, name="Supply CT" if number == 1 else f"Supply CT {number}",
                                      on=("main-isolator",), serves=unit.id, watches="whole site", phases=phases,
                proves_limit=True))  # fmt: skip


def _shutdown(plan: Layout) -> None:
    """The transmitter is fed from a board that lives in every state."""
    if not plan.wanted.shutdown:
        return
    solar = tuple(unit.id for unit in plan.chosen.units if tracker_names(unit).trackers
                  and not tracker_names(unit).module_level)  # fmt: skip
    plan.parts.append(
        Shutdown(id="transmitter", name="Shutdown transmitter", fed_from=plan.backed or "board", units=solar)
    )


def _meter(plan: Layout) -> None:
    if not plan.wanted.metered:
        return
    for unit in plan.chosen.units:
        if not unit.fields.get("existing"):
            two_way = unit.does == "backs"
            plan.adjustments.append(Insert(id=f"{unit.id}-meter", name="Generation meter", what="meter", into=unit.id
                                           + (":grid" if tracker_names(unit).transfer else ""), two_way=two_way))  # fmt: skip


def _isolators(plan: Layout) -> None:
    """An isolator beside each unit, on its AC side."""
    for unit in plan.chosen.units:
        port = "grid" if tracker_names(unit).transfer else "ac"
        if plan.feeds.get(unit.id):
            name = f"{plan.name('isolator')} at {unit.fields['name']}"
            into = f"{unit.id}:{port}"
            plan.adjustments.append(Insert(id=f"{unit.id}-isolator", name=name, what="isolator", into=into))


def _electrodes(plan: Layout) -> None:
    """An electrode where the changeover opens the neutral, and at each further building."""
    w = plan.wanted
    name = f"{plan.word('earth').capitalize()} electrode"
    if w.pack == "uk" and w.backup != "none":
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
