"""Files for others take any text that a job takes: long, without a space, in other scripts, control signs, or
what a spreadsheet would run."""

import csv
import io
import xml.etree.ElementTree as ET
import zipfile
from datetime import date
from pathlib import Path

import openpyxl
import pypdf
import pytest

from lodestaff.exchange import written
from lodestaff.exchange.cells import inert, plain_cell
from lodestaff.exchange.shelf_tables import read_shelf_file, shelf_bytes
from lodestaff.handover import HandoverInput, pages
from lodestaff.job import Change, edit
from lodestaff.job.journal import Entry
from lodestaff.register import Register
from lodestaff.shelf import Entry as ShelfEntry
from lodestaff.shelf import Shelf

TEXTS = {
    "long": "x" * 660,
    "formula": "=cmd|' /C calc'!A0",
    "odd": "a\x01b\x1b[31mc\x7f\ufffe" + "名前 Ωμέγα שלום a word and another " * 16 + "<b>&amp;</para>" * 20,
}


@pytest.mark.parametrize("text", TEXTS.values(), ids=TEXTS)
def test_the_pack_in_every_form(larkmoor, reckoner, text):
    job = edit(larkmoor, Change("units/hybrid/name", text), Change("site/place", text))
    entries = [Entry("snag", text, "2026-05-02T09:00:00+00:00", text, id="e1")]
    given = HandoverInput(job, entries, Register(), date(2026, 5, 2))
    found = pages(reckoner, given)
    made = {
        kind: written(Path(f"pack.{kind}"), reckoner, given, found) for kind in ("pdf", "xlsx", "svg", "dxf")
    }
    assert len(pypdf.PdfReader(io.BytesIO(made["pdf"])).pages) >= len(found)
    ET.fromstring(made["svg"])
    book = openpyxl.load_workbook(io.BytesIO(made["xlsx"]))
    cells = [cell for sheet in book for row in sheet.iter_rows() for cell in row]
    assert [cell.coordinate for cell in cells if cell.data_type == "f"] == []
    with zipfile.ZipFile(io.BytesIO(made["xlsx"])) as archive:
        assert all(b"<f>" not in archive.read(name) for name in archive.namelist())


@pytest.mark.parametrize("kind", ["csv", "xlsx"])
@pytest.mark.parametrize(
    "note", ["=cmd|' /C calc'!A0", "@SUM(A1)", "-2+3", "'=quoted", "+44 1", "plain", "-"]
)
def test_a_shelf_runs_nothing_and_comes_back_as_it_was(tmp_path, kind, note):
    path = tmp_path / f"shelf.{kind}"
    shelf = Shelf(entries=(ShelfEntry(id="m-1", kind="module", values={"name": "M 1"}, note=note),))
    path.write_bytes(shelf_bytes(shelf, path, "module"))
    if kind == "csv":
        cells = [cell for row in csv.reader(io.StringIO(path.read_text(encoding="utf-8"))) for cell in row]
        assert [cell for cell in cells if cell.startswith(("=", "+", "@")) or cell == "-2+3"] == []
    (entry,) = read_shelf_file(path)
    assert entry.note == note


@pytest.mark.parametrize("text", ["=1", "'=1", "''=1", "-5", "-5.2e3", "-", "+x", "plain", ""])
def test_a_cell_comes_back(text):
    assert plain_cell(inert(text)) == text
