"""Every reader of the program with sound input for it. A reader raises JobError or takes what it is given."""

import contextlib
import gzip
import io
import json
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from functools import cache
from pathlib import Path

from lodestaff.samples import sample_names, sample_path


@dataclass(frozen=True)
class Reader:
    """A reader: what it takes, how it takes it (bytes and a folder of its own), and its share."""

    name: str
    sound: Callable[[], tuple[bytes, ...]]
    read: Callable[[bytes, Path], object]
    share: int = 10


def _written(raw: bytes, folder: Path, name: str) -> Path:
    path = folder / name
    path.write_bytes(raw)
    return path


@cache
def _jobs() -> tuple[bytes, ...]:
    return tuple(sample_path(name).read_bytes() for name in sample_names())


def _job(raw: bytes, _: Path) -> object:
    from lodestaff.job.file import parse_job

    return parse_job(raw, "job.json")


def _reckoned(raw: bytes, _: Path) -> object:
    """A job that is valid gives findings, figures, steps and pages, whatever it holds."""
    from lodestaff.commissioning.record import proof_of
    from lodestaff.commissioning.settings_sheet import settings_sheet
    from lodestaff.handover import HandoverInput, pages
    from lodestaff.job.file import parse_job
    from lodestaff.reckoning import Reckoner
    from lodestaff.reckoning.findings import findings
    from lodestaff.register import Register

    job, reckoner = parse_job(raw, "job.json"), Reckoner()
    findings(reckoner, job, deep=False)
    match len(raw) % 4:
        case 0:
            return reckoner.figures(job)
        case 1:
            return proof_of(job, reckoner.wiring(job).topology, [])
        case 2:
            return settings_sheet(job, reckoner.wiring(job).topology)
        case _:
            return pages(reckoner, HandoverInput(job, [], Register(), date(2026, 5, 2)))


@cache
def _journals() -> tuple[bytes, ...]:
    from lodestaff.job.journal import Entry, line_of

    entries = [Entry("reading", f"Voc {n} V", "2026-05-02", "J. Marr", data={"step": "a"}, id=f"e{n}")
               for n in range(5)]  # fmt: skip
    old = b'{"kind": "note", "text": "gate stiff", "at": "2026-05-02", "by": "", "corrects": null}\n'
    return (b"".join(map(line_of, entries)), old * 3)


def _journal(raw: bytes, folder: Path) -> object:
    from lodestaff.job.journal import append, journal_path, read, standing

    path = folder / "job.json"
    _written(raw, folder, journal_path(path).name)
    append(path, "note", "after")
    assert read(path)[-1].text == "after"
    return list(standing(read(path), "reading"))


@cache
def _packs() -> tuple[bytes, ...]:
    import tempfile

    from lodestaff.job.journal import append
    from lodestaff.job.packing import pack

    with tempfile.TemporaryDirectory() as place:
        path, sent = Path(place) / "job.json", Path(place) / "sent.zip"
        path.write_bytes(sample_path("far-byre").read_bytes())
        append(path, "note", "gate stiff")
        pack(path, sent)
        return (sent.read_bytes(),)


def _unpacked(raw: bytes, folder: Path) -> object:
    from lodestaff.job.packing import unpack

    return unpack(_written(raw, folder, "sent.zip"), folder / "out" / "job.json")


@cache
def _tables() -> tuple[bytes, ...]:
    from lodestaff.exchange.shelf_tables import shelf_bytes
    from lodestaff.shelf.model import starter

    return tuple(shelf_bytes(starter(), Path("x.csv"), kind) for kind in ("module", "battery", "hybrid"))


def _table(raw: bytes, folder: Path) -> object:
    from lodestaff.exchange.shelf_tables import read_shelf_file

    return read_shelf_file(_written(raw, folder, "shelf.csv"))


@cache
def _workbooks() -> tuple[bytes, ...]:
    from lodestaff.exchange.shelf_tables import shelf_bytes
    from lodestaff.shelf.model import starter

    return (shelf_bytes(starter(), Path("x.xlsx")),)


def _workbook(raw: bytes, folder: Path) -> object:
    from lodestaff.exchange.shelf_tables import read_shelf_file

    return read_shelf_file(_written(raw, folder, "shelf.xlsx"))


def _documents() -> tuple[bytes, ...]:
    from lodestaff.register import Register
    from lodestaff.shelf.model import shelf_text, starter
    from lodestaff.shelf.prices import PriceBook

    return (
        shelf_text(starter()).encode(),
        Register().model_dump_json().encode(),
        PriceBook().model_dump_json().encode(),
    )


def _document(raw: bytes, folder: Path) -> object:
    from lodestaff.quantities.errors import JobError
    from lodestaff.register import load_register
    from lodestaff.shelf import load_shelf
    from lodestaff.shelf.prices import load_prices

    path = _written(raw, folder, "own.json")
    for load in (load_register, load_shelf, load_prices):
        with contextlib.suppress(JobError):
            load(path)
    return None


def _overlays() -> tuple[bytes, ...]:
    value = {"value": 2.5, "source": "the firm", "date": "2026-01-01"}
    return (json.dumps({"name": "own", "over": "uk", "values": {"dc_drop_pct": value}}).encode(),)


def _overlay(raw: bytes, _: Path) -> object:
    from lodestaff.catalogue import load_pack
    from lodestaff.catalogue.overlay import laid_over, parse_overlay

    return laid_over(load_pack("uk"), parse_overlay(raw, "own.json"), "own.json")


