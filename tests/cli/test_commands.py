"""The command line as scripts use it: keys, exit codes, one line for what can't be read."""

import csv
import json
import subprocess
import sys
from pathlib import Path

import pytest

from lodestaff.checks import CHECKS
from lodestaff.job import Change, edit, load_job, save_job
from lodestaff.main import main
from lodestaff.samples import sample_path
from tests.cli.running import run, run_json


@pytest.fixture
def blocked(larkmoor, tmp_path):
    path = tmp_path / "blocked.json"
    save_job(edit(larkmoor, Change("circuits/car-charger/role", "held")), path)
    return str(path)


def test_check_says_fine(capsys, job):
    code, out, err = run(capsys, "check", job)
    assert (code, err) == (0, "")
    assert "LOAD-SURGE" in out
    assert "remedy: Soft starter on Dental compressor" in out
    assert out.strip().endswith("findings, 0 that block")


def test_check_says_blocked(capsys, blocked):
    code, answer = run_json(capsys, "check", blocked)
    assert code == 1
    assert answer["blocks"] >= 1
    assert set(answer) == {"job", "title", "blocks", "findings"}


FINDING_KEYS = {
    "code", "rule", "owner", "verdict", "open", "open_because", "status", "text", "advice", "state",
    "subjects", "value", "unit", "limit",
    "margin", "limit_source", "quantity", "working", "remedies",
}  # fmt: skip


def test_check_keys_are_stable(capsys, job):
    _, answer = run_json(capsys, "check", job)
    for one in answer["findings"]:
        assert set(one) == FINDING_KEYS
        assert set(one["working"]) == {"name", "formula", "inputs", "source", "note"}


def test_a_remedy_of_the_json_can_be_applied(capsys, blocked, larkmoor):
    _, answer = run_json(capsys, "check", blocked)
    one = next(one for one in answer["findings"] if one["code"] == "LOAD-CONT")
    cured = edit(load_job(Path(blocked)), *(Change(**change) for change in one["remedies"][0]["changes"]))
    assert cured != load_job(Path(blocked))


def test_checks_lists_all_registered(capsys):
    code, answer = run_json(capsys, "checks")
    assert code == 0
    assert [one["code"] for one in answer] == [check.code for check in CHECKS]
    assert set(answer[0]) == {"code", "rule", "station", "question", "limit_from", "rests_on", "packs"}
    assert "LIM-RESERVE" in run(capsys, "checks")[1]


def test_simulate(capsys, job):
    code, answer = run_json(capsys, "simulate", job)
    assert code == 0
    assert answer["steps"] == 35_040
    assert max(answer["largest_imbalance_kwh"].values()) < 1e-9
    figures = answer["figures"]
    assert {
        "pv_kwh",
        "load_kwh",
        "import_kwh",
        "export_kwh",
        "self_consumption",
        "bill",
        "bill_without",
        "currency",
    } <= set(figures)
    assert figures["saving"] == pytest.approx(figures["bill_without"] - figures["bill"])
    assert "own sun used on site" in run(capsys, "simulate", job)[1]


def test_simulate_writes_the_series(capsys, job, tmp_path):
    target = tmp_path / "series.csv"
    assert run(capsys, "simulate", job, "--csv", str(target))[0] == 0
    with target.open(newline="") as stream:
        rows = list(csv.DictReader(stream))
    assert len(rows) == 35_040
    assert rows[0]["start"] == "2025-01-01T00:00+00:00"
    noon = rows[160 * 96 + 48]
    total = sum(float(noon[name]) for name in ("pv_ac_kw_hybrid", "battery_ac_kw_hybrid", "grid_kw_L1"))
    assert total == pytest.approx(float(noon["load_kw_L1"]) + float(noon["own_use_kw_L1"]), abs=1e-3)


def test_outage(capsys, job):
    code, answer = run_json(
        capsys, "outage", job, "--month", "6", "--hour", "18:45", "--sky", "clear", "--soc", "80%"
    )
    assert code == 0
    (one,) = answer["outages"]
    assert set(one) == {
        "unit", "units", "hours", "reason", "energy_start_kwh", "month", "hour", "sky", "black_start",
        "dark_h",
    }  # fmt: skip
    assert answer["by_hand"] == []
    assert one["energy_start_kwh"] == pytest.approx(0.8 * 19.2)
    assert (one["hour"], one["sky"]) == (18.75, "clear")
    assert "ended by energy" in run(capsys, "outage", job)[1]


