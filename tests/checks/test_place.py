"""Where the site is and by which clocks: told or assumed, and every figure that rests on it says so."""

from datetime import datetime

import pytest

from lodestaff.catalogue import load_pack
from lodestaff.job import Change, edit, load_job
from lodestaff.quantities.zones import clock_changes, standard_offset_h, zones_near
from lodestaff.reckoning import Moment
from lodestaff.reckoning.findings import answers
from lodestaff.reckoning.readings import SIMULATED, limits_readings, loads_readings
from lodestaff.reckoning.results import compute
from lodestaff.samples import sample_names, sample_path
from lodestaff.templates import KINDS, compose


def places(reckoner, job):
    return {one.quantity: one for one in answers(reckoner, job, "SITE-PLACE")}


def test_a_new_job_stands_where_its_pack_begins_until_somebody_says_so(reckoner):
    job = compose(KINDS["A"].wanted)
    found = places(reckoner, job)
    assert (found["place"].status, found["time zone"].status) == ("open", "open")
    results = compute(reckoner, job, Moment(), True, True)
    yearly = [
        one for one in (*loads_readings(results), *limits_readings(results)) if one.figure.source is SIMULATED
    ]
    assert yearly
    assert all(
        "place that it rests on is assumed" in one.figure.note and one.status != "passed" for one in yearly
    )
    told = (
        edit(job, *(change for one in found.values() for change in one.remedies[0].changes))
        if all(one.remedies for one in found.values())
        else job
    )
    assert (
        places(reckoner, edit(told, Change("site/place_known", {"value": "yes", "known": "told"})))[
            "place"
        ].status
        == "passed"
    )


@pytest.mark.parametrize("name", sample_names())
def test_the_samples_were_told_where_they_are(reckoner, name):
    assert {one.status for one in places(reckoner, load_job(sample_path(name))).values()} == {"passed"}


def test_a_zone_whose_standard_time_is_another_warns_and_is_cured(reckoner, larkmoor):
    job = edit(larkmoor, Change("site/time_zone", {"value": "Europe/Berlin", "known": "told"}))
    one = places(reckoner, job)["time zone"]
    assert one.status == "warns"
    assert places(reckoner, edit(job, *one.remedies[0].changes))["time zone"].status == "passed"


@pytest.mark.parametrize(
    ("zone", "forward", "back"),
    [
        ("Europe/London", datetime(2025, 3, 30, 1), datetime(2025, 10, 26, 1)),
        ("America/Denver", datetime(2025, 3, 9, 9), datetime(2025, 11, 2, 8)),
        ("Australia/Melbourne", datetime(2025, 10, 4, 16), datetime(2025, 4, 5, 16)),
        ("Pacific/Auckland", datetime(2025, 9, 27, 14), datetime(2025, 4, 5, 14)),
    ],
)
def test_clocks_change_when_they_do(zone, forward, back):
    """Source: the published dates of 2025 (European Union, US, Victoria, New Zealand; from memory)."""
    assert clock_changes(zone, 2025) == (forward, back)


def test_zones_without_changes_and_what_lies_near():
    assert clock_changes("America/Phoenix", 2025) is None
    assert clock_changes("", 2025) is None
    assert zones_near(53.6, -2.1)[0] == "Europe/London"
    assert zones_near(-38.3, 144.9)[0] == "Australia/Melbourne"
    assert standard_offset_h("Australia/Adelaide", 2025) == 9.5


def test_an_old_job_goes_by_its_packs_usual_zone(larkmoor):
    old = larkmoor.model_copy(
        update={"site": larkmoor.site.model_copy(update={"time_zone": type(larkmoor.site.time_zone)()})}
    )
    bare = old.model_copy(update={"pack": old.pack.model_copy(update={"time_zones": {}})})
    assert old.time_zone == bare.time_zone == "Europe/London"


def test_a_pack_names_zones_that_there_are():
    for name in ("uk", "na", "anz"):
        pack = load_pack(name)
        for offset, zone in pack.time_zones.items():
            assert standard_offset_h(zone, 2025) == float(offset)
        assert pack.zone_at(pack.beginning.utc_offset_h) == pack.beginning.time_zone
