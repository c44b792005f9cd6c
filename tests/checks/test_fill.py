"""Conduits and trunkings: what goes into them."""

import pytest

from lodestaff.catalogue import load_pack
from lodestaff.checks import checks_named
from lodestaff.job import Change, edit, load_job
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning.records import RECORDS
from lodestaff.samples import sample_path

READ = {"value": "yes", "known": "read on site"}


@pytest.mark.parametrize(
    ("size", "mm2", "most"),
    [("EMT 3/4", 3.31, 16), ("EMT 3/4", 5.26, 10), ("EMT 1", 21.15, 4), ("EMT 1", 5.26, 16)],
)
def test_conductors_of_one_size_go_in_as_many_times_as_the_code_lists(size, mm2, most):
    """Source: NEC annex C, table C.1, THHN in EMT (from memory); it rests on chapter 9, tables 1, 4, 5."""
    pack = load_pack("na")
    area = pack.table("cable_areas").at(mm2, "Cu")
    assert int(0.4 * pack.containment_sizes[size] / area) == most


def filled(reckoner, job):
    check = next(check for check in checks_named("WIRE-FILL") if not check.part)
    rows = [one for record in RECORDS[check.record](reckoner, job, False) for one in check.function(record)]
    return {one.quantity or "fill": one for one in rows}


@pytest.fixture(scope="module")
def house():
    return load_job(sample_path("cinder-flat-house"))


def conduit(job, **fields):
    one = {"id": "way", "name": "Attic conduit", "size": "EMT 1", "known": READ, "bends_deg": 180, **fields}
    return edit(job, Change("containments", [one]))


def test_fill_by_hand(reckoner, house):
    """The unit's backup run: A, B and N of 3 AWG and 8 AWG of grounding conductor, (3 x 0.0973 + 0.0366) in²
    of 0.864 in² is 38.0 %; a battery run beside it is too much for 40 %."""
    job = conduit(house, runs=["hybrid-backup"])
    found = filled(reckoner, job)
    assert found["fill"].figure.value == pytest.approx(100 * (3 * 0.0973 + 0.0366) / 0.864, rel=3e-3)
    assert found["fill"].status == "passed"
    both = filled(reckoner, conduit(house, runs=["hybrid-backup", "battery-run"]))
    assert both["fill"].blocks
    assert both["fill"].remedies[0].changes[0].value == "EMT 1-1/4"
    assert both["together hybrid-backup"].status == "warns"  # rated for one circuit


def test_array_dc_inside_lies_in_metal_where_the_pack_asks(reckoner, house):
    """Source: NEC 690.31(D) (from memory)."""
    runs = {"runs": ["hybrid-array-a"]}
    assert filled(reckoner, conduit(house, **runs, metal=False))["metal"].blocks
    assert filled(reckoner, conduit(house, **runs, metal=True))["metal"].status == "passed"
    assert filled(reckoner, conduit(house, **runs))["metal"].status == "open"
    assert "metal" not in filled(reckoner, conduit(house, **runs, inside=False))
    assert "metal" not in filled(reckoner, conduit(house, runs=["hybrid-backup"], metal=False))


def test_bends_and_what_is_unknown(reckoner, house):
    assert filled(reckoner, conduit(house, runs=["hybrid-backup"], bends_deg=450))["bends"].status == "warns"
    assert filled(reckoner, conduit(house, runs=["hybrid-backup"], bends_deg=None))["bends"].status == "open"
    assert filled(reckoner, conduit(house, runs=["nowhere"]))["strays"].status == "warns"
    bare = edit(conduit(house, runs=["hybrid-backup"]), Change("cables/hybrid-backup", None))
    assert filled(reckoner, bare)["fill"].status == "open"
    with pytest.raises(JobError, match="EMT 1-1/4"):
        conduit(house, size="a wide one")
