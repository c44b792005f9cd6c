"""Interval data in other forms than CSV: each is written here from one series on UTC, and read back as it.

Sources, from memory: NAESB REQ.21 (ESPI): seconds of UTC, uom 72 is Wh, flowDirection 1 is delivered, values
times a power of ten; the Australian market's meter data file format: 300 records in UTC+10 at any place.
"""

import gzip
import io
from datetime import datetime, timedelta

import numpy as np
import openpyxl
import pytest

from lodestaff.energy.metering import read_intervals, recognise
from lodestaff.energy.metering.text import date_cell
from lodestaff.quantities.errors import JobError
from tests.energy.test_metering import EPOCH, EUROPE, year_of

SOUTH = "Australia/Melbourne"
STARTS, KWH = year_of(30, "2025-02-01", days=40)


def moments(offset_h=0.0):
    return [EPOCH + timedelta(minutes=int(at), hours=offset_h) for at in STARTS]


def series(raw, zone=EUROPE, offset_h=0.0):
    raw = raw.encode() if isinstance(raw, str) else raw
    shape = recognise(raw, "file", zone, offset_h).shape
    return read_intervals(raw, "file", shape, zone, offset_h)


def same(log, starts=STARTS, kwh=KWH):
    assert np.array_equal(log.start_utc_min, starts)
    assert log.kwh == pytest.approx(kwh, abs=1e-6)


def reading(at, kwh, power=0):
    return (
        f"<IntervalReading><timePeriod><duration>1800</duration><start>{int(at) * 60}</start></timePeriod>"
        f"<value>{round(kwh * 1000 / 10**power)}</value></IntervalReading>"
    )


def kind(power=0, flow=1, uom=72):
    return (
        f"<ReadingType><flowDirection>{flow}</flowDirection><powerOfTenMultiplier>{power}"
        f"</powerOfTenMultiplier><uom>{uom}</uom></ReadingType>"
    )


def feed(inside):
    return f'<?xml version="1.0"?><feed xmlns="http://www.w3.org/2005/Atom">{inside}</feed>'


def entry(inside, **links):
    rows = "".join(f'<link rel="{rel}" href="{href}"/>' for rel, href in links.items())
    return f'<entry>{rows}<content xmlns="http://naesb.org/espi">{inside}</content></entry>'


def block(kwh, power=0):
    rows = "".join(reading(a, k, power) for a, k in zip(STARTS, kwh, strict=True))
    return f"<IntervalBlock>{rows}</IntervalBlock>"


def test_open_xml_of_one_meter():
    same(series(feed(entry(kind(power=0)) + entry(block(KWH)))))


def test_open_xml_with_a_power_of_ten_and_days_apart():
    half = len(STARTS) // 2
    days = [f"<IntervalBlock>{''.join(reading(a, k, -3) for a, k in part)}</IntervalBlock>" for part in (
        list(zip(STARTS, KWH, strict=True))[:half], list(zip(STARTS, KWH, strict=True))[half:])]  # fmt: skip
    same(series(feed(entry(kind(power=-3)) + entry("".join(days)))))


def test_open_xml_of_two_flows_goes_by_the_links():
    both = (
        entry("<MeterReading/>", self="/m/1", related="/type/1")
        + entry("<MeterReading/>", self="/m/2", related="/type/2")
        + entry(kind(flow=19), self="/type/1")
        + entry(kind(flow=1), self="/type/2")
        + entry(block(KWH * 9), up="/m/1/IntervalBlock")
        + entry(block(KWH), up="/m/2/IntervalBlock")
    )
    same(series(feed(both)))
    with pytest.raises(JobError, match="no link says which is whose"):
        series(feed(entry(kind(flow=19)) + entry(kind(flow=1)) + entry(block(KWH))))


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("<feed><IntervalBlock>", "damaged XML"),
        ("<feed/>", "no IntervalBlock"),
        ('<!DOCTYPE a [<!ENTITY b "c">]><feed/>', "document type"),
        (feed(entry(kind(uom=38)) + entry(block(KWH))), "no energy delivered"),
        (feed(entry(kind()) + entry(block(KWH).replace("<value>", "<value>x"))), "a whole number"),
        (feed(entry(kind(power=99)) + entry(block(KWH))), "powerOfTenMultiplier"),
    ],
)
def test_xml_that_says_something_else_is_refused(text, words):
    with pytest.raises(JobError, match=words):
        series(text)


def records(suffix="E1", unit="kWh", end="900", values=KWH):
    """A file of the southern market: its days begin at midnight of UTC+10."""
    lines = ["100,NEM12,202504010000,ONE,TWO", f"200,1234567890,E1B1,001,{suffix},N1,M1,{unit},30,"]
    for day in range(40):
        cells = ",".join(f"{one:.3f}" for one in values[day * 48 : day * 48 + 48])
        lines.append(f"300,{datetime(2025, 2, 1) + timedelta(days=day):%Y%m%d},{cells},A,,,20250401,")
    return "\n".join([*lines, end])


