"""Visits on the command line: laid, written, printed, booked and learnt."""

import json

import pytest

from lodestaff.job import load_job
from lodestaff.samples import sample_path
from lodestaff.visits import load_own
from tests.cli.running import run, run_json


@pytest.fixture
def laid(tmp_path, capsys):
    path = tmp_path / "quern.json"
    code, answer = run_json(
        capsys, "visits", sample_path("quern-hall-joinery"), "--lay", "--from", "2027-03-01", "-o", path
    )
    assert code == 0, answer["left_over"]
    return path, answer


def test_days_are_laid_and_written(laid, capsys):
    path, answer = laid
    assert load_job(path).visits.days[0].date == "2027-03-01"
    assert answer["unlaid"] == [] == answer["conflicts"]
    code, again = run_json(capsys, "visits", path)
    assert (code, again["days"]) == (0, answer["days"])
    assert {"date", "hands", "dark_h", "tasks", "evening", "missing"} <= set(again["days"][0])
    code, out, _ = run(capsys, "visits", path)
    assert "evening: The building is fed as before" in out
    assert "without power" in out


def test_what_waits_without_a_date_is_said_and_blocks(capsys):
    code, answer = run_json(capsys, "visits", sample_path("far-byre"), "--lay", "--from", "2027-03-01")
    assert code == 1
    assert "give the date" in answer["left_over"]["start-hybrid"]
    assert "that waits" in answer["left_over"]["move-essential"]


def test_what_was_worked_is_booked_and_corrects_the_hours(laid, capsys):
    path, answer = laid
    rails = next(task for task in answer["tasks"] if task["id"].startswith("brackets"))
    book = ("visits", path, "--book", rails["id"], "--by", "J. Sorrel")
    run(capsys, *book, "--hours", "2")
    code, after = run_json(capsys, *book, "--hours", rails["hours"] * 1.5 - 2, "--done")
    assert code == 0
    assert next(task for task in after["tasks"] if task["id"] == rails["id"])["done"]
    run(capsys, "visits", path, "--learn")
    assert load_own().factor("brackets") == pytest.approx(1.5)
    _, learnt = run_json(capsys, "visits", path, "--learn")  # taken in once
    assert load_own().factor("brackets") == pytest.approx(1.5)
    now = next(task for task in learnt["tasks"] if task["id"] == rails["id"])
    assert now["hours"] == pytest.approx(rails["hours"] * 1.5)
    code, moved = run_json(capsys, "visits", path, "--lay", "--from", "2027-03-02")
    on = {piece["task"] for day in moved["days"] if day["date"] >= "2027-03-02" for piece in day["tasks"]}
    assert rails["id"] not in on


@pytest.mark.parametrize("name", ["days.pdf", "days.xlsx", "days.ics"])
def test_days_are_printed(laid, capsys, tmp_path, name):
    path, _ = laid
    target = tmp_path / name
    code, answer = run_json(capsys, "visits", path, "--print", target)
    assert (code, answer["printed"]) == (0, str(target))
    assert target.read_bytes()[:4] in (b"%PDF", b"PK\x03\x04", b"BEGI")
    code, _, err = run(capsys, "visits", path, "--print", target)  # its own is written over
    assert (code, err) == (0, "")


@pytest.mark.parametrize(
    ("words", "told"),
    [
        (("--book", "tidy-up", "--hours", "1"), "no task 'tidy-up'"),
        (("--book", "labels"), "how long did it take"),
        (("--hours", "2"), "hours of what"),
        (("--lay", "--from", "tomorrow"), "write one like 2026-12-07"),
        (("--print", "days.doc"), "end it with .pdf, .xlsx or .ics"),
        (("-o", "x.json"), "give --lay as well"),
    ],
)
def test_what_can_not_be_done_is_one_line(capsys, laid, words, told, monkeypatch, tmp_path):
    monkeypatch.chdir(tmp_path)
    code, _, err = run(capsys, "visits", laid[0], *words)
    assert code == 2
    assert told in err
    assert err.count("\n") == 1


def test_a_job_says_what_is_wrong_with_its_days(capsys, tmp_path):
    data = json.loads(sample_path("larkmoor").read_text())
    data["visits"]["laid"][0]["hands"] = ["nobody"]
    path = tmp_path / "job.json"
    path.write_text(json.dumps(data))
    code, _, err = run(capsys, "visits", path)
    assert code == 2
    assert "'nobody' is not there; choose from 'rowe', 'gell', 'marsh'" in err
