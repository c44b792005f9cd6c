"""Storage's two maps as they are seen and heard."""

import pytest


def test_the_ride_through_map_speaks_each_month_and_hour(qtbot, window):
    window.go("storage")
    ride = window.stations["storage"].ride
    qtbot.waitUntil(lambda: ride.rides is not None, timeout=60_000)
    spoken = ride.spoken()
    assert len(spoken) == 12 * 8
    assert spoken[0].name.startswith("January, from 0:00: nine of ten last")
    assert "outages survived, all year:" in ride.survived()


def test_without_backup_it_says_so(qtbot, empty, settled):
    empty.files.open_sample("wendle-row-14")
    settled(empty)
    empty.go("storage")
    station = empty.stations["storage"]
    qtbot.waitUntil(
        lambda: station.map.sizes is not None and "No backup" in station.ride.instead, timeout=60_000
    )
    assert station.ride.rides is None
    assert "nothing lives in an outage" in station.ride.instead
    assert station.of_outcome["endurance"].isHidden()


@pytest.mark.parametrize(
    ("name", "outcome"), [("skerry-light-cottage", "generator"), ("ocotillo-wash-centre", "bill")]
)
def test_each_kind_has_its_outcomes_and_units(qtbot, empty, settled, name, outcome):
    empty.files.open_sample(name)
    settled(empty)
    empty.go("storage")
    station = empty.stations["storage"]
    qtbot.waitUntil(lambda: station.map.sizes is not None, timeout=60_000)
    assert not station.of_outcome[outcome].isHidden()
    assert station.of_outcome["endurance"].isHidden() == (name == "skerry-light-cottage")
    assert station.unit.isHidden() == (len(empty.store.job.banks) == 1)
    if len(empty.store.job.banks) > 1:
        station.unit.setCurrentIndex(1)
        station.refresh()
        qtbot.waitUntil(lambda: station.map.sizes.unit == empty.store.job.banks[1].unit, timeout=60_000)
