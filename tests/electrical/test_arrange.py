"""The search for arrangements against every way there is, and against what it must never do."""

import itertools

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from lodestaff.electrical.arrange import SLICE, Alike, Taker, arrange, options_of


def even(kinds):
    """A string's year without any mismatch but for kinds mixed: they lose a tenth."""

    def kwh(counts):
        mixed = sum(n > 0 for n in counts) > 1
        return sum(n * kind.kwh for n, kind in zip(counts, kinds, strict=True)) * (0.9 if mixed else 1.0)

    return kwh


def taker(lengths, parallel=1, isc=1000.0, like="", name="A"):
    return Taker("hybrid", name, tuple(lengths), parallel=parallel, isc_most_a=isc, like=like)


def every_way(kinds, takers, kwh):
    """The best year by trying all of it."""
    best = 0.0
    for chosen in itertools.product(*(options_of(kinds, each, kwh) for each in takers)):
        total = [
            sum(option.total[i] if option.strings else 0 for option in chosen) for i in range(len(kinds))
        ]
        if all(n <= kind.count for n, kind in zip(total, kinds, strict=True)):
            best = max(best, sum(option.kwh for option in chosen))
    return best


@settings(max_examples=60, deadline=None)
@given(
    st.lists(st.tuples(st.integers(1, 7), st.floats(200, 500)), min_size=1, max_size=3),
    st.lists(st.tuples(st.integers(1, 4), st.integers(0, 4), st.integers(1, 2)), min_size=1, max_size=3),
)
def test_the_best_is_the_best_there_is(modules, trackers):
    kinds = tuple(Alike(count, round(kwh, 1), "module", 13.0) for count, kwh in modules)
    takers = tuple(
        taker([(least, least + more)] * len(kinds), parallel, name=str(number))
        for number, (least, more, parallel) in enumerate(trackers)
    )
    kwh = even(kinds)
    found = arrange(kinds, takers, kwh, keep=3)
    assert found.exact
    best = found.ways[0].kwh if found.ways else 0.0
    most = every_way(kinds, takers, kwh)
    alone = sum(kind.count * kind.kwh for kind in kinds)
    assert most - SLICE * alone <= best <= most + 1e-6
    for way in found.ways:
        for index, kind in enumerate(kinds):
            assert sum(option.total[index] for option in way.options if option.strings) <= kind.count
        for option, each in zip(way.options, takers, strict=True):
            assert len(option.strings) <= each.parallel
            assert len({sum(counts) for counts in option.strings}) <= 1, "parallel strings are equal"


def test_equal_trackers_are_met_once():
    kinds = (Alike(12, 400.0, "module", 13.0),)
    alone = arrange(kinds, (taker([(4, 8)], name="A"), taker([(4, 8)], name="B")), even(kinds), keep=50)
    like = arrange(
        kinds,
        (taker([(4, 8)], like="x", name="A"), taker([(4, 8)], like="x", name="B")),
        even(kinds),
        keep=50,
    )
    assert like.looked_at < alone.looked_at
    assert like.ways[0].rank == alone.ways[0].rank
    assert [sum(o.total) for o in like.ways[0].options] == [6, 6]


def test_what_no_string_can_hold_is_left_and_unlike_faces_are_kept_apart():
    kinds = (Alike(7, 420.0, "module", 13.0), Alike(5, 380.0, "module", 13.0))
    found = arrange(kinds, (taker([(4, 9)] * 2), taker([(4, 9)] * 2, name="B")), even(kinds))
    assert [option.strings for option in found.ways[0].options] in (
        [((7, 0),), ((0, 5),)],
        [((0, 5),), ((7, 0),)],
    )
    assert found.ways[0].used == 12
    short = arrange(kinds, (taker([(8, 9)] * 2),), even(kinds))
    assert short.ways[0].used in (8, 9), "only a mixed string is long enough"
    none = arrange(kinds, (taker([(0, 0)] * 2),), even(kinds))
    assert none.ways == []


def test_the_short_circuit_rating_forbids_parallel_strings():
    kinds = (Alike(12, 400.0, "module", 13.0),)
    wide = arrange(kinds, (taker([(4, 6)], parallel=2, isc=27.0),), even(kinds))
    narrow = arrange(kinds, (taker([(4, 6)], parallel=2, isc=25.0),), even(kinds))
    assert (wide.ways[0].used, narrow.ways[0].used) == (12, 6)


def test_units_behind_modules_take_any():
    kinds = (Alike(6, 400.0, "module", 13.0), Alike(5, 390.0, "module", 13.0))
    branch = Taker("branch-1", "branch", ((0, 0),) * 2, parallel=1, isc_most_a=0, alone=True, room=8)
    found = arrange(kinds, (branch,), even(kinds))
    assert found.ways[0].used == 8
    assert found.ways[0].options[0].strings == ((6, 2),)


def test_it_ends_by_counts_and_says_so():
    kinds = tuple(Alike(15, 400.0 - n, "module", 13.0) for n in range(4))
    takers = tuple(taker([(4, 12)] * 4, parallel=2, name=str(n)) for n in range(6))
    found = arrange(kinds, takers, even(kinds), most=2000)
    assert not found.exact
    assert found.looked_at <= 2001
    assert found.ways[0].used == 60
    told = []
    stopped = arrange(kinds, takers, even(kinds), step=lambda n: told.append(n) or len(told) < 2)
    assert told == [4096, 8192]
    assert not stopped.exact


@pytest.mark.parametrize("parallel", [1, 2, 3])
def test_nothing_is_an_option_too(parallel):
    kinds = (Alike(3, 400.0, "module", 13.0),)
    assert any(not option.strings for option in options_of(kinds, taker([(1, 3)], parallel), even(kinds)))
