"""Sheets in and out as CSV, XLSX and JSON, and module parameters from the open table that pvlib reads.

In a CSV file or a workbook's sheet the first row names the fields; a row is an entry. Units stand in the
names of the fields, and cells may be in any unit that a data sheet uses for them. Lists stand as the form
shows them, or as JSON.
"""

import csv
import io
import json
import zipfile
from collections.abc import Iterable, Sequence
from pathlib import Path
from typing import Any

from pydantic import ValidationError

from lodestaff.catalogue.entry import shown, typed
from lodestaff.catalogue.kinds import KINDS, Kind, kind_named
from lodestaff.exchange.cells import inert, plain_cell
from lodestaff.quantities.disk import read_whole
from lodestaff.quantities.errors import JobError, visible
from lodestaff.quantities.reader import read_number
from lodestaff.shelf.model import MOST_ENTRIES, Entry, Shelf, parse_shelf, shelf_text

HEAD = ("kind", "id")
TAIL = ("note", "file", "known")
MOST_BYTES = 30_000_000
MOST_UNPACKED = 200_000_000
MOST_COLUMNS = 200
NOTHING = ("", "nan", "inf", "-inf")  # cells of a module table that say nothing


def read_shelf_file(path: Path, rows: Sequence[int] = ()) -> tuple[Entry, ...]:
    """The entries of a file, by its ending: .csv, .xlsx or .json; `rows` picks from a module table (from 0).

    Raises JobError that names file, row and field, and says what would be right.
    """
    raw = read_whole(path)
    if len(raw) > MOST_BYTES:
        raise JobError("is too large for a shelf", path.name, f"at most {MOST_BYTES // 1_000_000} MB")
    match path.suffix.lower():
        case ".json":
            return parse_shelf(raw, path.name).entries
        case ".xlsx":
            return _read_workbook(raw, path.name)
        case ".csv":
            table = _csv_rows(_text(raw, path.name), path.name)
            if is_module_table(table):
                return module_table(table, path.name, rows)
            return _entries(table, path.name)
    raise JobError(f"no kind of file {path.suffix!r}", path.name, "name a .csv, .xlsx or .json file")


def _text(raw: bytes, name: str) -> str:
    for encoding in ("utf-8-sig", "cp1252"):
        try:
            text = raw.decode(encoding)
        except UnicodeDecodeError:
            continue
        if "\x00" in text:
            break
        return text
    raise JobError("is no text", name, "save it as CSV, UTF-8")


def _csv_rows(text: str, name: str) -> list[list[str]]:
    first = text.split("\n", 1)[0]
    delimiter = max(",;\t", key=first.count)
    try:
        return [
            row
            for row in csv.reader(io.StringIO(text), delimiter=delimiter, strict=True)
            if any(c.strip() for c in row)
        ]
    except csv.Error as trouble:
        raise JobError(f"is damaged: {trouble}", name, "save it anew as CSV") from trouble


def _read_workbook(raw: bytes, name: str) -> tuple[Entry, ...]:
    import openpyxl

    try:
        with zipfile.ZipFile(io.BytesIO(raw)) as archive:
            if sum(member.file_size for member in archive.infolist()) > MOST_UNPACKED:
                raise JobError(
                    "unpacks to more than a shelf holds", name, "remove what is no equipment from it"
                )
        book = openpyxl.load_workbook(io.BytesIO(raw), read_only=True, data_only=True)
        sheets = [
            [
                [_cell(value) for value in row]
                for row in sheet.iter_rows(values_only=True, max_row=MOST_ENTRIES + 2, max_col=MOST_COLUMNS)
            ]
            for sheet in book.worksheets
        ]
        book.close()
    except JobError:
        raise
    except Exception as trouble:  # openpyxl raises many kinds for a damaged file
        raise JobError(
            f"is no workbook: {type(trouble).__name__}", name, "save it anew as .xlsx"
        ) from trouble
    entries: list[Entry] = []
    for table in sheets:
        rows = [row for row in table if any(cell.strip() for cell in row)]
        if rows:
            entries += _entries(rows, name)
    return tuple(entries)


def _cell(value: Any) -> str:
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    return f"{value:.9g}" if isinstance(value, float) else str(value)


