"""The printed page: what must stand on it, in words a reader can find."""

import io
from datetime import date

import pytest
from pypdf import PdfReader

from lodestaff.exchange.pdf import pdf
from lodestaff.handover import HandoverInput, pages
from lodestaff.job import Change, edit
from lodestaff.quantities.convention import GROUP, grouped
from lodestaff.reckoning.findings import findings
from lodestaff.register import Register

DAY = date(2026, 11, 25)


def page(reckoner, job, printed=DAY):
    """The pack of a job as PDF bytes."""
    given = HandoverInput(job, (), Register(), printed)
    return pdf(reckoner, given, pages(reckoner, given))


@pytest.fixture(scope="module")
def printed(reckoner, larkmoor):
    return PdfReader(io.BytesIO(page(reckoner, larkmoor, date(2026, 11, 25))))


@pytest.fixture(scope="module")
def text(printed):
    return " ".join(" ".join(sheet.extract_text().split()) for sheet in printed.pages)


def test_every_page_says_that_a_licensed_person_rules(printed, larkmoor):
    for sheet in printed.pages:
        words = " ".join(sheet.extract_text().split())
        assert "assists a licensed person" in words
        assert larkmoor.title in words


def test_the_split_is_there_in_full(text, larkmoor):
    for circuit in larkmoor.circuits:
        assert circuit.name in text
    for role in ("held", "shed first", "grid only", "locked out"):
        assert role in text


def test_the_settings_are_there(text):
    for words in (
        "Reserve 30 % of rated capacity",
        "Export limit 3.60 kW",
        "Charge limit 5.00 kW",
        "01:00 to 05:00",
    ):
        assert words in text


def test_strings_and_cables_are_there(text):
    for words in ("10 South-east", "436 V", "Hybrid feed 51.9 A grid 16 mm²", "Record low -14"):
        assert words in text


def test_every_finding_is_there_with_its_source_on_request(text, reckoner, larkmoor):
    day, parts = date(2026, 11, 25), ("technical",)
    given = HandoverInput(larkmoor, (), Register(), day, parts=parts, workings=True)
    raw = pdf(reckoner, given, [one for one in pages(reckoner, given) if one.id == "findings"])
    sheets = PdfReader(io.BytesIO(raw)).pages
    whole = " ".join(" ".join(sheet.extract_text().split()) for sheet in sheets)
    for one in findings(reckoner, larkmoor):
        assert one.code in text  # in short without
        assert one.code in whole
        assert one.figure.source.text.split(";")[0][:16] in whole


def test_the_cautions_of_this_site_are_there(text, larkmoor):
    for name in (
        "prove_dead",
        "live_in_daylight",
        "bypass",
        "all_off",
        "cutout",
        "not_emergency",
        "battery",
        "tncs",
    ):
        assert larkmoor.pack.cautions[name][:40] in text


def test_the_diagram_names_its_parts(text):
    for words in ("Essential loads board", "Old consumer unit", "Hybrid", "RCD"):
        assert words in text


def test_the_year_is_there(text, reckoner, larkmoor):
    assert f"{grouped(reckoner.figures(larkmoor).bill)} GBP".replace(GROUP, " ") in text.replace(GROUP, " ")
    assert "no record" in text


def test_fonts_are_embedded(printed):
    fonts = printed.pages[0]["/Resources"]["/Font"]
    embedded = [font.get_object() for font in fonts.values()]
    assert any("B612" in str(font["/BaseFont"]) for font in embedded)
    for font in embedded:
        if "B612" in str(font["/BaseFont"]):
            assert "/FontFile2" in font["/FontDescriptor"]


def test_the_same_job_prints_the_same_bytes(reckoner, larkmoor):
    day = date(2026, 11, 25)
    assert page(reckoner, larkmoor, day) == page(reckoner, larkmoor, day)


def test_a_tt_supply_has_no_tncs_caution(reckoner, larkmoor):
    job = edit(larkmoor, Change("site/supply/earthing/value", "TT"))
    reader = PdfReader(io.BytesIO(page(reckoner, job, date(2026, 11, 25))))
    assert "TN-C-S supply:" not in " ".join(sheet.extract_text() for sheet in reader.pages)


def test_odd_characters_do_not_break_the_page(reckoner, larkmoor):
    job = edit(larkmoor, Change("title", "A & B <surgery> ½"), Change("circuits/server/name", "R&D <rack>"))
    reader = PdfReader(io.BytesIO(page(reckoner, job, date(2026, 11, 25))))
    assert "R&D <rack>" in " ".join(sheet.extract_text() for sheet in reader.pages)


def marks(reader):
    """The bookmarks of pages, under those of their parts."""
    return [mark for group in reader.outline if isinstance(group, list) for mark in group]


def test_bookmarks_count_language_and_date(printed, reckoner, larkmoor):
    """Read by a library of its own: each part and page is found, each sheet says of how many, the date is
    that of printing."""
    given = HandoverInput(larkmoor, (), Register(), date(2026, 11, 25))
    titles = [one.title for one in pages(reckoner, given)]
    assert [mark.title for mark in marks(printed)] == titles
    parts = [mark.title for mark in printed.outline if not isinstance(mark, list)]
    assert parts == ["For the owner", "Technical record", "For the operator"]
    starts = [printed.get_destination_page_number(mark) for mark in marks(printed)]
    assert starts == sorted(starts)
    for title, at in zip(titles, starts, strict=True):
        assert title in " ".join(printed.pages[at].extract_text().split())
    count = len(printed.pages)
    for number, sheet in enumerate(printed.pages, start=1):
        assert f"page {number} of" in sheet.extract_text()
        assert f"of {count}" in " ".join(sheet.extract_text().split())
    assert printed.trailer["/Root"]["/Lang"] == "en"
    assert printed.metadata.creation_date.date() == date(2026, 11, 25)
    assert printed.metadata.title == larkmoor.title


def test_what_is_missing_stands_on_its_page(printed, larkmoor):
    start = {mark.title: printed.get_destination_page_number(mark) for mark in marks(printed)}
    first = " ".join(printed.pages[start[larkmoor.title]].extract_text().split())
    assert "Missing: the firm's details are not in the register" in first
    assert "62 of 62 steps of the procedure are not passed" in first


@pytest.mark.parametrize(("paper", "size"), [("A4", (595, 842)), ("Letter", (612, 792))])
def test_the_paper_is_the_packs(reckoner, larkmoor, paper, size):
    job = edit(larkmoor, Change("pack/paper", paper))
    box = PdfReader(io.BytesIO(page(reckoner, job))).pages[0].mediabox
    assert (round(box.width), round(box.height)) == size


def test_places_to_sign_are_there(text):
    assert "Installed and tested" in text
    assert "Taken over by the customer" in text
