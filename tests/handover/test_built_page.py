"""What was built: photos at their steps, registers, the plan and who stands for what differs, walls."""

import hashlib
import json
from datetime import date

import pypdfium2
import pytest
from tests.handover.test_pages import made, tables

from lodestaff.exchange.pdf import pdf
from lodestaff.handover import HandoverInput, Picture, Walls, pages
from lodestaff.job import Change, edit
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning import Reckoner
from lodestaff.reckoning.built import as_built, confirming, plan_text, planning
from lodestaff.register import Register

DAY = date(2026, 12, 20)
PHOTO = {"sha256": "a" * 64, "date": "2026-12-16"}


@pytest.fixture(scope="module")
def planned(larkmoor):
    """The demo with itself as its plan, and what gives the plan's bytes."""
    raw = plan_text(larkmoor)
    digest = hashlib.sha256(raw).hexdigest()
    return edit(larkmoor, *planning(digest, by="R. Planner", date="2026-12-01")), {digest: raw}.__getitem__


@pytest.fixture(scope="module")
def otherwise(planned):
    job, read = planned
    built = edit(
        job, Change("cables/hybrid-feed/length_m", 15), Change("standing/battery/x_m", 2.0),
        Change("tariff/currency", "EUR"), Change("site/place", "Elsewhere"),
    )  # fmt: skip
    return built, read


def test_what_was_built_as_planned_says_so(planned):
    job, read = planned
    found = as_built(job, read)
    assert found.rows == ()
    assert as_built(edit(job, Change("handed/plan", None)), read) is None


def test_only_what_is_built_is_held_against_the_plan(otherwise):
    found = as_built(*otherwise)
    assert {row.path: (row.planned, row.built) for row in found.rows} == {
        "cables/hybrid-feed/length_m": ("14.0", "15.0"), "standing/battery/x_m": ("1.95", "2.0"),
    }  # fmt: skip
    assert len(found.open) == 2


def test_a_difference_is_confirmed_until_it_changes_again(otherwise):
    job, read = otherwise
    path = "cables/hybrid-feed/length_m"
    sure = edit(job, confirming(job, as_built(job, read), [path], by="T. Fitter", date="2026-12-16"))
    assert [row.path for row in as_built(sure, read).open] == ["standing/battery/x_m"]
    again = edit(sure, Change(path, 16))
    assert len(as_built(again, read).open) == 2
    both = edit(sure, confirming(sure, as_built(sure, read), [], by="T. Fitter", date="2026-12-16"))
    assert as_built(both, read).open == ()
    assert len(both.handed.confirmed) == 2


@pytest.mark.parametrize(
    ("paths", "by", "said"), [(["units"], "T. Fitter", "nothing differs"), ([], " ", "a name")]
)
def test_nobody_confirms_what_is_not_there(otherwise, paths, by, said):
    job, read = otherwise
    with pytest.raises(JobError, match=said):
        confirming(job, as_built(job, read), paths, by=by, date="")


def test_the_page_names_what_differs_and_what_nobody_confirmed(reckoner, otherwise):
    job, read = otherwise
    plan = job.handed.plan.sha256
    both = Reckoner(lambda digest: read(digest) if digest == plan else reckoner.attachment(digest))
    page = made(both, job)["built"]
    row = tables(page)["As built"].rows[0]
    assert row == ("Hybrid feed: length m", "14.0", "15.0", "nobody yet")
    assert page.missing == ("differences that nobody confirmed: 2",)
    lost = made(reckoner, job)["built"]
    assert "the plan can't be read" in lost.missing[0]


def test_without_a_plan_there_is_no_such_page(reckoner, larkmoor):
    assert "built" not in made(reckoner, larkmoor)


# --- photos ----------------------------------------------------------------------------------------------
@pytest.fixture(scope="module")
def pictured(larkmoor):
    rows = [{"id": "one", "of": "", "what": "The wall", **PHOTO},
            {"id": "two", "of": "hybrid-bypass", "what": "The changeover", **PHOTO},
            {"id": "three", "of": "battery-isolator", "what": "The battery's isolator", **PHOTO}]  # fmt: skip
    return edit(larkmoor, Change("handed/photos", rows))


def test_photos_stand_at_the_steps_of_what_they_show(reckoner, pictured):
    found = made(reckoner, pictured)

    def shown(page):
        return [block.words for block in found[page].blocks if isinstance(block, Picture)]

    assert shown("owner") == ["The wall 2026-12-16"]
    assert shown("places") == ["The wall 2026-12-16"]
    assert shown("owner-doing")[0] == "The changeover 2026-12-16"  # at the bypass, then in everything off
    assert "The battery's isolator 2026-12-16" in shown("isolation")
    assert not shown("owner-care")


# --- registers -------------------------------------------------------------------------------------------
def test_registers_are_printed_and_those_that_wait_are_missing(reckoner, larkmoor):
    rows = [{"id": "a", "what": "Register of plants", "number": "R 12", "date": "2026-12-20"},
            {"id": "b", "what": "Operator's list", "due": "2027-01-16"}]  # fmt: skip
    page = made(reckoner, edit(larkmoor, Change("handed/registered", rows)))["registered"]
    assert tables(page)["Registers"].rows[0] == ("Register of plants", "R 12", "2026-12-20", "-")
    assert page.missing == ("not entered yet: Operator's list (by 2027-01-16)",)
    assert "registered" not in made(reckoner, larkmoor)


# --- walls -----------------------------------------------------------------------------------------------
def test_walls_are_drawn_with_the_numbers_of_the_table(reckoner, larkmoor):
    given = HandoverInput(larkmoor, (), Register(), DAY)
    page = next(page for page in pages(reckoner, given) if page.id == "places")
    assert any(isinstance(block, Walls) for block in page.blocks)
    document = pypdfium2.PdfDocument(pdf(reckoner, given, (page,)), autoclose=True)
    words = document[0].get_textpage().get_text_range()
    numbers = {row[1]: row[0] for row in tables(page)["Parts on the walls"].rows}
    assert f"{numbers['Hybrid']} Hybrid" in words
    assert "Plant room, north wall, plant room, 6.4 × 2.5 m" in words
    assert tables(page)["Supports"].rows == (("Tie-back of Battery, 4 modules to the wall", "1.00 sets"),)
    assert json.loads(plan_text(larkmoor))["handed"]["plan"] is None


def test_every_module_is_on_the_map_under_the_name_of_its_number(reckoner, larkmoor):
    given = HandoverInput(larkmoor, (), Register(), DAY)
    page = next(page for page in pages(reckoner, given) if page.id == "serials")
    document = pypdfium2.PdfDocument(pdf(reckoner, given, (page,)), autoclose=True)
    words = " ".join(sheet.get_textpage().get_text_range() for sheet in document)
    for face in larkmoor.faces:
        assert f"{face.name}, {face.azimuth_deg:g}° from north" in words
    boxes = [
        thing.get_bounds() for thing in document[0].get_objects(filter=[pypdfium2.raw.FPDF_PAGEOBJ_PATH])
    ]
    sizes = {(round(b[2] - b[0], 1), round(b[3] - b[1], 1)) for b in boxes}
    face = larkmoor.faces[0]
    wide, high = face.size_of(face.modules[0], larkmoor.sheets.modules[face.module])
    assert any(abs(w / h - wide / high) < 0.03 for w, h in sizes if h > 5)
