"""Interval files of several national shapes, sound and broken ones, and both clock changes.

Every shape is written here from one series on UTC; what is read back is that series.
"""

from datetime import datetime, timedelta

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from lodestaff.energy.metering import read_intervals, recognise
from lodestaff.energy.metering.clocks import changes_utc, minutes_of, summer_at, utc_candidates
from lodestaff.energy.metering.text import number
from lodestaff.quantities.errors import JobError

EUROPE = "Europe/London"
AMERICA = "America/Denver"
SOUTH = "Australia/Melbourne"
EPOCH = datetime(1970, 1, 1)


def year_of(step, begin="2025-01-01", days=365, offset_h=0.0):
    """Starts in minutes of UTC and kWh with three decimals, from local midnight on."""
    first = minutes_of(datetime.fromisoformat(begin)) - round(offset_h * 60)
    starts = first + np.arange(days * 1440 // step) * step
    return starts, np.round(np.random.default_rng(3).uniform(0.01, 1.4, starts.size), 3)


def local(at, rule, offset_h):
    """By the two moments of change of the year, independently of the reader: a European, American or
    southern clock."""
    moment = EPOCH + timedelta(minutes=int(at)) + timedelta(hours=offset_h)
    return moment + timedelta(hours=1 if ahead(at, rule, offset_h) else 0)


def ahead(at, rule, offset_h):
    """2025's changes, from memory: 30 March and 26 October, 9 March and 2 November, 6 April and 5 October."""
    moment = EPOCH + timedelta(minutes=int(at))
    offset = timedelta(hours=offset_h)
    if rule == EUROPE:
        return datetime(2025, 3, 30, 1) <= moment < datetime(2025, 10, 26, 1)
    if rule == AMERICA:
        return datetime(2025, 3, 9, 2) - offset <= moment < datetime(2025, 11, 2, 1) - offset
    return not datetime(2025, 4, 6, 2) - offset <= moment < datetime(2025, 10, 5, 2) - offset


def half_hours_with_ends(starts, kwh):
    """Comma, ISO dates, the end of each half hour by a local clock, quoted headings."""
    rows = [
        f'"{local(at, EUROPE, 0) + timedelta(minutes=30):%Y-%m-%d %H:%M}",{one}'
        for at, one in zip(starts, kwh, strict=True)
    ]
    return "\n".join(['"End of interval","Consumption (kWh)"', *rows])


def quarter_hours_semicolon(starts, kwh):
    """Semicolon, decimal comma, day first, date and time apart, words above and below."""
    rows = [
        f"{local(at, EUROPE, 1):%d.%m.%Y;%H:%M};{one:.3f};W".replace(".", ",", 3)
        for at, one in zip(starts, kwh, strict=True)
    ]
    rows = [
        f"{local(at, EUROPE, 1):%d.%m.%Y};{local(at, EUROPE, 1):%H:%M};{f'{one:.3f}'.replace('.', ',')};W"
        for at, one in zip(starts, kwh, strict=True)
    ]
    return "\r\n".join(["Zählpunkt;123456", "Datum;von;Verbrauch [kWh];Status", *rows, "Ende der Datei"])


def american_hours(starts, kwh):
    """Comma, month first, twelve-hour clock, two-digit years."""
    rows = [
        f"{local(at, AMERICA, -7):%m/%d/%y},{local(at, AMERICA, -7):%I:%M %p},{one},kWh,0.00"
        for at, one in zip(starts, kwh, strict=True)
    ]
    return "\n".join(["Name,A customer", "Address,Juniper Draw", "DATE,START TIME,USAGE,UNITS,COST", *rows])


def five_minutes_standard(starts, kwh):
    """Tab, slashes, standard time all year, power in W."""
    rows = [
        f"{EPOCH + timedelta(minutes=int(at) + 600):%Y/%m/%d %H:%M}\t{one * 12000:.3f}"
        for at, one in zip(starts, kwh, strict=True)
    ]
    return "\n".join(["Time\tImport W", *rows])


def days_of_48(starts, kwh):
    """A line for each day with 48 columns, standard time; packed dates."""
    lines = ["NMI,Date," + ",".join(f"kWh {n}" for n in range(48))]
    for day in range(len(starts) // 48):
        at = EPOCH + timedelta(minutes=int(starts[day * 48]) + 600)
        lines.append(f"4100,{at:%Y%m%d}," + ",".join(f"{one}" for one in kwh[day * 48 : day * 48 + 48]))
    return "\n".join(lines)


def utc_with_offsets(starts, kwh):
    """ISO stamps with their offset from UTC."""
    rows = [
        f"{local(at, EUROPE, 0):%Y-%m-%dT%H:%M:%S}+0{int(ahead(at, EUROPE, 0))}:00,{one}"
        for at, one in zip(starts, kwh, strict=True)
    ]
    return "\n".join(["timestamp,import_kwh", *rows])


SHAPES = {
    "half hours": (half_hours_with_ends, 30, EUROPE, 0.0, "local time", "end", "kWh"),
    "quarter hours": (quarter_hours_semicolon, 15, EUROPE, 1.0, "local time", "start", "kWh"),
    "american": (american_hours, 60, AMERICA, -7.0, "local time", "start", "kWh"),
    "five minutes": (five_minutes_standard, 5, SOUTH, 10.0, "standard time", "start", "W"),
    "offsets": (utc_with_offsets, 30, EUROPE, 0.0, "UTC", "start", "kWh"),
}


@pytest.mark.parametrize("name", SHAPES)
def test_a_year_is_read_back_whole(name):
    """Both clock changes lie in it: no hour is lost in spring, none doubled in autumn."""
    write, step, rule, offset, clock, stamp, unit = SHAPES[name]
    begin, days = ("2025-01-01", 365) if step > 5 else ("2025-04-01", 10)
    starts, kwh = year_of(step, begin, days, offset)
    raw = write(starts, kwh).encode()
    found = recognise(raw, "meter.csv", rule, offset, rule == AMERICA)
    shape = found.shape
    assert (shape.interval_min, shape.clock, shape.stamp, shape.unit) == (step, clock, stamp, unit)
    logged = read_intervals(raw, "meter.csv", shape, rule, offset)
    assert np.array_equal(logged.start_utc_min, starts)
    assert logged.kwh == pytest.approx(kwh, abs=1e-6)
    assert logged.gaps == ()
    assert logged.covered == pytest.approx(1)
    assert logged.days == pytest.approx(days)


@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "utf-16", "cp1252"])
def test_encodings(encoding):
    starts, kwh = year_of(15, "2025-03-25", 8, 1.0)
    raw = quarter_hours_semicolon(starts, kwh).encode(encoding)
    logged = read_intervals(raw, "m.csv", recognise(raw, "m.csv", EUROPE, 1.0).shape, EUROPE, 1.0)
    assert logged.kwh == pytest.approx(kwh, abs=1e-6)


