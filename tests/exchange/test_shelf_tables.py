"""Sheets in and out: round trips of every form, hostile files, the open module table."""

import io
import zipfile
from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from lodestaff.catalogue.kinds import KINDS
from lodestaff.exchange.shelf_tables import read_shelf_file, shelf_bytes
from lodestaff.job import Known
from lodestaff.quantities.errors import JobError
from lodestaff.shelf import Entry, Shelf, starter


def put(tmp_path, name, raw):
    path = tmp_path / name
    path.write_bytes(raw if isinstance(raw, bytes) else raw.encode())
    return path


@pytest.mark.parametrize("form", ["json", "xlsx"])
def test_the_whole_shelf_round_trips(tmp_path, form):
    path = tmp_path / f"shelf.{form}"
    path.write_bytes(shelf_bytes(starter(), path))
    back = {entry.id: entry.sheet() for entry in read_shelf_file(path)}
    assert back == {entry.id: entry.sheet() for entry in starter().entries}


@pytest.mark.parametrize("kind", [kind.id for kind in KINDS])
def test_every_kind_round_trips_as_csv(tmp_path, kind):
    path = tmp_path / "kind.csv"
    path.write_bytes(shelf_bytes(starter(), path, kind))
    assert [e.sheet() for e in read_shelf_file(path)] == [e.sheet() for e in starter().of_kind(kind)]


def test_note_file_and_how_it_is_known_round_trip(tmp_path):
    entry = Entry(
        id="m-1",
        kind="module",
        values={"name": '=x, "y"', "voc_v": 40.0},
        known={"voc_v": Known.TOLD},
        note="line one; two",
        file="sheets/m.pdf",
    )
    for name in ("a.csv", "a.xlsx", "a.json"):
        path = tmp_path / name
        path.write_bytes(shelf_bytes(Shelf(entries=(entry,)), path, "module"))
        assert read_shelf_file(path) == (entry,)


def test_cells_in_a_data_sheets_units_and_national_shapes(tmp_path):
    text = "\ufeffkind;id;name;beta_voc_pct_per_k;voc_v;length_m\nmodule;m1;Modul;-135 mV/K;49,62;1762 mm\n"
    (entry,) = read_shelf_file(put(tmp_path, "m.csv", text))
    assert entry.values["voc_v"] == 49.62
    assert entry.values["beta_voc_pct_per_k"] == pytest.approx(-0.27207, rel=1e-4)
    assert entry.values["length_m"] == 1.762


@pytest.mark.parametrize(
    ("name", "raw", "word"),
    [
        ("a.csv", "id,voc_v\nm,1\n", "no column 'kind'"),
        ("a.csv", "kind,id,voc_v,voc_v\nmodule,m,1,2\n", "stands twice"),
        ("a.csv", "kind,id,voc_v\nkite,m,1\n", "row 2: no kind"),
        ("a.csv", "kind,id,voc_v\nmodule,m,high\n", "row 2 voc_v"),
        ("a.csv", "kind,id,colour\nmodule,m,red\n", "no field 'colour'"),
        ("a.csv", "kind,id,voc_v\nmodule,Big Id,40\n", "row 2 id"),
        ("a.csv", "kind,id,voc_v\nmodule,m,40,50\n", "more cells"),
        ("a.csv", 'kind,id,note\nmodule,m,"open\n', "damaged"),
        ("a.csv", b"\xff\xfe\x00\x01", "no text"),
        ("a.csv", "kind,id,known\nmodule,m,{\n", "known"),
        ("a.csv", 'kind,id,known\nmodule,m,"{""voc_v"": ""dreamt""}"\n', "known"),
        ("a.xlsx", b"PK\x03\x04 no workbook", "no workbook"),
        ("a.xlsx", b"", "no workbook"),
        ("a.json", "[]", "shelf"),
        ("a.ods", b"x", "no kind of file"),
    ],
)
def test_hostile_files_say_where_and_what(tmp_path, name, raw, word):
    with pytest.raises(JobError, match=word):
        read_shelf_file(put(tmp_path, name, raw))


def test_a_workbook_that_unpacks_without_end_is_refused(tmp_path):
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as archive:
        for number in range(5):
            archive.writestr(f"xl/{number}.xml", b"0" * 50_000_000)
    with pytest.raises(JobError, match="unpacks"):
        read_shelf_file(put(tmp_path, "bomb.xlsx", buffer.getvalue()))


def test_an_empty_table_is_an_empty_shelf(tmp_path):
    assert read_shelf_file(put(tmp_path, "a.csv", "")) == ()
    assert read_shelf_file(put(tmp_path, "b.csv", "kind,id\n")) == ()


@settings(
    max_examples=150,
    deadline=None,
    suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.too_slow],
)
@given(st.lists(st.lists(st.text(max_size=12), max_size=6), max_size=5), st.sampled_from([",", ";", "\t"]))
def test_any_csv_is_read_or_refused_in_words(tmp_path, rows, delimiter):
    text = "\n".join(delimiter.join(row) for row in rows)
    try:
        read_shelf_file(put(tmp_path, "any.csv", text.encode("utf-8", "surrogatepass")))
    except JobError as trouble:
        assert str(trouble).startswith("any.csv")  # noqa: PT017


def test_a_csv_holds_one_kind_and_other_endings_are_refused():
    with pytest.raises(JobError, match="one kind"):
        shelf_bytes(starter(), Path("a.csv"))
    with pytest.raises(JobError, match="no kind of file"):
        shelf_bytes(starter(), Path("a.ods"))


# --- the open module table
# -------------------------------------------------------------------------------------------
@pytest.fixture(scope="module")
def table_path():
    """The table of module parameters that pvlib ships; rows are picked by index only."""
    import pvlib

    folder = Path(pvlib.__file__).parent / "data"
    return next(folder.glob("sam-library-cec-modules-*.csv"))


def test_rows_of_the_open_table_become_sheets(table_path):
    """Source: the table that ships with pvlib; each row's own operating point and coefficients come back."""
    import pandas as pd

    raw = pd.read_csv(table_path, skiprows=[1, 2], low_memory=False)
    picked = [100, 5000, 12_000]
    for number, entry in zip(picked, read_shelf_file(table_path, picked), strict=True):
        row = raw.iloc[number]
        assert entry.values["voc_v"] == pytest.approx(row["V_oc_ref"])
        assert entry.values["beta_voc_pct_per_k"] == pytest.approx(100 * row["beta_oc"] / row["V_oc_ref"])
        assert not [one for one in entry.remarks if one.weight == "wrong"]


def test_the_open_table_asks_which_row(table_path):
    with pytest.raises(JobError, match="which"):
        read_shelf_file(table_path)
    with pytest.raises(JobError, match="no row"):
        read_shelf_file(table_path, [10**6])


def test_typed_sheets_give_back_their_own_points_by_a_single_diode():
    """The fit to a sheet reproduces the sheet's operating, open-circuit and short-circuit points."""
    import numpy as np
    import pvlib

    from lodestaff.energy.mismatch import curve, module_points

    for entry in starter().of_kind("module"):
        sheet = entry.sheet()
        found = pvlib.pvsystem.singlediode(*curve(module_points(sheet), np.array(1000.0), np.array(25.0)))
        v_oc, i_sc, p_mp = (float(np.ravel(found[name])[0]) for name in ("v_oc", "i_sc", "p_mp"))
        assert v_oc == pytest.approx(sheet.voc_v, rel=0.005)
        assert i_sc == pytest.approx(sheet.isc_a, rel=0.005)
        assert p_mp == pytest.approx(sheet.pmp_w, rel=0.01)