@pytest.mark.parametrize(
    ("starts", "words"),
    [("hybrid", "the generator that starts by itself"), ("", "the generator waits for a hand")],
)
def test_an_outage_off_the_grid_says_who_starts_the_generator(capsys, tmp_path, starts, words):
    island = load_job(sample_path("skerry-light-cottage"))
    path = tmp_path / "island.json"
    save_job(edit(island, Change("parts/generator/started_by", starts)), path)
    said = run(capsys, "outage", str(path))[1]
    assert words in said


def test_wire(capsys, job):
    code, answer = run_json(capsys, "wire", job)
    assert code == 0
    names = [state["state"] for state in answer["states"]]
    assert names == [
        "grid",
        "island",
        "bypass",
        "Hybrid off",
        "array not landed",
        "bypass overnight",
        "all off",
    ]
    assert set(answer["states"][0]) == {
        "state",
        "grid_present",
        "positions",
        "units",
        "live",
        "fed",
        "neutral_networks",
        "sources",
        "hazards",
        "through_a",
        "transformers",
    }
    code, answer = run_json(capsys, "wire", job, "--state", "grid", "--set", "hybrid-feed=open")
    assert answer["states"][0]["units"] == {"hybrid": "island"}
    assert "no bond" not in run(capsys, "wire", job)[1]


def test_report(capsys, job, tmp_path):
    target = tmp_path / "page.pdf"
    assert run(capsys, "report", job, "-o", str(target))[0] == 0
    assert target.read_bytes().startswith(b"%PDF")
    _, answer = run_json(capsys, "report", job)
    assert answer["file"].endswith("job.pdf")


def test_schema_is_json_schema(capsys):
    import jsonschema

    code, out, _ = run(capsys, "schema")
    assert code == 0
    jsonschema.Draft202012Validator.check_schema(json.loads(out))


def test_pack_and_unpack(capsys, job, tmp_path):
    packed, copy = str(tmp_path / "job.zip"), str(tmp_path / "copy.json")
    assert run_json(capsys, "pack", job, packed, "--incomplete")[1] == {"file": packed, "holds": ["job.json"]}
    assert run_json(capsys, "unpack", packed, copy, "--incomplete")[1] == {"job": copy, "holds": ["job.json"]}


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (["check", "nowhere.json"], "no such file"),
        (["check"], "required: job"),
        (["check", ".", "--json"], "a folder"),
        (["outage", "JOB", "--month", "13"], "not a month from 1 to 12"),
        (["outage", "JOB", "--hour", "25:00"], "not an hour"),
        (["outage", "JOB", "--hour", "noon"], "not an hour"),
        (["outage", "JOB", "--soc", "120"], "state of charge"),
        (["outage", "JOB", "--sky", "green"], "invalid choice"),
        (["wire", "JOB", "--set", "kettle=open"], "choose from"),
        (["wire", "JOB", "--set", "hybrid-bypass=sideways"], "unit|off|grid"),
        (["wire", "JOB", "--state", "sideways"], "this installation has grid, island"),
        (["report", "JOB", "-o", "/nowhere/page.pdf"], "that folder does not exist"),
        (["simulate", "JOB", "--csv", "/nowhere/series.csv"], "that folder does not exist"),
        (["unpack", "JOB", "copy.json"], "not a packed job"),
        (["shots"], "arguments are required: folder"),
        (["--nonsense"], "required: COMMAND"),
    ],
)
def test_what_cannot_be_read_is_one_line_and_exit_2(capsys, job, arguments, words):
    code, _, err = run(capsys, *(job if word == "JOB" else word for word in arguments))
    assert code == 2
    assert err.count("\n") == 1
    assert words in err
    assert "Traceback" not in err


def test_a_damaged_job_is_one_line(capsys, tmp_path):
    path = tmp_path / "bad.json"
    path.write_text('{"schema_version": 3, "id": "x"')
    code, _, err = run(capsys, "check", str(path))
    assert code == 2
    assert err.count("\n") == 1
    assert "line 1" in err