def test_days_in_columns():
    starts, kwh = year_of(30, "2025-05-01", 40, 10.0)
    raw = days_of_48(starts, kwh).encode()
    found = recognise(raw, "days.csv", SOUTH, 10.0)
    assert found.shape.layout == "days"
    assert found.shape.interval_min == 30
    assert any("clock" in doubt for doubt in found.doubts)
    logged = read_intervals(raw, "days.csv", found.shape, SOUTH, 10.0)
    assert np.array_equal(logged.start_utc_min, starts)
    assert logged.kwh == pytest.approx(kwh)


def test_dates_that_fit_both_orders_are_told_by_their_sequence():
    """2 to 9 March, then day 12: by month first they jump; a pack's usual order decides only what nothing
    else does."""
    starts, kwh = year_of(60, "2025-03-02", 8)
    text = "\n".join(
        f"{EPOCH + timedelta(minutes=int(at)):%d/%m/%Y %H:%M},{one}"
        for at, one in zip(starts, kwh, strict=True)
    )
    found = recognise(text.encode(), "m.csv", EUROPE, 0.0, month_first=True)
    assert found.shape.order == "day month year"
    one_day = "\n".join(
        f"{EPOCH + timedelta(minutes=int(at)):%d/%m/%Y %H:%M},{one}"
        for at, one in zip(starts[:24], kwh, strict=False)
    )
    for month_first, order in ((True, "month day year"), (False, "day month year")):
        found = recognise(one_day.encode(), "m.csv", EUROPE, 0.0, month_first)
        assert found.shape.order == order
        assert any("order of day and month is open" in doubt for doubt in found.doubts)


