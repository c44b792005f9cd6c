"""The procedure at the simulated site: passes where nothing is wrong, stops at the right step where
something is."""

from datetime import datetime

import pytest

from lodestaff.commissioning.reading import Status
from lodestaff.commissioning.record import last_readings
from lodestaff.job import Change, edit
from lodestaff.measuring.over_link import link_to, take_over_link
from lodestaff.measuring.rehearsal import rehearse
from lodestaff.plant import Plant, PlantStart
from lodestaff.reckoning import Reckoner
from lodestaff.reckoning.cabling import with_cables
from lodestaff.templates import KINDS, compose
from lodestaff.topology import build


@pytest.mark.parametrize("seed", range(3))
def test_without_a_fault_every_step_passes(larkmoor, seed):
    found = rehearse(larkmoor, PlantStart(seed=seed))
    assert found.passed, found.stopped_at
    assert found.proof.count(Status.PASSED) == len(found.proof.results)


def test_when_all_is_proven_every_part_that_a_step_names_is(larkmoor):
    found = rehearse(larkmoor, PlantStart())
    topology = build(larkmoor)
    unproven = (set(topology.parts) | {c.id for c in topology.conductors if c.run}) - found.proof.proven()
    named = {name for one in found.proof.results for name in one.step.proves}
    assert not named & unproven
    assert {"hybrid", "battery", "meter", "main-isolator", "hybrid-bypass"} <= found.proof.proven()


def test_in_the_dark_the_strings_prove_little_or_fail(larkmoor):
    """At night nothing of the array can be tested; the rehearsal stops there and says so."""
    found = rehearse(larkmoor, PlantStart(at=datetime(2026, 12, 21, 22, 0)))
    assert found.stopped_at == "voc-string-1"


def test_under_cloud_the_array_is_doubtful_and_goes_on(larkmoor):
    found = rehearse(larkmoor, PlantStart(clearness=0.35))
    doubtful = {one.step.id for one in found.proof.results if one.status is Status.DOUBTFUL}
    assert {"isc-string-1", "isc-string-2"} <= doubtful
    assert found.stopped_at in (None, "export")


def test_other_jobs_rehearse_too(larkmoor):
    """No windows, no bypass, grid first, a device that shows its usable part as 0 to 100 %."""
    job = edit(
        larkmoor,
        Change("limits/windows/night", None),
        Change("wiring/bypass", False),
        Change("sheets/hybrids/hybrid-6/start_order", ["grid", "battery", "array"]),
        Change("sheets/batteries/battery-48/device_counts_usable", True),
    )
    found = rehearse(job, PlantStart())
    assert found.passed, found.proof.result(found.stopped_at)
    assert "bypass" not in {one.step.id for one in found.proof.results}


def test_a_unit_that_gives_nothing_leaves_the_step_open(larkmoor):
    """Nobody serves: readings over the link are states, and the step stays open."""
    plant = Plant(larkmoor)
    link = link_to(larkmoor, "hybrid", "127.0.0.1", 1)
    from lodestaff.commissioning.procedure import procedure
    from lodestaff.commissioning.reading import judge

    for step in procedure(larkmoor, plant.topology):
        if step.measure.over_link:
            reading = take_over_link(link, larkmoor, step, plant.right_clock(), "tester")
            assert reading.empty
            assert reading.state == "no connection", step.id
            assert judge(step, reading, dict.fromkeys(step.waits_for, True)).status is Status.OPEN


@pytest.mark.parametrize("how", ["stall", "close", "garbage", "short"])
def test_a_device_that_misbehaves_never_gives_a_pass(larkmoor, how):
    """Whatever goes wrong on the wire, a step that is read over the link stays open."""
    from tests.link.fake import FakeDevice

    from lodestaff.commissioning.procedure import procedure
    from lodestaff.commissioning.reading import judge
    from lodestaff.link.image import Image

    plant = Plant(larkmoor)
    device = FakeDevice(Image(plant, "hybrid").registers(), lambda *_: how)
    link = link_to(larkmoor, "hybrid", "127.0.0.1", device.port)
    link.timeout_s = 0.1
    for step in procedure(larkmoor, plant.topology):
        if step.measure.over_link:
            reading = take_over_link(link, larkmoor, step, plant.right_clock(), "tester")
            assert reading.empty, step.id
            assert reading.state
            assert judge(step, reading, dict.fromkeys(step.waits_for, True)).status is Status.OPEN
    link.close()
    device.close()


def test_a_rehearsal_leaves_a_journal_that_says_the_same(larkmoor):
    found = rehearse(larkmoor, PlantStart())
    last = last_readings(found.entries)
    assert set(last) == {one.step.id for one in found.proof.results}
    assert all(entry.text for entry in found.entries)


def test_a_device_that_says_it_is_simulated_is_recorded_so(larkmoor):
    """Seen: read by its address, the simulated site's readings counted as real ones."""
    from lodestaff.commissioning.procedure import procedure
    from lodestaff.link import PlantServer

    plant = Plant(larkmoor)
    step = next(one for one in procedure(larkmoor, plant.topology) if one.measure.kind == "setting")
    with PlantServer(plant, speed=0) as server:
        link = link_to(larkmoor, "hybrid", "127.0.0.1", server.port)
        reading = take_over_link(link, larkmoor, step, plant.right_clock(), "tester")
        link.close()
    assert not reading.state
    assert reading.simulated


DULL = PlantStart(at=datetime(2026, 12, 15, 10, 0), clearness=0.35, soc=0.2, seed=3)
FULL = PlantStart(at=datetime(2026, 6, 18, 12, 0), clearness=0.95, soc=0.97, seed=5)


@pytest.mark.parametrize(
    ("letter", "start"),
    [("A", DULL), ("B", DULL), ("G", DULL), ("L", DULL), ("J", FULL), ("R", FULL), ("R", DULL)],
)
def test_a_sound_site_is_never_called_wrong_for_its_weather_or_its_charge(letter, start):
    """A dull winter morning with the battery low, noon with it full: a person waits, or puts it off."""
    job = with_cables(Reckoner(), compose(KINDS[letter].wanted))
    assert rehearse(job, start).stopped_at is None