def test_diff_of_two_versions(capsys, job, blocked):
    code, answer = run_json(capsys, "diff", job, blocked)
    assert code == 0
    assert set(answer) == {"a", "b", "rows", "anew"}
    keys = {"group", "name", "a", "b", "difference", "unit", "same", "better", "share"}
    assert set(answer["rows"][0]) == keys
    decisions = [row for row in answer["rows"] if row["group"] == "decision"]
    assert [(row["name"], row["a"], row["b"]) for row in decisions] == [
        ("circuits/car-charger/role", "locked out", "held")
    ]
    assert any(row["name"] == "LOAD-CONT" and row["group"] == "finding" for row in answer["rows"])
    same = run_json(capsys, "diff", job, job)[1]["rows"]
    assert all(row["same"] and row["difference"] == 0 for row in same)
    assert "circuits/car-charger/role" in run(capsys, "diff", job, blocked)[1]
    assert main(["diff", job, "nowhere.json"]) == 2


def test_sizes(capsys, job):
    code, answer = run_json(capsys, "sizes", job)
    assert code == 0
    (found,) = answer["maps"]
    assert set(found) == {"unit", "now", "permitted_kva", "held_kva", "cells", "outcomes"}
    assert len(found["cells"]) == 5 * 6
    assert found["now"] == {"hybrid": "hybrid-6", "modules": 4}
    assert "(" in run(capsys, "sizes", job, "--outcome", "endurance")[1]


def test_settings(capsys, job):
    code, answer = run_json(capsys, "settings", job)
    assert code == 0
    assert set(answer["settings"][0]) == {
        "unit",
        "key",
        "name",
        "value",
        "shown",
        "because",
        "way",
        "numbers",
    }
    assert "Charge window night" in run(capsys, "settings", job)[1]


def test_procedure(capsys, job):
    code, answer = run_json(capsys, "procedure", job, "--irradiance", "742", "--module-temperature", "47")
    assert code == 0
    assert {
        "id",
        "stage",
        "text",
        "with",
        "waits_for",
        "caution",
        "expected",
        "needs",
        "status",
        "words",
        "reading",
        "asks",
        "over_link",
        "deviation_pct",
    } == set(answer["steps"][0])
    voc = next(step for step in answer["steps"] if step["id"] == "voc-string-1")
    assert voc["expected"]["value"] == pytest.approx(373.3, abs=0.1)
    out = run(capsys, "procedure", job)[1]
    assert "expected once measured: irradiance" in out
    assert "! Prove dead" in out
    answer = run_json(capsys, "procedure", job, "--without", "string-2")[1]
    away = next(step for step in answer["steps"] if step["id"] == "voc-string-2")
    assert "not in yet" in away["needs"]
    for bad in (
        ["--irradiance", "742"],
        ["--irradiance", "5"],
        ["--module-temperature", "500"],
        ["--without", "x"],
    ):
        code, _, err = run(capsys, "procedure", job, *bad)
        assert code == 2
        assert err.count("\n") == 1


def test_procedure_shows_what_the_journal_holds(capsys, job):
    from lodestaff.commissioning.reading import Reading
    from lodestaff.commissioning.record import as_data
    from lodestaff.job.journal import append

    taken = Reading("prove-dead", (), True, by="J. Marr", at="2026-11-25T09:00:00+00:00")
    append(Path(job), "reading", "dead", "J. Marr", data=as_data(taken))
    steps = run_json(capsys, "procedure", job)[1]["steps"]
    assert [step["status"] for step in steps[:2]] == ["passed", "open"]
    assert steps[0]["reading"]["by"] == "J. Marr"


def test_rehearse(capsys, job):
    code, answer = run_json(capsys, "rehearse", job)
    assert (code, answer["passed"], answer["stopped_at"]) == (0, True, None)
    assert {step["status"] for step in answer["steps"]} == {"passed"}
    code, answer = run_json(capsys, "rehearse", job, "--fault", "bond-open", "--seed", "3")
    assert (code, answer["stopped_at"]) == (1, "bond-hybrid")
    assert "no bond is made" in next(s["words"] for s in answer["steps"] if s["id"] == "bond-hybrid")
    code, answer = run_json(capsys, "rehearse", job, "--as-it-stands")
    assert code == 0
    held = {step["id"] for step in answer["steps"] if step["status"] == "open"}
    assert ("start-hybrid-grid" in held) == bool(held)
    out = run(capsys, "rehearse", job, "--fault", "module-missing")[1]
    assert "stopped at voc-string-2" in out
    assert "expected" in out
    for bad in (["--fault", "none"], ["--seed", "-1"], ["--at", "noon"], ["--at", "2026-06-18T12:00+01:00"]):
        code, _, err = run(capsys, "rehearse", job, *bad)
        assert code == 2
        assert err.count("\n") == 1