def shape_of(text, rule=EUROPE, offset=0.0):
    return recognise(text.encode(), "m.csv", rule, offset).shape


def rows(count=96, begin="2025-06-02", step=30, value=0.25):
    start = datetime.fromisoformat(begin)
    return [
        f"{start + timedelta(minutes=step * n):%Y-%m-%d %H:%M},{value + n % 7 / 10:.2f}" for n in range(count)
    ]


def test_missing_and_blank_lines_are_gaps():
    lines = ["when,kWh", *rows()]
    lines[10] = lines[10].split(",")[0] + ","
    del lines[40:44]
    text = "\n".join(lines)
    logged = read_intervals(text.encode(), "m.csv", shape_of(text), EUROPE, 0.0)
    assert len(logged.gaps) == 2
    assert np.isnan(logged.kwh).sum() == 5
    assert logged.covered == pytest.approx(91 / 96)


def test_lines_given_twice_are_noted_and_unlike_ones_refused():
    lines = ["when,kWh", *rows()]
    same = "\n".join([*lines[:20], lines[19], *lines[20:]])
    logged = read_intervals(same.encode(), "m.csv", shape_of(same), EUROPE, 0.0)
    assert "1 lines stand twice" in logged.notes[0]
    other = "\n".join([*lines[:20], lines[19].split(",")[0] + ",9.9", *lines[20:]])
    with pytest.raises(JobError, match=r"lines 20 and 21: gives .* twice, with unlike values"):
        read_intervals(other.encode(), "m.csv", shape_of(other), EUROPE, 0.0)


def test_a_value_in_the_hour_that_spring_leaves_out_is_refused():
    """30 March 2025, 01:30 does not exist by a European clock of UTC+0 (fact of the calendar)."""
    text = "\n".join(["when,kWh", *rows(96, "2025-03-29")])
    shape = shape_of(text)
    assert shape.clock == "standard time"
    local_time = shape.model_copy(update={"clock": "local time"})
    with pytest.raises(JobError, match=r"2025-03-30 01:00 does not exist.*standard time"):
        read_intervals(text.encode(), "m.csv", local_time, EUROPE, 0.0)
    blank = text.replace(next(r for r in text.splitlines() if "03-30 01:00" in r), "2025-03-30 01:00,")
    blank = blank.replace(next(r for r in text.splitlines() if "03-30 01:30" in r), "2025-03-30 01:30,0")
    assert "2 blank lines" in read_intervals(blank.encode(), "m.csv", local_time, EUROPE, 0.0).notes[0]


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (lambda lines: [*lines[:5], "2025-06-02 02:00,lots", *lines[6:]], "line 6: 'lots' is not a number"),
        (lambda lines: [*lines[:5], "2025-06-02 02:00,-3", *lines[6:]], "below 0"),
        (lambda lines: [*lines[:5], "2025-06-31 02:00,3", *lines[6:]], "no date"),
        (lambda lines: [*lines[:5], "2025-06-02 29:00,3", *lines[6:]], "no time of day"),
        (lambda lines: [*lines[:5], "words,3", *lines[6:]], "no date in column 1"),
        (lambda lines: [*lines[:5], "2025-06-02 02:07,3", *lines[6:]], "between intervals"),
        (lambda lines: [*lines[:5], "1995-06-02 02:00,3", *lines[6:]], "ten years"),
        (lambda lines: [lines[0], *(line.split(",")[0] + "," for line in lines[1:])], "no value"),
        (
            lambda lines: [lines[0], *(f"{r.split(',')[0]},{100 + n}" for n, r in enumerate(lines[1:]))],
            "register",
        ),
    ],
)
def test_broken_files_say_line_and_cure(change, words):
    lines = ["when,kWh", *rows()]
    text = "\n".join(change(lines))
    with pytest.raises(JobError, match=words) as caught:
        read_intervals(text.encode(), "m.csv", shape_of("\n".join(lines)), EUROPE, 0.0)
    assert caught.value.right


