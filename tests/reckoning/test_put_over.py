"""A switch put over by hand in an outage, and what comes after an empty battery."""

import numpy as np
import pytest

from lodestaff.energy.calendar import STEP_H, STEPS
from lodestaff.handover.owner_pages import owner_pages
from lodestaff.job import Change, edit, load_job
from lodestaff.reckoning import Moment
from lodestaff.reckoning.back_again import back_again
from lodestaff.reckoning.findings import answers
from lodestaff.reckoning.put_over import PutOver, hands, outages_by_hand
from lodestaff.reckoning.readings import loads_readings
from lodestaff.reckoning.results import compute
from lodestaff.register import Register
from lodestaff.samples import sample_names, sample_path

WITH_INTERLOCK = "juniper-draw-ranch"
LOW = Moment(month=1, hour=18.0, soc=0.5)


@pytest.fixture(scope="module")
def ranch():
    return load_job(sample_path(WITH_INTERLOCK))


@pytest.mark.parametrize("name", sample_names())
def test_only_an_interlock_feeds_more(reckoner, name):
    found = hands(reckoner, load_job(sample_path(name)))
    assert [hand.part for hand in found] == (["interlock"] if name == WITH_INTERLOCK else [])


def test_all_on_the_main_board_then_hangs_on_the_unit(reckoner, ranch):
    (hand,) = hands(reckoner, ranch)
    board = next(one for one in reckoner.wiring(ranch).boards if one.id == "board")
    assert {c.id for c in hand.more} == set(board.circuits)
    then, unit = PutOver(reckoner, hand), ranch.units[0]
    own = ranch.sheet_of(unit).own_use_kw
    usual = reckoner.island(ranch, unit).held_kw
    more = sum(reckoner.circuit_kw(ranch, c) for c in hand.more)
    assert then.island(ranch, unit).held_kw == pytest.approx(usual + more)
    held = sum(
        reckoner.circuit_kw(ranch, c) for c in ranch.circuits if c.role == "held" and c not in hand.more
    )
    assert usual == pytest.approx(held + own)


def test_it_lasts_less_and_the_figures_and_the_owner_are_told(reckoner, ranch):
    (one,) = outages_by_hand(reckoner, ranch, LOW)
    unit = ranch.units[0]
    assert 0 < one.outage.hours < reckoner.outage(ranch, unit, LOW).hours
    readings = loads_readings(compute(reckoner, ranch, LOW, deep=False))
    (reading,) = (reading for reading in readings if reading.quantity == "lasts by hand")
    assert reading.figure.value == one.outage.hours
    page = next(page for page in owner_pages(reckoner, ranch, Register()) if page.id == "owner-outage")
    assert "Is off until the Interlock is put to the unit" in str(page)
    assert "Is off until the grid is back" not in str(page)  # nothing else is off


def test_a_car_charger_and_what_is_locked_out_are_kept_off(reckoner, ranch):
    changed = edit(
        ranch, Change("circuits/range/kind", "car charger"), Change("circuits/dryer/role", "locked out")
    )
    (hand,) = hands(reckoner, changed)
    assert {c.id for c in hand.kept_off} == {"range", "dryer"}
    (before,), unit = hands(reckoner, ranch), ranch.units[0]
    less = PutOver(reckoner, before).island(ranch, unit).held_kw
    less = less - PutOver(reckoner, hand).island(changed, unit).held_kw
    assert less == pytest.approx(
        sum(reckoner.circuit_kw(ranch, ranch.circuit(c)) for c in ("range", "dryer"))
    )


# --- after an empty battery ------------------------------------------------------------------------------
@pytest.mark.parametrize(
    ("black_start", "words"),
    [(True, "starts again with the sun"), (False, "dark until"), (None, "isn't on the sheet")],
)
def test_what_comes_after_it(reckoner, ranch, black_start, words):
    unit = ranch.units[0]
    job = edit(ranch, Change(f"sheets/hybrids/{unit.sheet}/black_start", black_start))
    outage = reckoner.outage(job, unit, LOW)
    after = back_again(reckoner, job, unit, outage)
    assert outage.reason == "energy"
    assert after.can is black_start
    assert words in after.words
    view = compute(reckoner, job, LOW, deep=False).outages[0]
    assert view.after == after


def test_it_is_back_when_the_sun_has_brought_a_tenth(reckoner, ranch):
    """By hand: from the step after the end, the sun at the trackers, as far as the battery takes it."""
    unit = ranch.units[0]
    outage = reckoner.outage(ranch, unit, LOW)
    (bank,) = reckoner.island_units(ranch, unit)
    held, hours = 0.0, 0.0
    at = outage.start_step + int(outage.hours / STEP_H) + 1
    sun = reckoner.pv_dc_kw(ranch)[0]
    while held < 0.1 * (bank.e_top - bank.e_floor):
        held += min(sun[at % STEPS], bank.charge_kw) * bank.eta_charge * STEP_H
        at, hours = at + 1, hours + STEP_H
    assert back_again(reckoner, ranch, unit, outage).dark_h == pytest.approx(hours)
    assert np.isfinite(hours)


def test_nothing_comes_after_what_did_not_run_empty(reckoner, ranch):
    unit = ranch.units[0]
    summer = reckoner.outage(ranch, unit, Moment(month=7, hour=12.0, soc=1.0))
    assert summer.reason == "held"
    assert back_again(reckoner, ranch, unit, summer) is None


def test_a_transmitter_that_is_dead_with_the_battery_holds_the_sun(reckoner):
    """As ARR-RSD says: fed by the very unit that it holds, nothing starts again, whatever the unit could."""
    job = load_job(sample_path("cinder-flat-house"))
    job = edit(job, Change(f"sheets/hybrids/{job.units[0].sheet}/black_start", True))
    held = next(one for one in answers(reckoner, job, "ARR-RSD: fed") if "flat" in one.text)
    after = back_again(
        reckoner, job, job.units[0], reckoner.outage(job, job.units[0], Moment(month=1, hour=18.75, soc=0.3))
    )
    assert "nothing starts again" in held.text
    assert after.can is False
    assert after.words == "dark until the grid is back: Shutdown transmitter is dead, and the sun with it"


def test_without_a_grid_nobody_waits_for_it(reckoner):
    job = edit(load_job(sample_path("skerry-light-cottage")), Change("parts/generator/started_by", ""))
    after = back_again(reckoner, job, job.units[0], reckoner.outage(job, job.units[0], LOW))
    assert after.until == "a generator or a person starts it"
    assert "grid" not in after.words