def _entries(rows: list[list[str]], name: str) -> tuple[Entry, ...]:
    if not rows:
        return ()
    head = [cell.strip() for cell in rows[0]]
    while head and not head[-1]:
        head.pop()
    if len(rows) - 1 > MOST_ENTRIES:
        raise JobError(f"holds {len(rows) - 1} rows", name, f"at most {MOST_ENTRIES}")
    twice = sorted({heading for heading in head if head.count(heading) > 1})
    if twice:
        raise JobError(f"the column {twice[0]!r} stands twice", f"{name} row 1", "name each column once")
    for needed in HEAD:
        if needed not in head:
            words = f"columns: {', '.join(HEAD)}, the fields of the kind, {', '.join(TAIL)}"
            raise JobError(f"has no column {needed!r}", f"{name} row 1", words)
    return tuple(_entry(head, row, f"{name} row {number}") for number, row in enumerate(rows[1:], start=2))


def _entry(head: list[str], row: list[str], where: str) -> Entry:
    if (
        len([cell for cell in row if cell.strip()])
        and len(row) > len(head)
        and any(c.strip() for c in row[len(head) :])
    ):
        raise JobError("has more cells than there are columns", where, "quote cells that hold the delimiter")
    cells = {
        key: (plain_cell(row[index].strip()) if index < len(row) else "") for index, key in enumerate(head)
    }
    kind = _kind(cells["kind"], where)
    fields = {row.key: row for row in kind.rows}
    values: dict[str, Any] = {}
    waiting = [key for key in head if key in fields]
    for key in head:
        if key not in fields and key not in (*HEAD, *TAIL) and cells[key]:
            raise JobError(f"a {kind.words} has no field {key!r}", where, f"fields: {', '.join(fields)}")
    for late in (False, True):  # coefficients in absolute units need the value that they belong to
        for key in waiting:
            if key.endswith("_pct_per_k") is late:
                try:
                    value = typed(fields[key], cells[key], values, ".")
                except JobError as trouble:
                    raise JobError(trouble.what, f"{where} {key}", trouble.right) from trouble
                if value is not None:
                    values[key] = value
    try:
        known = json.loads(cells["known"]) if cells.get("known") else {}
        return Entry(
            id=cells["id"],
            kind=kind.id,
            values={k: values[k] for k in fields if k in values},
            known=known,
            note=cells.get("note", ""),
            file=cells.get("file", ""),
        )
    except ValidationError as trouble:
        first = trouble.errors()[0]
        place = " ".join(str(part) for part in first["loc"])
        words = str(first["msg"]).removeprefix("Value error, ")
        right = "an id is small letters, digits, points and dashes" if place == "id" else ""
        raise JobError(words, f"{where} {place}".strip(), right) from trouble
    except ValueError as trouble:
        raise JobError(f"is no JSON: {trouble}", f"{where} known") from trouble


def _kind(name: str, where: str) -> Kind:
    try:
        return kind_named(name)
    except JobError as trouble:
        raise JobError(trouble.what, where, trouble.right) from trouble


# --- out ------------------------------------------------------------------------------------------------
def shelf_bytes(shelf: Shelf, path: Path, kind: str = "") -> bytes:
    """A shelf in the form that a file's ending asks for. A CSV file holds one kind."""
    match path.suffix.lower():
        case ".json":
            entries = shelf.of_kind(kind) if kind else shelf.entries
            return shelf_text(Shelf(entries=entries)).encode("utf-8")
        case ".csv":
            if not kind:
                raise JobError(
                    "a CSV file holds one kind", path.name, f"name one: {', '.join(k.id for k in KINDS)}"
                )
            text = io.StringIO()
            csv.writer(text, lineterminator="\n").writerows(_table(kind_named(kind), shelf.of_kind(kind)))
            return text.getvalue().encode("utf-8")
        case ".xlsx":
            return _workbook(shelf, kind)
    raise JobError(f"no kind of file {path.suffix!r}", path.name, "end it with .csv, .xlsx or .json")


def _table(kind: Kind, entries: Iterable[Entry]) -> list[list[str]]:
    rows = [[*HEAD, *(row.key for row in kind.rows), *TAIL]]
    for entry in entries:
        values = [shown(row, entry.values.get(row.key)) for row in kind.rows]
        known = json.dumps(entry.model_dump(mode="json")["known"]) if entry.known else ""
        cells = [kind.id, entry.id, *values, entry.note, entry.file, known]
        rows.append([inert(visible(cell)) for cell in cells])
    return rows


