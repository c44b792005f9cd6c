"""Sheets that a job has taken: whether it is reckoned with as they say, and whether they suit their place."""

import pytest

from lodestaff.catalogue import Pack
from lodestaff.catalogue.kinds import KINDS
from lodestaff.checks.finding import Verdict
from lodestaff.commissioning.procedure import procedure
from lodestaff.job import Change, edit, load_job
from lodestaff.reckoning.costing import design_cost
from lodestaff.reckoning.findings import answers
from lodestaff.reckoning.schedules import cable_schedule, device_schedule
from lodestaff.samples import sample_path
from lodestaff.shelf import Entry, starter
from lodestaff.shelf.prices import PriceBook, SupplierList
from lodestaff.shelf.replace import replaced


def taken(name, place, kind, **values):
    base = next(row for row in starter().entries if row.kind == kind)
    entry = Entry(id="taken", kind=kind, values={**base.values, "name": "Taken, invented", **values})
    return replaced(load_job(sample_path(name)), place, entry)


def asked(reckoner, job, quantity):
    return [one for one in answers(reckoner, job, "WIRE-PLAN: sheets") if one.quantity == quantity]


ASKS = [
    # sample, place, kind, what the sheet says, quantity, verdict, value, limit
    ("quern-hall-joinery", "hybrid-feed", "device", {"poles": 3}, "poles", "passed", 3, 3),
    ("quern-hall-joinery", "hybrid-feed", "device", {"poles": 2}, "poles", "blocks", 2, 3),
    ("brindle-mesa-field-station", "bypass", "transfer", {"poles": 1}, "poles", "blocks", 1, 2),
    ("brindle-mesa-field-station", "generator", "generator", {"two_wire_start": False}, "two-wire start",
     "blocks", 0, 1),
    ("larkmoor", "hybrid-feed", "cable", {"max_v": 200.0}, "volts", "blocks", 200, 230),
    ("quern-hall-joinery", "hybrid-feed", "cable", {"max_v": 450.0}, "volts", "passed", 450, 398.37),
    ("quern-hall-joinery", "hybrid-feed", "cable", {"cores": 3}, "cores", "blocks", 3, 4),
    ("larkmoor", "hybrid-feed", "cable", {"conductor_c": 60.0}, "temperature", "blocks", 60, 70),
    ("wendle-row-14", "ct", "meter", {"ct_ratio_a": 50.0}, "primary", "blocks", 50, 60),
    ("wendle-row-14", "charger", "charger", {"phases": "3"}, "phases", "passed", 3, 1),
]  # fmt: skip


@pytest.mark.parametrize(("name", "place", "kind", "says", "quantity", "verdict", "value", "limit"), ASKS)
def test_a_sheet_suits_its_place_or_is_said_not_to(
    reckoner, name, place, kind, says, quantity, verdict, value, limit
):
    (one,) = asked(reckoner, taken(name, place, kind, **says), quantity)
    assert one.verdict == verdict
    assert not one.open
    assert (one.value, one.limit) == (pytest.approx(value), pytest.approx(limit, abs=0.01))


def test_an_arrays_volts_are_those_of_the_cold_morning(reckoner):
    job = taken("larkmoor", "hybrid-array-a", "cable", max_v=400.0)
    (one,) = asked(reckoner, job, "volts")
    voc = [row for row in answers(reckoner, job, "ARR-VOC") if row.subjects == (job.strings[0].id,)]
    assert one.verdict is Verdict.BLOCKS
    assert one.limit == pytest.approx(voc[0].value)


@pytest.mark.parametrize(
    ("place", "kind", "says", "quantity"),
    [
        ("hybrid-feed", "cable", {"max_v": None}, "volts"),
        ("hybrid-feed", "cable", {"conductor_c": None}, "temperature"),
        ("battery-run", "device", {"dc_v": None}, "volts"),
    ],
)
def test_what_a_sheet_doesn_t_say_leaves_its_answer_open(reckoner, place, kind, says, quantity):
    (one,) = asked(reckoner, taken("larkmoor", place, kind, **says), quantity)
    assert one.status == "open"


def test_a_value_typed_beside_the_sheet_is_said_and_cured(reckoner):
    job = taken("gannet-point-lodge", "gateway", "gateway")
    assert asked(reckoner, job, "agrees")[0].verdict is Verdict.PASSED
    apart = edit(job, Change("parts/gateway/rated_a", 80.0))
    (one,) = asked(reckoner, apart, "agrees")
    assert (one.verdict, one.value) == (Verdict.WARNS, 1.0)
    assert edit(apart, *one.remedies[0].changes) == job


# --- a charger on a combined neutral and earth ----------------------------------------------------------
def charger(reckoner, job):
    return answers(reckoner, job, "SITE-EARTH: charger")


@pytest.mark.parametrize(("value", "status"), [("yes", "passed"), ("no", "blocks"), (None, "open")])
def test_a_charger_needs_open_neutral_protection_on_tn_c_s(reckoner, value, status):
    """BS 7671 722.411.4.1, from memory."""
    fact = {"value": value, "known": "read on site"}
    job = edit(load_job(sample_path("wendle-row-14")), Change("circuits/charger/open_neutral", fact))
    (one,) = charger(reckoner, job)
    assert one.status == status
    assert one.owner == "charger"
    if value == "no":  # what is planned isn't there yet
        (planned,) = charger(reckoner, edit(job, *one.remedies[0].changes))
        assert planned.status == "open"


