"""Tasks laid over days and hands by a constraint solver, bounded by its own count of work, never by the
clock."""

import itertools
import threading
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass, field
from typing import Any

from lodestaff.job.visits import Hand, Laid, Visit
from lodestaff.quantities.going import asked_to_stop, may_go_on
from lodestaff.visits.days import QUARTER, Daylight, bad_weather, pieces, quarters
from lodestaff.visits.task import Task

MOST_WORK = 1.5  # of the solver's own deterministic units; about as many seconds on a slow core
LEFT_OUT, DAY, OFF = 100_000, 1_000, 3
SMALL = 14  # pieces


@dataclass(frozen=True)
class Layout:
    """What was laid, what found no place, whether it is proven the best, and what was asked for the bound."""

    laid: tuple[Laid, ...]
    left_over: tuple[str, ...]
    best: bool
    days: int
    dark_h: float
    cost: int


@dataclass(frozen=True)
class Wanted:
    """What is laid: tasks, days in their order with light by date, hands, what belongs on one day, what is
    done."""

    tasks: tuple[Task, ...]
    days: tuple[Visit, ...]
    hands: tuple[Hand, ...]
    together: tuple[tuple[str, ...], ...] = ()
    daylight: Mapping[str, Daylight] = field(default_factory=dict)
    done: frozenset[str] = frozenset()
    held: tuple[Laid, ...] = ()
    most_work: float = MOST_WORK


@dataclass
class _Piece:
    task: Task
    number: int
    long: int
    start: Any
    end: Any
    on: dict[int, Any]  # day -> whether it is there
    by: dict[str, Any]  # hand -> whether that one does it
    placed: Any


def lay(wanted: Wanted) -> Layout:
    """Least days, then fewest hours without power, then early. Same answer for the same question.

    Raises Stopped where the person stopped it.
    """
    return _Solver(wanted).solve()


def why_left(wanted: Wanted, left: tuple[str, ...]) -> dict[str, str]:
    """Why each task that is left over found no place, and what would give it one."""
    known = {task.id: task for task in wanted.tasks}
    most = max((len(day.hands) for day in wanted.days), default=0)
    able = {skill for hand in wanted.hands for skill in hand.skills}
    names = {}
    for name in left:
        task = known[name]
        before = [known[earlier].name for earlier in task.after if earlier in left]
        group = {member for group in wanted.together if name in group for member in group} - {name}
        with_it = [known[member] for member in left if member in group]
        if task.stuck:
            names[name] = (
                f"waits without a date for {task.stuck[0].words}: give the date on which it is expected"
            )
        elif task.people > most:
            names[name] = f"{task.people} people are wanted, {most} come: add hands to a day"
        elif task.skill not in able:
            names[name] = f"nobody among the hands does {task.skill} work: add somebody who does"
        elif not task.alone and most < 2:
            names[name] = "a second person is wanted on site: add hands to a day"
        elif before:
            names[name] = f"comes after {before[0]}, which is left over"
        elif with_it:
            words = f"must be on one day with {', '.join(other.name for other in with_it)}, "
            words += "or circuits are without power in the evening: "
            stuck = any(other.stuck or other.due for other in with_it)
            names[name] = words + ("that waits" if stuck else "give a longer day, more hands, or a bypass")
        else:
            names[name] = "no day has room for it in its weather, light and agreed hours: add a day"
    return names


@contextmanager
def _stoppable(solver: Any) -> Iterator[None]:
    """Where the person stops the work, the solver is told so from beside it."""
    stopped, over = asked_to_stop(), threading.Event()

    def watch() -> None:
        while not over.wait(0.1):
            if stopped():
                solver.stop_search()

    beside = threading.Thread(target=watch, name="lodestaff-stop", daemon=True)
    beside.start()
    try:
        yield
    finally:
        over.set()
        beside.join()
    may_go_on()