def _workbook(shelf: Shelf, kind: str) -> bytes:
    from openpyxl import Workbook

    book = Workbook()
    book.properties.creator = "Lodestaff"
    empty = book.active
    for other in KINDS:
        entries = shelf.of_kind(other.id)
        if entries and kind in ("", other.id):
            sheet = book.create_sheet(other.id)
            for row in _table(other, entries):
                sheet.append(row)
            for cells in sheet.iter_rows():
                for cell in cells:
                    cell.data_type = "s" if cell.value else cell.data_type
    if len(book.worksheets) > 1 and empty is not None:
        book.remove(empty)
    buffer = io.BytesIO()
    book.save(buffer)
    return buffer.getvalue()


# --- the open module table
# ---------------------------------------------------------------------------------------
TABLE_COLUMNS = ("STC", "I_sc_ref", "V_oc_ref", "I_mp_ref", "V_mp_ref", "alpha_sc", "beta_oc")


def is_module_table(rows: list[list[str]]) -> bool:
    """Whether rows are a table of module parameters as pvlib reads it: a row of names, of units, of keys."""
    return len(rows) > 3 and set(TABLE_COLUMNS) <= {cell.strip() for cell in rows[0]}


def rows_named(path: Path, wanted: str) -> tuple[tuple[int, str], ...]:
    """Rows of a module table whose name holds the words wanted, or whose numbers they are. Raises
    JobError."""
    table = _csv_rows(_text(read_whole(path), path.name), path.name)
    if not is_module_table(table):
        raise JobError("is no table of modules", path.name, "import it without rows")
    names = [row[0].strip() for row in table[3:]]
    numbers = [part.strip() for part in wanted.split(",")]
    if all(part.isdigit() for part in numbers):
        picked = [int(part) for part in numbers]
        if beyond := [number for number in picked if number >= len(names)]:
            raise JobError(f"has no row {beyond[0]}", path.name, f"rows 0 to {len(names) - 1}")
        return tuple((number, names[number]) for number in picked)
    words = wanted.lower().split()
    return tuple((at, name) for at, name in enumerate(names) if all(word in name.lower() for word in words))


def module_table(rows: list[list[str]], name: str, picked: Sequence[int]) -> tuple[Entry, ...]:
    """Modules of such a table by row, counted from 0 behind the three head rows. Coefficients become %/K."""
    head = {cell.strip(): index for index, cell in enumerate(rows[0])}
    body = rows[3:]
    if not picked:
        raise JobError(f"holds {len(body)} modules", name, "say which: rows count from 0")
    entries = []
    for number in picked:
        if not 0 <= number < len(body):
            raise JobError(f"has no row {number}", name, f"rows 0 to {len(body) - 1}")
        entries.append(_module_entry(head, body[number], number, f"{name} row {number}"))
    return tuple(entries)


def _module_entry(head: dict[str, int], row: list[str], number: int, where: str) -> Entry:
    def value(column: str) -> float | None:
        if column not in head or head[column] >= len(row) or row[head[column]].strip().lower() in NOTHING:
            return None
        try:
            return read_number(row[head[column]], decimal=".")
        except JobError as trouble:
            raise JobError(trouble.what, f"{where} {column}", trouble.right) from trouble

    isc, voc, cells = value("I_sc_ref"), value("V_oc_ref"), value("N_s")
    alpha, beta = value("alpha_sc"), value("beta_oc")
    values: dict[str, Any] = {
        "name": row[0].strip()[:80] or f"row {number}",
        "pmp_w": value("STC"),
        "voc_v": voc,
        "isc_a": isc,
        "vmp_v": value("V_mp_ref"),
        "imp_a": value("I_mp_ref"),
        "alpha_isc_pct_per_k": 100 * alpha / isc if alpha is not None and isc else None,
        "beta_voc_pct_per_k": 100 * beta / voc if beta is not None and voc else None,
        "gamma_pmp_pct_per_k": value("gamma_pmp") if "gamma_pmp" in head else value("gamma_r"),
        "length_m": value("Length"),
        "width_m": value("Width"),
        "cells_in_series": int(cells) if cells else None,
    }
    return Entry(
        id=f"table-{number}",
        kind="module",
        values={key: told for key, told in values.items() if told is not None},
    )