@pytest.mark.parametrize("earthing", ["TN-S", "TT"])
def test_where_the_earth_is_its_own_no_charger_is_asked(reckoner, earthing):
    fact = {"value": earthing, "known": "read on site"}
    job = edit(load_job(sample_path("wendle-row-14")), Change("site/supply/earthing", fact))
    assert charger(reckoner, job) == []
    (one,) = charger(reckoner, edit(job, Change("site/supply/earthing", {**fact, "known": "assumed"})))
    assert one.status == "open"


def test_other_packs_ask_for_none_and_an_edition_that_is_silent_is_open(reckoner):
    job = load_job(sample_path("wendle-row-14"))
    values = {name: value for name, value in job.pack.values.items() if name != "charger_open_neutral"}
    silent = job.model_copy(update={"pack": job.pack.model_copy(update={"values": values})})
    (one,) = charger(reckoner, silent)
    assert one.status == "open"
    assert charger(reckoner, load_job(sample_path("sotol-ridge-house"))) == []
    assert isinstance(job.pack, Pack)


# --- what else reads them -------------------------------------------------------------------------------
@pytest.mark.parametrize(("own", "ct", "error"), [(1.0, 1.0, 0.02), (0.5, 0.5, 0.01), (2.0, None, 0.02)])
def test_the_meters_class_is_the_error_of_the_export_limit(reckoner, own, ct, error):
    job = taken("wendle-row-14", "ct", "meter", accuracy_class=own, ct_class=ct)
    (one,) = [row for row in answers(reckoner, job, "LIM-EXPORT: site") if row.quantity == "setting"]
    assert one.value == pytest.approx(job.limits.export_kw * (1 + error))


def test_the_transfer_of_a_gateway_is_held_against_its_sheet(reckoner):
    job = taken("gannet-point-lodge", "gateway", "gateway", transfer_s=0.2)
    (step,) = [s for s in procedure(job, reckoner.wiring(job).topology) if s.id == "transfer"]
    assert (step.rule.value, step.rule.high) == (0.2, pytest.approx(0.3))
    bare = load_job(sample_path("gannet-point-lodge"))
    (step,) = [s for s in procedure(bare, reckoner.wiring(bare).topology) if s.id == "transfer"]
    assert "no sheet of the job" in step.text


@pytest.mark.parametrize(
    ("name", "place", "kind", "count"),
    [
        ("gannet-point-lodge", "gateway", "gateway", 1),
        ("larkmoor", "hybrid-feed", "device", 1),
        ("larkmoor", "hybrid-array-a", "cable", 22),
        ("wendle-row-14", "ct", "meter", 1),
    ],
)
def test_what_has_a_sheet_is_priced_by_it(reckoner, name, place, kind, count):
    job = taken(name, place, kind)
    book = PriceBook(lists=(SupplierList(supplier="Own", prices={"taken": 10.0}),))
    (line,) = [line for line in design_cost(reckoner, job, book).lines if line.item == "taken"]
    assert (line.each, line.words, line.count) == (10.0, "Taken, invented", count)


def test_schedules_name_the_sheets_where_there_are_any(reckoner, larkmoor):
    bare = cable_schedule(reckoner, larkmoor)
    assert "Sheet" not in [head.words for head in bare.heads]
    job = taken("larkmoor", "hybrid-feed", "cable")
    made = cable_schedule(reckoner, job)
    assert made.heads[-1].words == "Sheet"
    assert {row[0] for row in made.rows if row[-1]} == {"Hybrid feed"}
    devices = device_schedule(reckoner, taken("larkmoor", "hybrid-feed", "device"))
    assert {row[0] for row in devices.rows if row[-1] == "Taken, invented"} == {"Unit feed MCB"}


@pytest.mark.parametrize(("says", "named"), [
    ({"curve": "gPV", "dc_v": 1000.0}, "Fuses of array run a, each string"),
    ({"curve": None, "dc_v": 1000.0}, "DC isolator A"),
])  # fmt: skip
def test_in_an_arrays_run_a_sheet_is_the_fuses_or_the_isolators(reckoner, says, named):
    job = taken("larkmoor", "hybrid-array-a", "device", **says)
    rows = device_schedule(reckoner, job).rows
    assert [row[0] for row in rows if row[-1] == "Taken, invented"] == [named]
    (line,) = [line for line in design_cost(reckoner, job, PriceBook()).lines if line.item == "taken"]
    assert line.count == 1


def test_two_sheets_of_one_name_are_two_lines(reckoner):
    """They are told apart by their ids."""
    job = taken("larkmoor", "hybrid-feed", "device")
    twin = Entry(id="twin", kind="device", values={"name": "Taken, invented", "rated_a": 40.0})
    job = replaced(job, "hybrid-bypass-feed", twin)
    items = [line.item for line in design_cost(reckoner, job, PriceBook()).lines]
    assert {"taken", "twin"} <= set(items)


def test_every_kind_of_equipment_has_its_place_in_jobs():
    assert all(kind.in_jobs for kind in KINDS)
