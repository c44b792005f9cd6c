"""Snags and devices left otherwise, by command."""

from lodestaff.commissioning.procedure import procedure
from lodestaff.commissioning.reading import Reading
from lodestaff.commissioning.record import as_data
from lodestaff.job import load_job
from lodestaff.job.journal import append, read
from lodestaff.samples import sample_path
from lodestaff.topology import build
from tests.cli.running import run, run_json


def copied(tmp_path):
    path = tmp_path / "job.json"
    path.write_bytes(sample_path("wendle").read_bytes())
    return path


def test_snags_are_written_listed_and_put_right(capsys, tmp_path):
    path = copied(tmp_path)
    assert run(capsys, "snag", path)[:2] == (0, "no snags\n")
    code, _, error = run(capsys, "snag", path, "Label missing", "--owner", "Bo")
    assert (code, error) == (2, "lodestaff: snag: '' is no date; write its day as 2026-06-18\n")
    code, _, error = run(capsys, "snag", path, "--owner", "Bo")
    assert code == 2
    assert "say what is wrong" in error
    code, found = run_json(capsys, "snag", path, "Label missing", "--owner", "Bo", "--due", "2020-01-01")
    (snag,) = found["snags"]
    assert code == 1  # its day has gone by
    assert (snag["owner"], snag["late"], snag["open"]) == ("Bo", True, True)
    assert run(capsys, "snag", path, "--done", "e9", "fitted")[0] == 2
    code, out, _ = run(capsys, "snag", path, "fitted", "--done", snag["id"], "--by", "Ann")
    assert code == 0
    assert "fitted" in out
    assert [entry.by for entry in read(path)] == ["", "Ann"]


def test_what_was_left_otherwise_is_told_and_taken(capsys, tmp_path):
    path, target = copied(tmp_path), tmp_path / "as-left.json"
    job = load_job(path)
    steps = {step.id: step for step in procedure(job, build(job))}
    step = steps["set-hybrid-reserve_soc"]
    numbers = (step.rule.wanted[0] + 10,)
    for reading in (Reading("type-hybrid", said="Hybrid 99"), Reading(step.id, numbers, way="link")):
        append(path, "reading", "", "Ann", None, as_data(reading))
    code, out, _ = run(capsys, "as-left", path)
    assert code == 1
    assert "can't flow back" in out
    code, out, error = run(capsys, "as-left", path, "--take", "type-hybrid", "-o", target)
    assert code == 2
    assert "add it to the shelf" in error
    assert run(capsys, "as-left", path, "--take", step.id)[0] == 2  # nowhere to write it
    code, found = run_json(capsys, "as-left", path, "--take", step.id, "-o", target)
    assert [one["taken"] for one in found["as_left"]] == [False, True]
    made = load_job(target)
    assert made.limits.reserve_soc > job.limits.reserve_soc
    assert [one["step"] for one in run_json(capsys, "as-left", target)[1]["as_left"]] == ["type-hybrid"]
    assert read(target)[-1].kind in ("decision", "correction")
