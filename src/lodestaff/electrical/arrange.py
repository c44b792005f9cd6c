"""Which modules on which strings, strings on which trackers: every way that passes, the best kept.

Modules that are alike (same face, same shade, same sheet) are counted, not told apart. The search goes
tracker by tracker, the most promising strings first, and leaves a branch when even without any mismatch it
couldn't reach the best that are kept. It is bounded by the ways it looks at, never by time.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from functools import cached_property
from operator import attrgetter, gt, sub

Counts = tuple[int, ...]  # modules of each kind
MOST_LOOKED_AT = 100_000
MOST_PARALLEL = 3
SLICE = 0.005  # of the year: less says nothing; common practice, no source


@dataclass(frozen=True)
class Alike:
    """Modules that are alike: how many, what one makes alone in a year, and which sheet they are of."""

    count: int
    kwh: float
    sheet: str
    isc_a: float


@dataclass(frozen=True)
class Taker:
    """A tracker: the least and most modules of each kind in one string (0 to 0 where none fits), how many
    strings it takes in parallel, its short-circuit rating over the factor, and a word that its equals share.

    A tracker of converters behind each module (`alone`) takes up to `room` modules of any kind, each for
    itself.
    """

    unit: str
    name: str
    lengths: tuple[tuple[int, int], ...]
    parallel: int
    isc_most_a: float
    like: str = ""
    rated_kw: float = 1.0  # of the unit
    alone: bool = False
    room: int = 0


@dataclass(frozen=True)
class Option:
    """What one tracker may carry: its strings, and their year in kWh."""

    strings: tuple[Counts, ...]
    kwh: float

    @cached_property
    def total(self) -> Counts:
        return tuple(map(sum, zip(*self.strings, strict=True))) if self.strings else ()


@dataclass(frozen=True)
class Way:
    """A whole arrangement: an option for each tracker, its year in kWh, modules used, strings, and faces
    mixed."""

    options: tuple[Option, ...]
    kwh: float
    used: int
    strings: int
    rank: tuple[int, float, int, int]  # higher is better: energy, even units, few home runs, few lengths


def below(kwh: float, most: float) -> int:
    """By how many slices a year falls short of the most there could be: what lies in one slice is told apart
    by how it is built."""
    return int((1 - kwh / most) / SLICE + 1e-9) if most > 0 else 0


@dataclass
class Found:
    """The best ways, best first; how many were looked at, and whether that was all of them."""

    ways: list[Way] = field(default_factory=list)
    looked_at: int = 0
    exact: bool = True


def compositions(kinds: tuple[Alike, ...], taker: Taker) -> Iterator[Counts]:
    """Strings that fit a tracker: of one kind, then of two kinds of one sheet."""
    for index, kind in enumerate(kinds):
        least, most = taker.lengths[index]
        for length in range(max(1, least), min(most, kind.count) + 1):
            yield _counts(len(kinds), {index: length})
    for first, likeness in enumerate(kinds):
        for second in range(first + 1, len(kinds)):
            if kinds[second].sheet != likeness.sheet:
                continue
            least = max(taker.lengths[first][0], taker.lengths[second][0])
            most = min(taker.lengths[first][1], taker.lengths[second][1])
            for length in range(max(2, least), most + 1):
                for part in range(max(1, length - kinds[second].count), min(length - 1, likeness.count) + 1):
                    yield _counts(len(kinds), {first: part, second: length - part})


def _counts(size: int, given: dict[int, int]) -> Counts:
    return tuple(given.get(index, 0) for index in range(size))


def options_of(
    kinds: tuple[Alike, ...], taker: Taker, string_kwh: Callable[[Counts], float], fair: float = 1e9
) -> tuple[Option, ...]:
    """What a tracker may carry: nothing, one string, or equal ones of one kind each in parallel; those that
    lose least by mismatch first, and of these the ones nearest to a `fair` number of modules."""
    if taker.alone:
        return tuple(_each_alone(kinds, taker))
    singles = list(compositions(kinds, taker))
    isc = {counts: max(k.isc_a for k, n in zip(kinds, counts, strict=True) if n) for counts in singles}
    options = [Option((counts,), string_kwh(counts)) for counts in singles if isc[counts] <= taker.isc_most_a]
    pure = [counts for counts in singles if sum(n > 0 for n in counts) == 1]
    sheet = {counts: next(k.sheet for k, n in zip(kinds, counts, strict=True) if n) for counts in pure}
    for parallel in range(2, min(taker.parallel, MOST_PARALLEL) + 1):
        for strings in _equal(pure, parallel):
            if len({(sum(counts), sheet[counts]) for counts in strings}) > 1:
                continue
            total = tuple(map(sum, zip(*strings, strict=True)))
            fits = all(n <= kind.count for n, kind in zip(total, kinds, strict=True))
            if fits and sum(isc[counts] for counts in strings) <= taker.isc_most_a:
                options.append(Option(strings, sum(map(string_kwh, strings))))
    options.append(Option((), 0.0))

    def promise(option: Option) -> tuple[float, float, tuple[Counts, ...]]:
        alone = sum(n * kind.kwh for n, kind in zip(option.total, kinds, strict=False))
        lost = 1 - option.kwh / alone if alone > 0 else 0.0
        return round(lost, 3), abs(sum(option.total) - fair), option.strings

    return tuple(sorted(options, key=promise))


def _equal(pure: list[Counts], parallel: int, start: int = 0) -> Iterator[tuple[Counts, ...]]:
    """Strings of one length side by side, each set once."""
    for index in range(start, len(pure)):
        if parallel == 1:
            yield (pure[index],)
            continue
        for rest in _equal(pure, parallel - 1, index):
            if sum(rest[0]) == sum(pure[index]):
                yield (pure[index], *rest)


def _each_alone(kinds: tuple[Alike, ...], taker: Taker) -> Iterator[Option]:
    """As many modules of one kind as there is room, or all of several kinds in their order."""
    yielded = set()
    for start in range(len(kinds)):
        counts, room = [0] * len(kinds), taker.room
        for index in (*range(start, len(kinds)), *range(start)):
            counts[index] = min(room, kinds[index].count)
            room -= counts[index]
        only = _counts(len(kinds), {start: min(taker.room, kinds[start].count)})
        for each in (tuple(counts), only):
            if each not in yielded:
                yielded.add(each)
                yield Option((each,), sum(n * k.kwh for n, k in zip(each, kinds, strict=True)))
    yield Option((), 0.0)


def arrange(
    kinds: tuple[Alike, ...],
    takers: tuple[Taker, ...],
    string_kwh: Callable[[Counts], float],
    keep: int = 10,
    most: int = MOST_LOOKED_AT,
    step: Callable[[int], bool] = lambda looked_at: True,
) -> Found:
    """The best ways to put modules on trackers.

    `string_kwh` gives a string's year. `step` is told now and then how many ways were looked at; where it
    answers no the search ends with what it has. Ways that leave out modules rank by what they make.
    """
    modules = sum(kind.count for kind in kinds)
    options = tuple(
        options_of(kinds, taker, string_kwh, fair=modules * part)
        for taker, part in zip(takers, _shares(takers), strict=True)
    )
    search = _Search(kinds, options, takers, keep, most)
    search.step = step
    if takers:
        search.go(0, tuple(kind.count for kind in kinds), (), 0.0)
    return search.best


def _shares(takers: tuple[Taker, ...]) -> list[float]:
    """Each tracker's part of the modules: its unit's by rating, shared among the unit's trackers."""
    rated = {taker.unit: taker.rated_kw for taker in takers}
    many = {unit: sum(taker.unit == unit for taker in takers) for unit in rated}
    return [taker.rated_kw / sum(rated.values()) / many[taker.unit] for taker in takers]