def test_record_types_of_the_market_are_in_its_own_time():
    same(series(records(), SOUTH, 10.0), STARTS - 600)


def test_records_of_several_channels_are_summed_and_export_is_left_out():
    first, second, third = (records(s, end="").split("\n", 1)[1] for s in ("E1", "E2", "B1"))
    same(series(f"100,NEM12\n{first}{second}{third}900", SOUTH, 10.0), STARTS - 600, KWH * 2)


def test_null_days_are_gaps():
    text = records().replace(",A,,,20250401,", ",N,,,20250401,", 1)
    log = series(text, SOUTH, 10.0)
    assert len(log.gaps) == 0 or log.gaps[0][0] == STARTS[0] - 600
    assert log.total_kwh == pytest.approx(KWH[48:].sum(), abs=1e-6)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        (records(end=""), "cut off"),
        (records(unit="kVArh"), "200 record"),
        (records(suffix="B1"), "what is drawn"),
        (records().replace("300,20250203", "300,20250202"), "twice"),
        (records().replace("300,20250203,", "300,20250203,x,"), "date and 48 values"),
        (records().replace("200,", "250,"), "before any 200"),
    ],
)
def test_records_that_are_not_whole_are_refused(text, words):
    with pytest.raises(JobError, match=words):
        series(text, SOUTH, 10.0)


def test_gzip():
    text = "start,kWh\n" + "\n".join(f"{m:%Y-%m-%d %H:%M},{k}" for m, k in zip(moments(), KWH, strict=True))
    same(series(gzip.compress(text.encode())))
    with pytest.raises(JobError, match="cut off"):
        series(gzip.compress(text.encode())[:-40])
    with pytest.raises(JobError, match="damaged"):
        series(b"\x1f\x8b" + b"junk" * 20)
    with pytest.raises(JobError, match="unpacks to more"):
        series(gzip.compress(b" " * (65 * 1024**2)))


def test_a_workbook_with_dates_of_its_own():
    book = openpyxl.Workbook()
    sheet = book.active
    sheet.append(["Start", "Import (kWh)"])
    for moment, kwh in zip(moments(), KWH, strict=True):
        sheet.append([moment, float(kwh)])
    buffer = io.BytesIO()
    book.save(buffer)
    same(series(buffer.getvalue()))
    with pytest.raises(JobError, match="no workbook"):
        series(buffer.getvalue()[:2000])


@pytest.mark.parametrize(
    "spoken",
    [
        lambda m: f"{(m - EPOCH).total_seconds():.0f},",
        lambda m: f"{(m - EPOCH).total_seconds() * 1000:.0f};",
        lambda m: f"{(m - datetime(1899, 12, 30)) / timedelta(days=1):.7f},",
        lambda m: f"{(m - datetime(1899, 12, 30)) / timedelta(days=1):.5f};".replace(".", ","),
        lambda m: f"{m:%d-%b-%Y %H:%M},",
        lambda m: f"{m:%B} {m.day} {m.year} {m:%I:%M %p};",
        lambda m: f"{m.day}. {['Januar', 'Februar', 'März'][m.month - 1]} {m.year} {m:%H:%M};",
        lambda m: f"{m:%Y-%b-%d %H:%M},",
    ],
)
def test_moments_in_every_writing(spoken):
    lines = [f"{spoken(m)}{k}" for m, k in zip(moments(), KWH, strict=True)]
    decimal = "," if "," in spoken(EPOCH + timedelta(days=20_123, hours=1)) and lines[0].count(";") else "."
    if decimal == ",":
        lines = [line.rpartition(";")[0] + ";" + line.rpartition(";")[2].replace(".", ",") for line in lines]
    same(series("\n".join(lines)))


@pytest.mark.parametrize(
    ("text", "groups"),
    [
        ("1 janvier 2025", (2025, 1, 1)),
        ("3 août 2025", (2025, 8, 3)),
        ("2 juin 25", (2025, 6, 2)),
        ("4 juillet 2025", (2025, 7, 4)),
        ("Sept 9, 2025", (2025, 9, 9)),
        ("9 maggio 2025", (2025, 5, 9)),
    ],
)
def test_months_by_their_names(text, groups):
    cell = date_cell(text)
    assert cell is not None
    assert cell.groups == groups


@pytest.mark.parametrize("text", ["kWh 12 2025", "total 31 marked 25", "a", "12 units 2025"])
def test_other_words_are_no_month(text):
    assert date_cell(text) is None


def test_more_than_any_supply_takes_is_asked_back():
    lines = [f"{m:%Y-%m-%d %H:%M},{k}" for m, k in zip(moments(), KWH, strict=True)]
    lines[7] = lines[7].rpartition(",")[0] + ",1e300"
    with pytest.raises(JobError, match="check the unit and the decimal sign"):
        series("start,kWh\n" + "\n".join(lines))
