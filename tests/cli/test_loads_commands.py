"""Ways of backup, interval data and the library of circuits on the command line."""

import json
from datetime import datetime, timedelta

import pytest

from lodestaff.job import load_job
from lodestaff.samples import sample_path, samples_folder
from tests.cli.running import run, run_json


@pytest.fixture
def meter(tmp_path):
    """A June of half hours with the interval's end, semicolons and decimal commas."""
    path = tmp_path / "meter.csv"
    lines = ["End of interval;Import [kWh]"]
    for n in range(30 * 48):
        at = datetime(2025, 6, 1) + timedelta(minutes=30 * (n + 1))
        lines.append(f"{at:%d.%m.%Y %H:%M};0,{200 + n % 48 * 5}")
    path.write_text("\n".join(lines))
    return path


LARKMOOR = sample_path("larkmoor")


def test_schools(capsys):
    prices = samples_folder() / "register" / "prices.json"
    code, found = run_json(capsys, "strategies", LARKMOOR, "--prices", prices)
    assert run_json(capsys, "schools", LARKMOOR, "--prices", prices) == (code, found)
    assert found["strategies"] == found["schools"]
    assert code == 0
    assert [one["name"] for one in found["schools"]] == [
        "whole building",
        "essential board",
        "emergency outlet",
        "board and interlock",
    ]
    assert set(found["schools"][0]) == {
        "name",
        "held",
        "shed",
        "dead",
        "by_hand",
        "moved",
        "trip",
        "full_h",
        "reserve_h",
        "horizon_h",
        "passes_a",
        "rated_pass_a",
        "labour_h",
        "cost",
        "open_prices",
    }
    words = run(capsys, "schools", LARKMOOR)[1]
    assert "whole building: 13 backed up" in words
    assert "open: labour" in words


def test_a_file_is_recognised_and_taken(capsys, meter, tmp_path):
    target = tmp_path / "job.json"
    code, found = run_json(capsys, "intervals", LARKMOOR, meter, "--confirm", "-o", target)
    assert code == 0
    assert found["shape"]["stamp"] == "end"
    assert found["shape"]["decimal"] == ","
    assert found["logged"]["covered"] == 1
    assert set(found["logged"]) == {
        "first",
        "last",
        "interval_min",
        "days",
        "covered",
        "total_kwh",
        "highest_kw",
        "highest_at",
        "gaps",
        "notes",
    }
    assert found["logged"]["highest_kw"] == pytest.approx(2 * 0.435)
    assert load_job(target).site.metered.confirmed
    code, own = run_json(capsys, "intervals", target)
    assert set(own["reconciled"]) == {
        "measured_kwh",
        "circuits_kwh",
        "unexplained_kwh",
        "over_kwh",
        "base_kw",
        "base_circuits_kw",
    }
    assert "in no circuit" in run(capsys, "intervals", target)[1]
    checked = run_json(capsys, "check", target)[1]
    assert any("log" in one["text"] for one in checked["findings"] if one["code"] == "LOAD-DEMAND")


def test_doubts_are_said(capsys, meter):
    words = run(capsys, "intervals", LARKMOOR, meter)[1]
    assert "in doubt: no clock change lies in these days" in words


def test_a_part_of_the_shape_is_typed_over(capsys, meter):
    found = run_json(capsys, "intervals", LARKMOOR, meter, "--set", "stamp=start", "--set", "unit=Wh")[1]
    assert found["logged"]["total_kwh"] < 1
    assert found["logged"]["first"] == "2025-06-01 00:30"


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (("intervals", LARKMOOR, "nowhere.csv"), "nowhere.csv"),
        (("intervals", sample_path("far-byre")), "no interval data"),
        (("intervals", LARKMOOR, LARKMOOR), "no line with a date"),
        (("circuits", "castle"), "no kind of building"),
        (("circuits", "house", "--add", "oven"), "--add needs a job"),
        (("circuits", "--job", LARKMOOR, "--add", "moat", "-o", "x.json"), "no circuit 'moat'"),
        (("circuits", "--job", LARKMOOR, "--add", "xray"), "name it with -o"),
        (("schools", "nowhere.json"), "nowhere.json"),
    ],
)
def test_what_can_not_be_read_is_one_line_and_two(capsys, arguments, words):
    code, _, err = run(capsys, *arguments)
    assert code == 2
    assert words in err
    assert err.count("\n") == 1


@pytest.mark.parametrize("text", ["stamp", "colour=red", "order=any", "interval_min=7"])
def test_a_wrong_part_of_a_shape(capsys, meter, text):
    code, _, err = run(capsys, "intervals", LARKMOOR, meter, "--set", text)
    assert code == 2
    assert "--set" in err


def test_the_library(capsys, tmp_path):
    kinds = run_json(capsys, "circuits")[1]["buildings"]
    assert {"building": "farm", "title": "Farm"} in kinds
    assert "farm: Farm" in run(capsys, "circuits")[1]
    found = run_json(capsys, "circuits", "house", "--pack", "anz")[1]
    assert found["pack"] == "anz"
    assert "Hot water" in [one["name"] for one in found["circuits"]]
    assert "Immersion heater" in run(capsys, "circuits", "house")[1]
    target = tmp_path / "more.json"
    assert run(capsys, "circuits", "--job", LARKMOOR, "--add", "xray", "--add", "xray", "-o", target)[0] == 0
    ids = [c.id for c in load_job(target).circuits]
    assert ids[-2:] == ["xray", "xray-2"]


@pytest.mark.parametrize("command", ["check", "diff"])
@pytest.mark.parametrize("name", ["harrow-mill-flats", "sallow-bank-cottage"])
def test_what_is_unknown_is_null_and_never_nan(capsys, command, name):
    """JSON has no NaN (RFC 8259): strict readers must take every answer, also of jobs with much unknown."""
    path = sample_path(name)
    out = run(capsys, command, *([path, path] if command == "diff" else [path]), "--json")[1]
    assert json.loads(out, parse_constant=lambda word: pytest.fail(word))
