"""The shelf outside the jobs: kept, replaced into jobs, offered, priced; old jobs keep every figure."""

import json

import pytest

from lodestaff.job import Change, Known, edit, load_job
from lodestaff.job.file import job_text
from lodestaff.quantities.errors import JobError
from lodestaff.shelf import Entry, Shelf, load_shelf, save_shelf, shelf_path, starter
from lodestaff.shelf.model import parse_shelf
from lodestaff.shelf.prices import (
    PriceBook,
    SupplierList,
    cost,
    doubts,
    load_prices,
    one_more_module,
    prices_path,
    save_prices,
)
from lodestaff.shelf.replace import in_use, offers, replaced, replacing


def test_the_starter_set_is_complete_and_sound():
    found = starter()
    assert {entry.kind for entry in found.entries} >= {
        "module",
        "hybrid",
        "battery",
        "gateway",
        "generator",
        "cable",
    }
    for entry in found.entries:
        entry.sheet()
        assert not entry.missing
        assert not entry.remarks, entry.id
        assert "invented" in entry.name


def test_without_a_shelf_the_starter_set_is_there(tmp_path):
    assert load_shelf() == starter()
    mine = Shelf(
        entries=(Entry(id="m1", kind="module", values={"voc_v": 40.0}, known={"voc_v": Known.TOLD}),)
    )
    save_shelf(mine)
    assert load_shelf() == mine
    assert shelf_path().exists()
    assert load_shelf().get("m1").known_of("voc_v") is Known.TOLD
    assert load_shelf().get("m1").known_of("isc_a") is Known.SHEET


def test_a_half_typed_sheet_is_kept_and_no_job_can_take_it(larkmoor):
    half = Entry(id="m1", kind="module", values={"voc_v": 40.0})
    assert "Short-circuit current Isc" in half.missing
    with pytest.raises(JobError, match="nothing is guessed"):
        replacing(larkmoor, "module-440", half)


@pytest.mark.parametrize(
    ("text", "word"),
    [
        ("{", "JSON"),
        (json.dumps({"version": 3}), "version"),
        (json.dumps({"entries": [{"id": "M", "kind": "module", "values": {}}]}), "entries 0 id"),
        (json.dumps({"entries": [{"id": "m", "kind": "kite", "values": {}}]}), "no kind of equipment"),
        (
            json.dumps({"entries": [{"id": "m", "kind": "module", "values": {"colour": 1}}]}),
            "no field 'colour'",
        ),
        (json.dumps({"entries": [{"id": "m", "kind": "module", "values": {}}] * 2}), "stands twice"),
        ("[" * 100_000, "JSON"),
    ],
)
def test_damage_says_where(text, word):
    with pytest.raises(JobError, match=word):
        parse_shelf(text.encode(), "shelf.json")


def test_entries_keep_their_place(tmp_path):
    found = starter()
    changed = found.get("module-440").model_copy(update={"note": "seen"})
    after = found.with_entry(changed)
    assert [entry.id for entry in after.entries] == [entry.id for entry in found.entries]
    assert after.get("module-440").note == "seen"
    with pytest.raises(JobError, match="nothing on the shelf"):
        after.without("module-999")


# --- into a job -----------------------------------------------------------------------------------------
def test_a_part_is_replaced_in_one_undoable_step(larkmoor):
    made = replaced(larkmoor, "module-440", starter().get("module-410"))
    assert {face.module for face in made.faces} == {"module-410"}
    assert made.sheets.modules["module-410"].pmp_w == 410.0
    back = edit(made, *[Change(f"faces/{face.id}/module", "module-440") for face in made.faces])
    assert back.faces == larkmoor.faces
    assert ("module", "module-440") in in_use(larkmoor)


def test_strings_find_a_tracker_of_a_smaller_unit(larkmoor):
    one = starter().get("hybrid-8").model_copy(update={"id": "one-tracker"})
    values = {**one.values, "trackers": one.values["trackers"][:1]}
    made = replaced(larkmoor, "hybrid-6", Entry(id="one-tracker", kind="hybrid", values=values))
    assert {string.tracker for string in made.strings} == {"A"}


@pytest.mark.parametrize(
    ("old", "new", "word"),
    [("module-9", "module-410", "uses no"), ("x", "gateway-100", "nothing in this job takes a gateway")],
)
def test_what_can_t_be_replaced_says_why(larkmoor, old, new, word):
    with pytest.raises(JobError, match=word):
        replaced(larkmoor, old, starter().get(new))