def test_faults_are_those_that_the_site_can_have(capsys, job):
    code, answer = run_json(capsys, "faults", job)
    assert code == 0
    rows = {row["fault"]: row["caught_by"] for row in answer["faults"]}
    assert rows["bond-open"][-1] == "bond-load-hybrid"
    assert "module-unit-silent" not in rows
    assert all(rows.values())
    assert "ct-reversed" in run(capsys, "faults", job)[1]


def test_an_input_that_is_empty_from_the_start_does_not_end_the_plant(job):
    import signal
    import subprocess
    import sys

    with subprocess.Popen(
        [sys.executable, "-m", "lodestaff.main", "plant", job, "--speed", "0"],
        stdin=subprocess.DEVNULL,
        stdout=subprocess.PIPE,
        text=True,
    ) as served:
        assert "127.0.0.1" in served.stdout.readline()
        with pytest.raises(subprocess.TimeoutExpired):
            served.wait(1.5)
        served.send_signal(signal.SIGTERM)
        served.wait(10)


def test_plant_serves_and_takes_hands(capsys, job, monkeypatch):
    import io

    lines = "show\nswitch main-isolator open\nshow\nswitch nothing on\nwhat\nrun server on\ngrid on\nquit\n"
    monkeypatch.setattr("sys.stdin", io.StringIO(lines))
    code, out, _ = run(capsys, "plant", job, "--speed", "0")
    assert code == 0
    assert "127.0.0.1" in out
    assert "hybrid: grid" in out
    assert "hybrid: island" in out
    assert "no switch and position" in out
    assert "not understood: what" in out
    code, answer = run_json(capsys, "plant", job, "--seconds", "0")
    assert (code, answer["host"], answer["units"]) == (0, "127.0.0.1", {"hybrid": 1})


def test_help_and_version(capsys):
    assert run(capsys, "--version")[1].startswith("lodestaff ")
    out = run(capsys, "--help")[1]
    for name in (
        "demo",
        "check",
        "checks",
        "simulate",
        "outage",
        "wire",
        "report",
        "schema",
        "pack",
        "unpack",
        "shots",
    ):
        assert name in out


def test_the_command_line_needs_no_qt(job):
    """The core and the command line run where PySide6 is absent."""
    code = (
        "import sys; sys.modules['PySide6'] = None; from lodestaff.main import main; "
        "sys.exit(main(['wire', sys.argv[1]]))"
    )
    done = subprocess.run([sys.executable, "-c", code, job], capture_output=True, text=True, timeout=60)
    assert done.returncode == 0, done.stderr


def test_a_closed_pipe_is_no_fault(job):
    done = subprocess.run(
        f"{sys.executable} -m lodestaff.main wire {job} | head -1",
        shell=True,
        capture_output=True,
        text=True,
        timeout=60,
    )
    assert "Traceback" not in done.stderr


def test_a_reading_that_cannot_be_used_is_named_and_all_others_count(capsys, job):
    from lodestaff.commissioning.reading import Reading
    from lodestaff.commissioning.record import as_data
    from lodestaff.job.journal import append

    _, before = run_json(capsys, "procedure", job)
    step = before["steps"][0]["id"]
    bad = append(Path(job), "reading", "x", data={"step": step, "numbers": ["x"]})
    append(Path(job), "reading", "y", data=as_data(Reading(step, (), confirmed=True)))
    code, out, err = run(capsys, "procedure", job, "--json")
    assert code == 0
    assert bad.id in err
    assert err.count("\n") == 1
    assert json.loads(out)["steps"][0]["reading"] is not None


def test_ride(capsys, job):
    code, answer = run_json(capsys, "ride", job)
    assert code == 0
    (island,) = answer["islands"]
    assert (len(island["hours"]), len(island["hours"][0])) == (12, len(island["starts_h"]))
    assert set(island["survived"]) == {"4", "24", "72"}
