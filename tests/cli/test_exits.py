"""Exit codes and one line, whatever the arguments, the terminal or the program's own faults."""

import os
import subprocess
import sys

import pytest

from lodestaff.quantities.faults import faults_folder
from tests.cli.running import run

LODESTAFF = f"{sys.executable} -m lodestaff.main"


def shell(line, **environment):
    return subprocess.run(
        line, shell=True, capture_output=True, timeout=60, env={**os.environ, **environment}, check=False
    )


def test_a_fault_of_the_program_is_3_and_keeps_its_trace(capsys, job, monkeypatch):
    def broken(_options):
        raise ZeroDivisionError("of ours")

    monkeypatch.setattr("lodestaff.cli.commands.check", broken)
    code, _, err = run(capsys, "check", job)
    assert code == 3
    assert err.count("\n") == 1
    (trace,) = faults_folder().glob("*.txt")
    assert str(trace) in err
    assert "ZeroDivisionError: of ours" in trace.read_text()


def test_ctrl_c_ends_quietly(capsys, job, monkeypatch):
    def stopped(_options):
        raise KeyboardInterrupt

    monkeypatch.setattr("lodestaff.cli.commands.check", stopped)
    assert run(capsys, "check", job) == (130, "", "")


@pytest.mark.parametrize(
    ("line", "code"),
    [
        ("wire {job} > /dev/full", 2),
        ("--help > /dev/full", 2),
        ("wire {job} >&-", 0),
        ("settings {job} --json >&-", 0),
        ("wire nowhere.json 2>&-", 2),
        ("wire nowhere.json > /dev/null 2> /dev/full", 2),
        ("check /dev/zero", 2),
    ],
)
def test_streams_that_fail(job, line, code):
    done = shell(f"{LODESTAFF} {line.format(job=job)}")
    assert done.returncode == code, done.stderr
    assert b"Traceback" not in done.stderr
    assert b"Exception ignored" not in done.stderr
    assert done.stderr.count(b"\n") <= 1


@pytest.mark.parametrize("encoding", ["ascii", "cp1252", "utf-16"])
def test_every_encoding_of_the_terminal(job, encoding):
    done = shell(f"{LODESTAFF} procedure {job}", PYTHONIOENCODING=encoding)
    assert done.returncode == 0, done.stderr
    assert b"Traceback" not in done.stderr


def test_json_stays_json_in_every_encoding(job):
    import json

    done = shell(f"{LODESTAFF} settings {job} --json", PYTHONIOENCODING="ascii")
    utf = shell(f"{LODESTAFF} settings {job} --json", PYTHONIOENCODING="utf-8")
    assert json.loads(done.stdout) == json.loads(utf.stdout)


def test_an_error_line_is_short_and_shows_no_control_characters(capsys, tmp_path):
    name = tmp_path / ("\x1b[31m" + "long" * 60)
    code, _, err = run(capsys, "check", f"{name}{'/x' * 40_000}")
    assert code == 2
    assert len(err) <= 302
    assert "\x1b" not in err
    code, _, err = run(capsys, "outage", "job.json", "--sky", "x" * 200_000)
    assert code == 2
    assert len(err) <= 302


@pytest.mark.parametrize(
    ("words", "right"),
    [(["chek", "x"], "is `check` meant?"), (["frobnicate"], "`lodestaff help` lists the commands")],
)
def test_an_unknown_command_is_no_window(capsys, words, right):
    code, _, err = run(capsys, *words)
    assert code == 2
    assert right in err


@pytest.mark.parametrize("line", ["help", "--help", "help check", "demo --help", "shots --help"])
def test_help_makes_nothing(capsys, tmp_path, monkeypatch, line):
    monkeypatch.chdir(tmp_path)
    code, out, _ = run(capsys, *line.split())
    assert code == 0
    assert "usage: lodestaff" in out
    assert list(tmp_path.iterdir()) == []


def test_help_gives_examples_and_exit_codes(capsys):
    _, out, _ = run(capsys, "--help")
    assert "lodestaff check job.json" in out
    assert "3 a fault of the program" in out


def test_a_state_of_charge_that_allows_two_readings_is_asked_back(capsys, job):
    code, _, err = run(capsys, "outage", job, "--soc", "0.5")
    assert code == 2
    assert "0.5 % or 50 %?" in err
    assert run(capsys, "outage", job, "--soc", "0.5%")[0] == 0


def test_a_check_is_told_alone(capsys):
    code, out, _ = run(capsys, "checks", "SITE-PLACE")
    assert code == 0
    assert out.startswith("SITE-PLACE")
    code, _, err = run(capsys, "checks", "KETTLE")
    assert code == 2
    assert "no check 'KETTLE'" in err