def test_a_module_too_long_for_the_face_is_refused(larkmoor):
    long = starter().get("module-440")
    entry = Entry(id="long", kind="module", values={**long.values, "length_m": 4.0})
    with pytest.raises(JobError):
        replaced(larkmoor, "module-440", entry)


def test_a_changed_sheet_is_offered_and_never_pushed(larkmoor_path, larkmoor, reckoner):
    """After the shelf changes the job keeps every figure to the bit."""
    before = reckoner.figures(larkmoor)
    found = starter()
    entry = found.get("module-440")
    changed = found.with_entry(Entry(id="module-440", kind="module", values={**entry.values, "voc_v": 39.9}))
    save_shelf(changed)
    again = load_job(larkmoor_path)
    assert job_text(again) == job_text(larkmoor)
    assert reckoner.figures(again) == before
    (offer,) = offers(again, changed)
    assert offer.fields == (("Open-circuit voltage Voc", 39.6, 39.9),)
    assert offers(again, found) == ()


# --- money ----------------------------------------------------------------------------------------------
BOOK = PriceBook(
    tax_pct=20.0,
    labour_per_hour=45.0,
    labour_hours={"hybrid": 6.0, "battery": 1.0, "module": 0.5, "cable": 0.1},
    lists=(
        SupplierList(
            supplier="Fell Wholesale", date="2026-10-01", prices={"hybrid-6": 900.0, "module-440": 70.0}
        ),
        SupplierList(
            supplier="Ridge Electric", prices={"hybrid-6": 850.0, "battery-48": 1100.0, "cable-4d5-c-10": 4.0}
        ),
    ),
)


def test_without_prices_everything_is_open(larkmoor):
    found = cost(larkmoor, PriceBook())
    assert found.net == 0
    assert len(found.open) == len(found.lines)


def test_what_has_a_price_is_summed_and_the_rest_named(larkmoor):
    """900 + 4 x 1100 + 18 x 70 + 19 m x 4, the 14 m of 16 mm² are open; labour (6 + 4 + 9 + 8.35) h x 45;
    tax 20 % (derived by hand)."""
    found = cost(larkmoor, BOOK)
    parts = 900 + 4 * 1100 + 18 * 70 + 19 * 4.0
    labour = (6 + 4 * 1.0 + 18 * 0.5 + 83.5 * 0.1) * 45
    assert found.net == pytest.approx(parts + labour)
    assert found.gross == pytest.approx(1.2 * (parts + labour))
    assert len(found.open) == 3
    assert sum("DC class 5" in words for words in found.open) == 2
    hybrid = next(line for line in found.lines if line.item == "hybrid-6")
    assert (hybrid.each, hybrid.supplier) == (900.0, "Fell Wholesale")


def test_one_more_module_costs_its_price_and_its_hours(larkmoor):
    more = edit(larkmoor, Change("banks/battery/modules", 5))
    assert cost(more, BOOK).net - cost(larkmoor, BOOK).net == pytest.approx(1100 + 45)
    assert one_more_module(larkmoor, "battery", BOOK) == pytest.approx(1145)
    assert one_more_module(larkmoor, "battery", PriceBook()) is None


def test_prices_are_kept_and_damage_is_said(tmp_path):
    assert load_prices() == PriceBook()
    save_prices(BOOK)
    assert load_prices() == BOOK
    assert prices_path().exists()
    for text, word in (
        ("{", "JSON"),
        (json.dumps({"tax_pct": 200}), "tax_pct"),
        (json.dumps({"currency": "pounds"}), "currency"),
    ):
        path = tmp_path / "prices.json"
        path.write_text(text)
        with pytest.raises(JobError, match=word):
            load_prices(path)


def test_a_price_that_can_hardly_be_meant_is_doubted():
    near = SupplierList(supplier="Fell Wholesale", prices={"hybrid-6": 940, "outlet": 38})
    assert doubts(PriceBook(lists=(near,))) == ()
    far = SupplierList(supplier="Dale Supply", prices={"hybrid-6": 9.4, "outlet": 0})
    nothing, apart = doubts(PriceBook(lists=(near, far)))
    assert "outlet" in nothing
    assert "9.40" in apart
    assert "940" in apart
