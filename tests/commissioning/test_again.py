"""What must be read anew when modules are added or moved; when the array's conductors become live."""

import pytest

from lodestaff.commissioning.again import read_anew
from lodestaff.commissioning.procedure import procedure
from lodestaff.job import Change, edit, load_job
from lodestaff.reckoning import Reckoner
from lodestaff.reckoning.array_orders import CABLES, MODULES, array_orders
from lodestaff.samples import sample_path

RECKONER = Reckoner()


def steps(job):
    return procedure(job, RECKONER.wiring(job).topology)


@pytest.fixture(scope="module")
def demo():
    return load_job(sample_path("larkmoor"))


def test_nothing_changed_nothing_is_read_anew(demo):
    assert read_anew(steps(demo), steps(demo)) == ()
    renamed = edit(demo, Change("title", "Another name"))
    assert read_anew(steps(demo), steps(renamed)) == ()


def test_a_module_more_on_a_string_takes_that_strings_readings_again(demo):
    """Volts again after every module added (common practice)."""
    fewer = edit(demo, Change("faces/south-west/modules/m8/string", ""))
    anew = {each.step: each.why for each in read_anew(steps(fewer), steps(demo))}
    assert anew["voc-string-2"] == "changed"
    assert anew["isc-string-2"] == "its parts were opened"
    assert "voc-string-1" not in anew
    assert not any(name.startswith(("export", "outage", "ct")) for name in anew)


def test_a_new_string_is_new(demo):
    rows = [string.model_dump(mode="json") for string in demo.strings]
    third = {"id": "string-3", "name": "3", "unit": "hybrid", "tracker": "A"}
    moved = [Change(f"faces/south-east/modules/m{n}/string", "string-3") for n in range(6, 11)]
    more = edit(demo, Change("strings", [*rows, third]), *moved)
    anew = {each.step: each.why for each in read_anew(steps(demo), steps(more))}
    assert anew["voc-string-3"] == "new"
    assert anew["voc-string-1"] == "changed"


@pytest.mark.parametrize(
    ("name", "orders"),
    [
        ("larkmoor", {CABLES, MODULES}), ("gannet-point-lodge", {CABLES}), ("ludd-hall-annexe", {CABLES}),
    ],
)  # fmt: skip
def test_each_working_order_says_when_what_is_live(name, orders):
    """Cables first is dead until the last link; modules first is live on the roof at once (both are done)."""
    job = load_job(sample_path(name))
    found = array_orders(job)
    assert {order.order for order in found} == orders
    assert len(found) == len(job.strings) * len(orders)
    for order in found:
        first = order.moments[0]
        assert (first.live == "nothing") == (order.order == CABLES)


def test_its_volts_are_those_of_the_whole_string(demo):
    cables = array_orders(demo)[0]
    assert "436 V" in cables.moments[-1].live
    micro = array_orders(load_job(sample_path("gannet-point-lodge")))[0]
    assert "436" not in str(micro)
    assert "43 V" in micro.moments[1].live
    assert "trunk" in micro.moments[2].live