@pytest.mark.parametrize(
    ("raw", "words"),
    [
        (b"", "is empty"),
        (b"\n\n;;\n", "is empty"),
        (b"PK\x03\x04\x00\x00", "no workbook"),
        (b"a\x00b", "no text"),
        (b"hello\nworld\n", "no line with a date"),
        (b"2025-06-02 00:00,abc\n2025-06-02 00:30,def\n", "no column of numbers"),
        (b"2025-06-02 00:00,1\n", "no two lines"),
        (b"2025-06-02 00:00,1\n2025-06-02 06:00,2\n2025-06-02 12:00,3\n", "intervals of 360 minutes"),
    ],
)
def test_what_is_no_interval_file_is_refused(raw, words):
    with pytest.raises(JobError, match=words):
        recognise(raw, "m.csv", EUROPE, 0.0)


@settings(max_examples=60, deadline=None)
@given(st.binary(max_size=400))
def test_any_bytes_are_read_or_refused(raw):
    try:
        shape = recognise(raw, "m.csv", EUROPE, 0.0).shape
        read_intervals(raw, "m.csv", shape, EUROPE, 0.0)
    except JobError:
        return


@settings(max_examples=200, deadline=None)
@given(
    st.sampled_from([(EUROPE, 0.0), (EUROPE, 1.0), (AMERICA, -7.0), (SOUTH, 10.0)]), st.integers(0, 525_599)
)
def test_a_clock_shows_every_moment_once(case, minute):
    """Whatever household time a moment of UTC has, that moment is among those the time may stand for."""
    rule, offset = case
    at = minutes_of(datetime(2025, 1, 1)) + minute
    shown = at + round(offset * 60) + (60 if summer_at(at, rule, offset) else 0)
    found = utc_candidates(shown, rule, offset)
    assert at in found
    assert len(found) <= 2
    assert summer_at(at, rule, offset) == ahead(at, rule, offset)


def test_changes_of_the_clock_in_other_years():
    """31 March 2024 and 27 October 2024, 01:00 UTC (fact of the calendar)."""
    assert changes_utc(EUROPE, 0.0, 2024) == (
        minutes_of(datetime(2024, 3, 31, 1)),
        minutes_of(datetime(2024, 10, 27, 1)),
    )
    assert changes_utc("", 0.0, 2024) is None


@pytest.mark.parametrize(
    ("text", "decimal", "value"),
    [("1.5", ".", 1.5), ("1,5", ",", 1.5), ("1.234,5", ",", 1234.5), ("1,234.5", ".", 1234.5), ("", ".",
                                                                                                None),
     ("n/a", ".", None), ("-", ",", None), (" 3 ", ".", 3.0)],
)  # fmt: skip
def test_numbers_in_either_decimal(text, decimal, value):
    assert number(text, decimal) == value


@pytest.mark.parametrize(("text", "decimal"), [("1,5", "."), ("1.5", ","), ("1.2.3", "."), ("12x", ".")])
def test_a_number_of_the_other_decimal_is_refused(text, decimal):
    with pytest.raises(ValueError, match="not a number"):
        number(text, decimal)


def test_what_was_logged():
    """By hand: two days of hours, the highest at 18:00 on the second; the mean day keeps weekdays and
    weekends apart."""
    lines = ["when,kWh"]
    for n in range(48):
        at = datetime(2025, 6, 6) + timedelta(hours=n)  # a Friday and a Saturday
        lines.append(f"{at:%Y-%m-%d %H:%M},{5.5 if n == 42 else 1.0 if n < 24 else 2.0}")
    text = "\n".join(lines)
    logged = read_intervals(text.encode(), "m.csv", shape_of(text), "", 0.0)
    assert logged.highest() == (5.5, "2025-06-07 18:00")
    mean, count = logged.by_month_and_hour()
    assert mean[5, 0, 3] == 1.0
    assert mean[5, 1, 3] == 2.0
    assert mean[5, 1, 18] == 5.5
    assert np.isnan(mean[0]).all()
    assert count.sum() == 48
    assert logged.total_kwh == pytest.approx(24 + 46 + 5.5 - 0)
    assert logged.base_kw() == 1.0