@cache
def _intervals() -> tuple[bytes, ...]:
    moments = [datetime(2025, 2, 1) + timedelta(minutes=30 * n) for n in range(48 * 4)]
    iso = "start,kWh\n" + "\n".join(f"{m:%Y-%m-%d %H:%M},{0.1 + m.hour / 20:.3f}" for m in moments)
    west = "Datum;von;Wert\n" + "\n".join(f"{m:%d.%m.%Y};{m:%H:%M};0,{m.hour:02d}5" for m in moments)
    days = "\n".join(",".join([f"{m:%Y-%m-%d}", *(f"{h / 9:.2f}" for h in range(48))]) for m in moments[::48])
    rows = ",".join(f"{h / 9:.2f}" for h in range(48))
    market = "100,NEM12\n200,1,E1,1,E1,N1,M1,kWh,30,\n" + "".join(
        f"300,{m:%Y%m%d},{rows},A,,,,\n" for m in moments[::48]
    )
    readings = "".join(
        f"<IntervalReading><timePeriod><start>{1738368000 + 1800 * n}</start></timePeriod>"
        f"<value>{n}</value></IntervalReading>" for n in range(96)
    )  # fmt: skip
    espi = f"<feed><ReadingType><uom>72</uom></ReadingType><IntervalBlock>{readings}</IntervalBlock></feed>"
    return (
        iso.encode(), west.encode(), days.encode(), (market + "900").encode(), espi.encode(),
        gzip.compress(iso.encode()), _sheet(moments),
    )  # fmt: skip


def _sheet(moments: list[datetime]) -> bytes:
    import openpyxl

    book, buffer = openpyxl.Workbook(), io.BytesIO()
    for moment in moments:
        book.active.append([moment, 0.5])
    book.save(buffer)
    return buffer.getvalue()


def _metered(raw: bytes, _: Path) -> object:
    from lodestaff.energy.metering import read_intervals, recognise

    shape = recognise(raw, "m.csv", "Europe/London", 0.0).shape
    return read_intervals(raw, "m.csv", shape, "Europe/London", 0.0)


@cache
def _years() -> tuple[bytes, ...]:
    import pvlib

    return ((Path(pvlib.__file__).parent / "data" / "723170TYA.CSV").read_bytes(),)


def _year(raw: bytes, _: Path) -> object:
    from lodestaff.energy.weather import read_file

    return read_file(raw, "tmy3", "year.csv")


def _numbers() -> tuple[bytes, ...]:
    return (b"1.2 kW", b"7 375", b"8 AWG", b"2026-05-02", b"02/05/2026", b"18:45", b"-12.5 %", b"1,150")


def _number(raw: bytes, _: Path) -> object:
    from lodestaff.quantities.dates import read_date
    from lodestaff.quantities.errors import JobError
    from lodestaff.quantities.reader import NotANumberError, read_number

    text = raw.decode("utf-8", errors="replace")
    for unit in ("kW", "mm²", "%", ""):
        with contextlib.suppress(JobError, NotANumberError):
            read_number(text, unit)
    with contextlib.suppress(JobError, ValueError):
        read_date(text)
    return None


LINES = (
    "check JOB --json", "outage JOB --month 2 --hour 18:45 --soc 40", "wire JOB --state grid", "samples",
    "adjust JOB --add insert id=q name=Q what=isolator into=hybrid:grid", "circuits house --pack uk",
    "new --kind A --set title=x -o made.json", "shelf list module",
    "checks ARR-VOC", "procedure JOB --irradiance 800",
    "intervals JOB --set unit=kWh", "settings JOB", "diff JOB JOB", "help wire", "schema",
)  # fmt: skip


def _lines() -> tuple[bytes, ...]:
    return tuple(line.encode() for line in LINES)


def _line(raw: bytes, folder: Path) -> object:
    """A line of arguments ends with a code that is documented, and one line where something is wrong."""
    from lodestaff.main import main

    words = raw.decode("utf-8", errors="surrogateescape").replace("\x00", "").split()
    if not words or words[0] in ("demo", "shots", "plant", "rehearse") or "/" in words[0] or "." in words[0]:
        return None
    job = folder / "JOB"
    if not job.exists():
        job.write_bytes(sample_path("far-byre").read_bytes())
    out, err = io.StringIO(), io.StringIO()
    with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
        code = main(words)
    assert code in (0, 1, 2), f"exit {code}: {err.getvalue()[:300]}"
    assert code != 2 or err.getvalue().count("\n") == 1, err.getvalue()[:300]
    return code


READERS = (
    Reader("job", _jobs, _job, 30),
    Reader("job reckoned", _jobs, _reckoned, 6),
    Reader("journal", _journals, _journal, 10),
    Reader("packed job", _packs, _unpacked, 10),
    Reader("shelf table", _tables, _table, 10),
    Reader("shelf workbook", _workbooks, _workbook, 5),
    Reader("own documents", _documents, _document, 10),
    Reader("own pack", _overlays, _overlay, 5),
    Reader("interval data", _intervals, _metered, 25),
    Reader("weather", _years, _year, 2),
    Reader("numbers", _numbers, _number, 10),
    Reader("arguments", _lines, _line, 6),
)


def in_turn() -> Iterator[Reader]:
    """Readers for ever, each by its share."""
    while True:
        for step in range(max(one.share for one in READERS)):
            yield from (one for one in READERS if step < one.share)