class _Search:
    """The state of one search."""

    def __init__(
        self,
        kinds: tuple[Alike, ...],
        options: tuple[tuple[Option, ...], ...],
        takers: tuple[Taker, ...],
        keep: int,
        most: int,
    ) -> None:
        self.kinds, self.options, self.takers = kinds, options, takers
        self.keep, self.most = keep, most
        self.best = Found()
        self.step: Callable[[int], bool] = lambda looked_at: True
        nothing = (0,) * len(kinds)
        self.rows = [
            [(option, option.total or nothing, option.kwh, len(option.strings)) for option in mine]
            for mine in options
        ]
        # the most modules that the trackers from each place on can carry
        rooms = [max((sum(option.total) for option in mine), default=0) for mine in options]
        self.room_after = [sum(rooms[place:]) for place in range(len(rooms) + 1)]
        self.by_worth = sorted(range(len(kinds)), key=lambda index: -kinds[index].kwh)
        self.worth = [kind.kwh for kind in kinds]
        self.most_kwh = self.bound(tuple(kind.count for kind in kinds), self.room_after[0])
        self.stopped, self.worst = False, 10**9  # the slice that a way must reach to be kept

    def bound(self, left: Counts, room: int) -> float:
        """No more than this can still be added: the best modules that are left, without any mismatch."""
        total = 0.0
        for index in self.by_worth:
            taken = left[index]
            if taken >= room:
                return total + room * self.worth[index]
            total += taken * self.worth[index]
            room -= taken
        return total

    def go(self, place: int, left: Counts, chosen: tuple[Option, ...], kwh: float) -> None:
        """All that the trackers from a place on may carry of what is left."""
        last = place == len(self.options) - 1
        room, like = self.room_after[place + 1], self.takers[place].like
        start = 0
        if place and like and self.takers[place - 1].like == like:
            start = self.options[place].index(chosen[-1])  # equals in order, so that each way is met once
        for option, total, more, strings in self.rows[place][start:]:
            if strings and any(map(gt, total, left)):
                continue
            rest = tuple(map(sub, left, total)) if strings else left
            self.best.looked_at += 1
            if self.best.looked_at > self.most or (
                self.best.looked_at % 4096 == 0 and not self.step(self.best.looked_at)
            ):
                self.stopped, self.best.exact = True, False
                return
            reach = kwh + more + (0.0 if last else self.bound(rest, room))
            if below(reach, self.most_kwh) > self.worst:
                continue
            if last:
                self._end((*chosen, option), kwh + more, rest)
                continue
            self.go(place + 1, rest, (*chosen, option), kwh + more)
            if self.stopped:
                return

    def _end(self, chosen: tuple[Option, ...], kwh: float, left: Counts) -> None:
        used = sum(kind.count for kind in self.kinds) - sum(left)
        ways = self.best.ways
        full = len(ways) >= self.keep
        slices = below(kwh, self.most_kwh)
        if not used or (full and slices > self.worst):
            return
        lengths = {sum(counts) for option in chosen for counts in option.strings}
        strings = sum(len(option.strings) for option in chosen)
        rank = (-slices, -self._uneven(chosen), -strings, -len(lengths))
        if full and rank <= ways[-1].rank:
            return
        ways.append(Way(chosen, kwh, used, strings, rank=rank))
        ways.sort(key=attrgetter("rank"), reverse=True)
        del ways[self.keep :]
        if len(ways) == self.keep:
            self.worst = -ways[-1].rank[0]

    def _uneven(self, chosen: tuple[Option, ...]) -> float:
        """By how much the fullest unit has more modules for its rating than the emptiest, of the mean."""
        loads: dict[str, float] = {}
        for option, taker in zip(chosen, self.takers, strict=True):
            loads[taker.unit] = loads.get(taker.unit, 0.0) + sum(option.total) / taker.rated_kw
        return round((max(loads.values()) - min(loads.values())) / (sum(loads.values()) / len(loads)), 2)
