"""Choices on the drawing of a new job: every part has its own, and every choice has a place."""

import pytest

from lodestaff.templates import CHOICES, KINDS, compose
from lodestaff.templates.at_parts import ADDED, AT, HEAD, additions, choices_at
from lodestaff.templates.typed import changed
from lodestaff.templates.wanted import Wanted
from lodestaff.topology import build
from lodestaff.wiring import seen_at


def test_every_choice_has_a_place():
    assert {*HEAD, *ADDED, *(key for keys in AT.values() for key in keys)} == set(CHOICES)


@pytest.mark.parametrize("kind", KINDS)
def test_every_part_that_is_drawn_has_choices(kind):
    seen = seen_at(build(compose(KINDS[kind].wanted)), "overview")
    assert {part.kind for part in seen.parts.values() if not choices_at(part.kind)} == set()


@pytest.mark.parametrize("kind", ["A", "H", "K", "L", "Q", "S"])
def test_what_may_be_added_or_taken_can_be(kind):
    wanted = KINDS[kind].wanted
    for one in additions(wanted):
        if one.why_not:
            assert len(one.why_not) > 20  # it says why
        else:
            compose(changed(wanted, [f"{one.key}={one.value}"]))


def test_what_is_there_is_known_and_taken_away_again():
    with_it = changed(Wanted(), ["existing=string inverter"])
    existing = next(one for one in additions(with_it) if one.key == "existing")
    assert (existing.there, existing.value) == (True, "none")
    assert existing.words.endswith("string inverter")