class _Solver:
    """The model: a line of quarters, day after day; a piece lies within one day."""

    def __init__(self, wanted: Wanted) -> None:
        from ortools.sat.python import cp_model

        self.cp = cp_model
        self.model = cp_model.CpModel()
        self.wanted = wanted
        self.agreed = any(day.off_from_h is not None for day in wanted.days)
        self.solved = (cp_model.OPTIMAL, cp_model.FEASIBLE)
        self.hands = {hand.id: hand for hand in wanted.hands}
        self.begins, self.long = [], []
        at = 0
        for day in wanted.days:
            self.begins.append(at)
            self.long.append(quarters(day.hours))
            at += self.long[-1]
        self.horizon = at
        self.pieces: dict[tuple[str, int], _Piece] = {}
        self.cost: list[Any] = []

    def solve(self) -> Layout:
        tasks = [task for task in self.wanted.tasks if task.id not in self.wanted.done]
        for task in tasks:
            for number, long in enumerate(pieces(task.hours), start=1):
                self._piece(task, number, long)
        self._hands()
        self._company()
        self._order(tasks)
        self._together()
        self._dark()
        self._used()
        return self._search()

    def _used(self) -> None:
        """Which days are used, and when the last piece ends."""
        self.used = [self.model.new_bool_var(f"used {day}") for day in range(len(self.wanted.days))]
        self.last = self.model.new_int_var(0, 2 * self.horizon, "last")
        for piece in self.pieces.values():
            for day, there in piece.on.items():
                self.model.add_implication(there, self.used[day])
            self.model.add(self.last >= piece.end).only_enforce_if(piece.placed)
            self.cost.append(LEFT_OUT * (1 - piece.placed))

    # --- searching ---------------------------------------------------------------------------------------
    def _search(self) -> Layout:
        """Soonest done; then, on those days, least days and hours without power; then each as early as can
        be. A small job looks for the least days on all of them."""
        status = self._solve(sum(self.cost) + self.last, 0.4)
        if status not in self.solved:
            left = tuple(dict.fromkeys(name for name, _ in self.pieces))
            return Layout((), left, False, days=0, dark_h=0.0, cost=0)
        if len(self.pieces) > SMALL:
            reached = self.solver.value(self.last)
            for day, begin in enumerate(self.begins):
                if begin >= reached:
                    self.model.add(self.used[day] == 0)
        days, dark = sum(self.used), sum(self.dark)
        price = sum(self.cost) + DAY * days + OFF * dark
        self._hint()
        status = self._solve(price, 0.4)
        best, cost = status == self.cp.OPTIMAL, round(self.solver.objective_value)
        self.model.add(price <= cost)
        for piece in self.pieces.values():
            for there in piece.on.values():
                self.model.add(there == self.solver.value(there))
        self._hint()
        self._solve(sum(piece.end for piece in self.pieces.values()), 0.2)
        return self._answer(best, cost)

    def _hint(self) -> None:
        """Begin with what was found."""
        model = self.model
        model.clear_hints()  # type: ignore[no-untyped-call]
        for piece in self.pieces.values():
            for variable in (piece.start, piece.placed, *piece.on.values(), *piece.by.values()):
                model.add_hint(variable, self.solver.value(variable))

    def _solve(self, price: Any, share: float) -> Any:
        self.model.minimize(price)
        solver = self.cp.CpSolver()
        solver.parameters.num_workers = 1  # one way of searching: the same answer every time
        solver.parameters.random_seed = 1
        solver.parameters.max_deterministic_time = self.wanted.most_work * share
        may_go_on()
        with _stoppable(solver):
            status = solver.solve(self.model)
        if status in self.solved:
            self.solver = solver
        return status

    # --- a piece -----------------------------------------------------------------------------------------
    def _piece(self, task: Task, number: int, long: int) -> None:
        model, name = self.model, f"{task.id} {number}"
        start = model.new_int_var(0, self.horizon, f"start {name}")
        end = model.new_int_var(0, self.horizon + long, f"end {name}")
        model.add(end == start + long)
        placed = model.new_bool_var(f"placed {name}")
        on = {}
        for day in range(len(self.wanted.days)):
            window = self._window(task, day, long)
            if window is None:
                continue
            there = model.new_bool_var(f"{name} on {day}")
            model.add(start >= window[0]).only_enforce_if(there)
            model.add(end <= window[1]).only_enforce_if(there)
            on[day] = there
        model.add(sum(on.values()) == placed)
        piece = _Piece(task, number, long, start=start, end=end, on=on, by={}, placed=placed)
        self.pieces[task.id, number] = piece
        held = next(
            (other for other in self.wanted.held if (other.task, other.piece) == (task.id, number)), None
        )
        if held is not None:
            self._hold(piece, held)

    def _window(self, task: Task, day: int, long: int) -> tuple[int, int] | None:
        """From when to when a piece may lie on a day, in quarters of the line; None where it can't."""
        visit = self.wanted.days[day]
        if task.stuck or (task.due and visit.date < task.due):
            return None
        if bad_weather(visit, task.wind_m_s, task.dry, task.frost_free):
            return None
        begin, end = visit.from_h, visit.to_h
        light = self.wanted.daylight.get(visit.date)
        if task.daylight and light is not None:
            begin, end = max(begin, light.rises_h), min(end, light.sets_h)
        if task.building and self.agreed:
            if visit.off_from_h is None or visit.off_to_h is None:
                return None
            begin, end = max(begin, visit.off_from_h), min(end, visit.off_to_h)
        first = self.begins[day] + quarters(begin - visit.from_h + QUARTER) - 1
        last = self.begins[day] + int((end - visit.from_h) / QUARTER + 1e-6)
        return (first, last) if last - first >= long else None

    def _hold(self, piece: _Piece, held: Laid) -> None:
        """Keep a piece where a hand put it; where that can't be, it is laid anew."""
        day = next((n for n, visit in enumerate(self.wanted.days) if visit.id == held.visit), None)
        if day is None or day not in piece.on:
            return
        at = self.begins[day] + round((held.at_h - self.wanted.days[day].from_h) / QUARTER)
        window = self._window(piece.task, day, piece.long)
        if window is not None and window[0] <= at <= window[1] - piece.long:
            self.model.add(piece.start == at)
            self.model.add(piece.placed == 1)

    # --- who does it -------------------------------------------------------------------------------------
    def _hands(self) -> None:
        model = self.model
        for hand in self.wanted.hands:
            busy = []
            for piece in self.pieces.values():
                does = model.new_bool_var(f"{hand.id} {piece.task.id} {piece.number}")
                piece.by[hand.id] = does
                span = model.new_optional_interval_var(piece.start, piece.long, piece.end, does, "")
                busy.append(span)
                for day, there in piece.on.items():
                    if hand.id not in self.wanted.days[day].hands:
                        model.add_bool_or([~does, ~there])
            model.add_no_overlap(busy)
        for piece in self.pieces.values():
            model.add(sum(piece.by.values()) == piece.task.people * piece.placed)
            able = [by for hand, by in piece.by.items() if piece.task.skill in self.hands[hand].skills]
            model.add(sum(able) >= piece.placed)

    def _company(self) -> None:
        """Nobody alone where two are wanted: a second one is on site that day."""
        for piece in self.pieces.values():
            if piece.task.alone:
                continue
            for day, there in piece.on.items():
                if len(self.wanted.days[day].hands) < 2:
                    self.model.add(there == 0)

    # --- order -------------------------------------------------------------------------------------------
    def _of(self, task: str) -> list[_Piece]:
        return [piece for (name, _), piece in self.pieces.items() if name == task]

    def _order(self, tasks: list[Task]) -> None:
        for task in tasks:
            mine = self._of(task.id)
            for before, after in itertools.pairwise(mine):
                self._before(before, after)
            for name in task.after:
                last = self._of(name)
                if last:
                    self._before(last[-1], mine[0])

    def _before(self, first: _Piece, then: _Piece) -> None:
        self.model.add_implication(then.placed, first.placed)
        self.model.add(then.start >= first.end).only_enforce_if(then.placed)

    def _together(self) -> None:
        """What must be on one day, or circuits are without power in the evening: all of it, or none."""
        for group in self.wanted.together:
            every = [piece for name in group for piece in self._of(name)]
            for other in every[1:]:
                for day in range(len(self.wanted.days)):
                    self.model.add(every[0].on.get(day, 0) == other.on.get(day, 0))

    def _dark(self) -> None:
        """The hours without power of a day: from the first piece that takes it to the end of the last."""
        self.dark = []
        offs = [piece for piece in self.pieces.values() if piece.task.building]
        for day in range(len(self.wanted.days)):
            here = [piece for piece in offs if day in piece.on]
            if not here:
                continue
            span = self.model.new_int_var(0, self.long[day], f"dark {day}")
            for laid_here in here:
                self.model.add(span >= laid_here.long).only_enforce_if(laid_here.on[day])
                for other in here:
                    if laid_here is not other:
                        both = [laid_here.on[day], other.on[day]]
                        self.model.add(span >= laid_here.end - other.start).only_enforce_if(both)
            self.dark.append(span)

    # --- the answer --------------------------------------------------------------------------------------
    def _answer(self, best: bool, cost: int) -> Layout:
        value, held = self.solver.value, {(other.task, other.piece) for other in self.wanted.held}
        dates = {day.id: day.date for day in self.wanted.days}
        laid, left = [], []
        for (name, number), piece in self.pieces.items():
            if not value(piece.placed):
                left.append(name)
                continue
            day = next(day for day, there in piece.on.items() if value(there))
            visit = self.wanted.days[day]
            at = visit.from_h + (value(piece.start) - self.begins[day]) * QUARTER
            hands = tuple(hand for hand, by in piece.by.items() if value(by))
            laid.append(
                Laid(
                    task=name, piece=number, visit=visit.id, at_h=at, hands=hands, held=(name, number) in held
                )
            )
        return Layout(
            tuple(sorted(laid, key=lambda row: (dates[row.visit], row.at_h, row.task, row.piece))),
            tuple(dict.fromkeys(left)),
            best,
            days=sum(bool(value(day)) for day in self.used),
            dark_h=sum(value(span) for span in self.dark) * QUARTER,
            cost=cost,
        )
