"""The workbook holds words, never formulas; the diagram is a sound SVG of its own, and a sound DXF."""

import io
import xml.etree.ElementTree as ET
from datetime import date

import ezdxf.recover
import openpyxl
import pytest

from lodestaff.exchange.dxf import dxf
from lodestaff.exchange.svg import svg
from lodestaff.exchange.workbook import workbook
from lodestaff.handover import HandoverInput, pages
from lodestaff.job import Change, edit, load_job
from lodestaff.register import Register
from lodestaff.samples import sample_path
from lodestaff.wiring import draw

SVG = "{http://www.w3.org/2000/svg}"


def book_of(reckoner, job):
    given = HandoverInput(job, (), Register(), date(2026, 11, 25))
    return openpyxl.load_workbook(io.BytesIO(workbook(given, pages(reckoner, given))))


@pytest.fixture(scope="module")
def book(reckoner, larkmoor):
    return book_of(reckoner, larkmoor)


def test_a_sheet_for_every_schedule(book):
    assert {
        "Job",
        "Circuits",
        "Strings",
        "Cables",
        "Settings",
        "Results",
        "Labels",
        "Serials",
        "Findings",
    } <= set(book.sheetnames)


def test_rows_are_those_of_the_job(book, larkmoor):
    names = {row[0].value for row in book["Circuits"].iter_rows(min_row=2)}
    assert names == {circuit.name for circuit in larkmoor.circuits}
    assert book["Results"].max_row == 1 + 62
    assert any("steps of the procedure" in str(row[1].value) for row in book["Job"].iter_rows())


@pytest.mark.parametrize("name", ["=1+1", "@SUM(A1)", "+cmd|x", "-2+3+cmd", "a\x07b"])
def test_a_name_is_never_a_formula(reckoner, larkmoor, name):
    """A cell that begins like a formula is disarmed, and control characters don't break the file."""
    book = book_of(reckoner, edit(larkmoor, Change("circuits/server/name", name)))
    cells = [row[0] for row in book["Circuits"].iter_rows(min_row=2)]
    assert all(cell.data_type == "s" for cell in cells)
    assert all(not str(cell.value).startswith(("=", "@", "+cmd", "-2+")) for cell in cells)


def test_the_svg_is_sound_and_says_what_it_shows(reckoner, larkmoor):
    wiring = reckoner.wiring(larkmoor)
    grid = wiring.answers[0]
    root = ET.fromstring(svg(draw(wiring.topology, grid.positions), grid, "A & B <job>"))
    assert root.find(f"{SVG}title").text == "A & B <job>"
    words = {element.text for element in root.iter(f"{SVG}text")}
    assert {circuit.name for circuit in larkmoor.circuits} <= words
    drawn = {element.get("data-conductor") for element in root.iter(f"{SVG}polyline")} - {None}
    assert drawn == {conductor.id for conductor in wiring.topology.conductors}
    x, y, w, h = (float(part) for part in root.get("viewBox").split())
    assert (x, y) == (0, 0)
    for line in root.iter(f"{SVG}polyline"):
        for point in line.get("points").split():
            px, py = (float(part) for part in point.split(","))
            assert -1 <= px <= w + 1
            assert -1 <= py <= h + 1


@pytest.mark.parametrize(
    "name", ["larkmoor", "ocotillo-wash-centre", "pinfold-terrace-3", "quern-hall-joinery"]
)
def test_the_dxf_is_read_again_by_its_library(reckoner, name):
    """Sound by its own audit; a layer for each source, a block for each symbol, names as editable text."""
    job = load_job(sample_path(name))
    wiring = reckoner.wiring(job)
    first = wiring.answers[0]
    drawing = draw(wiring.topology, first.positions)
    raw = dxf(drawing, first, wiring.topology, (job.title,))
    document, auditor = ezdxf.recover.read(io.BytesIO(raw))
    assert not auditor.errors
    assert not document.audit().errors
    space = document.modelspace()
    words = {text.dxf.text for text in space.query("TEXT")}
    assert {shape.text for shape in drawing.shapes if shape.kind == "text"} <= words
    assert job.title in words
    layers = {line.dxf.layer for line in space.query("LWPOLYLINE")}
    kinds = {kind.upper() for kinds in first.live.values() for kind in kinds}
    assert layers - {"CONDUCTORS DEAD"} == {f"CONDUCTORS {kind}" for kind in kinds}
    blocks = {block.dxf.name for block in space.query("INSERT")}
    owners = {shape.owner for shape in drawing.shapes if shape.style != "conductor" and shape.kind != "text"}
    assert len(space.query("INSERT")) == len(owners)
    assert len(blocks) < len(owners)
