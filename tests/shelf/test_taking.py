"""Sheets of the shelf taken by what a job holds: units of every family, parts, runs, circuits; in every
sample."""

import pytest

from lodestaff.catalogue.kinds import KINDS
from lodestaff.job import Change, edit, load_job
from lodestaff.job.holders import holders, said, sheet_of
from lodestaff.quantities.errors import JobError
from lodestaff.samples import sample_names, sample_path
from lodestaff.shelf import Entry, starter
from lodestaff.shelf.replace import SHARED, in_use, offers, places_for, replaced

JOBS = {name: load_job(sample_path(name)) for name in sample_names()}


@pytest.fixture
def samples():
    return JOBS


def entry(kind, name="taken", **values):
    """A sheet of the starter set with some values otherwise."""
    base = next(row for row in starter().entries if row.kind == kind)
    return Entry(id=name, kind=kind, values={**base.values, **values})


def fits(job, old, kind):
    """Whether a unit, a battery or a module may go where another stands at all."""
    try:
        return replaced(job, old, entry(kind)) is not None
    except JobError:
        return False


@pytest.mark.parametrize("name", JOBS)
def test_every_place_of_every_sample_takes_a_sheet_of_its_kind(name):
    """What stands there follows it; nothing but a person's error ever refuses it."""
    job = JOBS[name]
    for kind in (kind.id for kind in KINDS):
        for place in places_for(job, kind):
            if kind in SHARED and not fits(job, place.old, kind):
                continue
            made = replaced(job, place.old, entry(kind))
            assert (kind, "taken") in in_use(made)
            taking = [holder for holder in holders(made) if holder.sheet == "taken"]
            assert taking
            for holder in taking:
                rows = said(made, holder, sheet_of(made, holder))
                assert all(row.agrees for row in rows), (kind, place.old)


def test_a_unit_of_any_family_is_replaced_by_one_of_its_own(samples):
    gannet = samples["gannet-point-lodge"]
    made = replaced(gannet, "micro-400", entry("microinverter", rated_va=420.0))
    assert {made.sheet_of(unit).rated_kva for unit in made.units if unit.count > 1} == {11 * 0.42}
    with pytest.raises(JobError, match="uses no hybrid 'micro-400'"):
        replaced(gannet, "micro-400", starter().get("hybrid-6"))
    sotol = samples["sotol-ridge-house"]
    with pytest.raises(JobError, match="no input for them"):
        replaced(sotol, "battery-unit-sun", starter().get("battery-unit-8"))


def test_a_gateway_brings_its_rating_neutral_and_bond(samples):
    made = replaced(samples["gannet-point-lodge"], "gateway", entry("gateway", rated_a=63.0))
    (part,) = [part for part in made.parts if part.kind == "gateway"]
    assert (part.rated_a, part.neutral_switched, part.bond, part.sheet) == (63.0, True, "relay", "taken")


@pytest.mark.parametrize(("poles", "neutral"), [(2, "phases only"), (3, "with neutral")])
def test_a_pole_more_than_legs_breaks_the_neutral(samples, poles, neutral):
    """120/240 V: two legs, a third pole is the neutral's (common practice)."""
    made = replaced(samples["brindle-mesa-field-station"], "bypass", entry("transfer", poles=poles))
    assert next(part for part in made.parts if part.id == "bypass").neutral == neutral


def test_what_a_new_device_is_silent_of_is_not_known_any_more(larkmoor):
    first = replaced(larkmoor, "hybrid-feed", entry("device"))
    cable = next(cable for cable in first.cables if cable.id == "hybrid-feed")
    assert (cable.device_a, cable.curve, cable.breaking_ka, cable.rcd_ma) == (32.0, "B", 6.0, 30.0)
    assert cable.rcd_bidirectional.value == "yes"
    values = {"name": "Bare breaker, invented", "rated_a": 40.0}
    then = replaced(first, "hybrid-feed", Entry(id="bare", kind="device", values=values))
    cable = next(cable for cable in then.cables if cable.id == "hybrid-feed")
    assert (cable.device_a, cable.curve, cable.breaking_ka, cable.rcd_ma) == (40.0, None, None, None)
    assert cable.rcd_bidirectional.value is None


def test_in_an_arrays_run_a_device_is_the_fuse_of_each_string_or_the_isolator(larkmoor):
    fuse = replaced(larkmoor, "hybrid-array-a", entry("device", rated_a=20.0, curve="gPV", dc_v=1000.0))
    cable = next(cable for cable in fuse.cables if cable.id == "hybrid-array-a")
    assert cable.string_fuse_a == 20.0
    isolator = Entry(
        id="iso", kind="device", values={"name": "DC isolator, invented", "rated_a": 32.0, "dc_v": 800.0}
    )
    cable = next(c for c in replaced(larkmoor, "hybrid-array-a", isolator).cables if c.id == "hybrid-array-a")
    assert (cable.isolator_a, cable.isolator_v) == (32.0, 800.0)


def test_a_cables_gauge_is_that_of_the_packs_table(samples):
    """8 AWG is 8.367 mm² by formula; the table's row is 8.37."""
    job = samples["brindle-mesa-field-station"]
    made = replaced(job, "board-feed", entry("cable", size_mm2=8.367, cores=4))
    assert next(cable for cable in made.cables if cable.id == "board-feed").size_mm2 == 8.37


def test_a_charger_and_a_generator_bring_what_they_draw_and_burn(samples):
    wendle = replaced(samples["wendle-row-14"], "charger", entry("charger", rated_kw=7.4))
    circuit = wendle.circuit("charger")
    assert circuit.running_w == pytest.approx(7400)
    assert (circuit.open_neutral.value, str(circuit.open_neutral.known)) == ("yes", "data sheet")
    brindle = replaced(samples["brindle-mesa-field-station"], "generator", entry("generator", rated_kva=12.0))
    part = next(part for part in brindle.parts if part.kind == "generator")
    assert (part.rated_kva, part.litre_per_kwh.value) == (12.0, 0.36)


def test_a_part_is_named_by_its_place_and_a_changed_sheet_is_offered(samples):
    job = replaced(samples["gannet-point-lodge"], "gateway", starter().get("gateway-100"))
    assert [(place.old, place.sheet) for place in places_for(job, "gateway")] == [("gateway", "gateway-100")]
    changed = starter().with_entry(entry("gateway", "gateway-100", rated_a=80.0))
    (offer,) = [offer for offer in offers(job, changed) if offer.kind == "gateway"]
    assert offer.fields == (("Through current", 100.0, 80.0),)
    then = replaced(job, "gateway-100", changed.get("gateway-100"))
    assert next(part for part in then.parts if part.kind == "gateway").rated_a == 80.0


def test_a_sheet_that_isn_t_there_is_refused_where_it_is_named(samples):
    with pytest.raises(JobError, match="gateway sheet: 'x' is not there"):
        edit(samples["gannet-point-lodge"], Change("parts/gateway/sheet", "x"))
    with pytest.raises(JobError, match="device_sheet"):
        edit(samples["larkmoor"], Change("cables/hybrid-feed/device_sheet", "x"))
