"""Wiring, adjustments, new jobs and samples on the command line."""

from pathlib import Path

import pytest

from lodestaff.job import load_job, save_job
from lodestaff.reckoning import Reckoner
from lodestaff.reckoning.memo import Memo
from lodestaff.samples import sample_names, sample_path
from lodestaff.templates import KINDS, compose
from tests.cli.running import run, run_json
from tests.unlike import UNLIKE


@pytest.fixture
def job(tmp_path):
    path = tmp_path / "k.json"
    save_job(compose(KINDS["K"].wanted), path)
    return str(path)


def test_wire_of_a_large_kind(capsys, job):
    code, found = run_json(capsys, "wire", job, "--state", "generator")
    (state,) = found["states"]
    assert code == 0
    assert state["units"] == {"hybrid-1": "generator", "hybrid-2": "generator"}
    assert state["hazards"] == []
    assert "generator" in state["sources"]["generator.ac>generator-isolator.line"]
    _, words, _ = run(capsys, "wire", job, "--state", "grid")
    assert "CT 1 sees" in words


def test_moves_and_failures(capsys, job):
    _, found = run_json(capsys, "wire", job, "--moves", "--state", "grid")
    assert {"part", "position", "darkened", "fed", "made_live", "made_dead", "hazards"} <= set(
        found["moves"][0]
    )
    assert "Bypass 1 to grid" in run(capsys, "wire", job, "--moves")[1]
    _, found = run_json(capsys, "wire", job, "--failures")
    assert [one["battery_kwh"] for one in found["failures"]] == pytest.approx([4 * 4.8, 6 * 4.8])
    assert "fails in an outage" in run(capsys, "wire", job, "--failures")[1]


def test_adjust(capsys, job):
    words = ["insert", "id=m", "name=Extra meter", "what=meter", "into=hybrid-1:grid"]
    assert run(capsys, "adjust", job, "--add", *words)[0] == 0
    assert "m: insert" in run(capsys, "adjust", job)[1]
    assert load_job(Path(job)).adjustments[-1].id == "m"
    moved = ["move ct", "id=x", "ct=gone", "on=grid-1,grid-2"]
    run(capsys, "adjust", job, "--add", *moved)
    _, found = run_json(capsys, "adjust", job)
    assert [one["lost"] != "" for one in found["adjustments"] if one["id"] == "x"] == [True]
    assert "LOST" in run(capsys, "adjust", job)[1]
    assert run(capsys, "adjust", job, "--remove", "x")[0] == 0
    for bad, right in (
        (["--remove", "nothing"], "there are:"),
        (["--add", "into=a"], "comes first"),
        (["--add", "insert", "into"], "key=value"),
        (["--add", "insert", "id=q", "name=Q", "what=kettle", "into=board"], "isolator"),
    ):
        code, _, error = run(capsys, "adjust", job, *bad)
        assert code == 2
        assert right in error
        assert error.count("\n") == 1


def test_a_step_of_shutting_down_is_put_elsewhere_and_back(capsys, larkmoor_path, tmp_path):
    made, back = tmp_path / "made.json", tmp_path / "back.json"
    step = ("--step", "hybrid-array-a-isolator")
    code, answer = run_json(
        capsys, "adjust", larkmoor_path, *step, "--to", 2, "--why", "its lock", "-o", made
    )
    assert code == 0
    assert [(one["part"], one["why"]) for one in answer["reorderings"]] == [(step[1], "its lock")]
    code, answer = run_json(capsys, "adjust", made, *step, "-o", back)
    assert (code, answer["reorderings"]) == (0, [])
    for given, said in (
        ((*step, "--to", 2), "no reason"),
        ((*step, "--to", 99, "--why", "far off"), "no place"),
        (("--step", "kettle", "--to", 1, "--why", "none"), "steps: "),
    ):
        code, _, err = run(capsys, "adjust", larkmoor_path, *given, "-o", tmp_path / "x.json")
        assert code == 2
        assert said in err


def test_new(capsys, tmp_path):
    target = tmp_path / "new.json"
    code, found = run_json(capsys, "new", "--kind", "f", "--set", "charger=no", "-o", str(target))
    assert code == 0
    assert "island" in found["states"]
    made = load_job(target)
    assert "charger" not in {circuit.id for circuit in made.circuits}
    _, found = run_json(capsys, "new", "--choices")
    assert set(found["kinds"]) == set(KINDS)
    assert "--kind A:" in run(capsys, "new", "--choices")[1]
    assert "units" in run(capsys, "new", "-o", str(target))[1]
    for bad, right in (
        (["--kind", "Z", "-o", "x"], "kinds: A"),
        ([], "give -o FILE"),
        (["--set", "backup=most", "-o", "x"], "whole building"),
        (["--set", "arrangement=side by side", "-o", "x"], "two units or more"),
    ):
        code, _, error = run(capsys, "new", *bad)
        assert code == 2
        assert right in error


def test_samples(capsys):
    _, found = run_json(capsys, "samples")
    assert [one["name"] for one in found] == list(sample_names())
    assert found[0]["name"] == "larkmoor"
    assert "brindle-mesa" in run(capsys, "samples")[1]
    assert sample_path("brindle").stem == "brindle-mesa-field-station"
    with pytest.raises(Exception, match="may be"):
        sample_path("br")
    with pytest.raises(Exception, match="samples:"):
        sample_path("zebra")


PRINTED = (
    "larkmoor",
    "pinfold-terrace-3",
    "skerry-light-cottage",
    "ocotillo-wash-centre",
    "tern-quay-boatshed",
)


@pytest.mark.parametrize("name", UNLIKE)
def test_every_sample_goes_through_the_command_line(capsys, name, tmp_path, monkeypatch):
    """Checked, simulated, ridden through, wired, settled and handed over: no command fails on any kind."""
    path, memo = str(sample_path(name)), Memo()

    def remembering(*given):
        """What one command reckoned the next needn't."""
        made = Reckoner(*given)
        made.memo = memo
        return made

    monkeypatch.setattr("lodestaff.reckoning.Reckoner", remembering)
    for words in (
        ["check"],
        ["outage"],
        ["wire"],
        ["settings"],
        ["procedure"],
        ["report", "-o", str(tmp_path / f"x.{'pdf' if name in PRINTED else 'svg'}")],
    ):
        code, _, error = run(capsys, words[0], path, *words[1:])
        assert code in (0, 1), (words, error)
        assert error == ""
    code, answer = run_json(capsys, "simulate", path)
    assert max(answer["largest_imbalance_kwh"].values()) < 1e-9


@pytest.mark.parametrize("name", sample_names())
def test_samples_are_written_as_the_program_writes(name, tmp_path):
    again = tmp_path / "again.json"
    save_job(load_job(sample_path(name)), again)
    assert again.read_text(encoding="utf-8") == sample_path(name).read_text(encoding="utf-8")


def test_the_three_demo_jobs_and_every_kind_have_a_sample():
    titles = {load_job(sample_path(name)).title for name in sample_names()}
    assert {point.wanted.title for point in KINDS.values()} <= titles
    assert {"Larkmoor Veterinary Surgery", "Tern Quay Boatshed", "Brindle Mesa Field Station"} <= titles


def test_split_and_deal(capsys, job, tmp_path, larkmoor_path):
    target = tmp_path / "dealt.json"
    code, words, _ = run(capsys, "split", job, "--deal", "-o", str(target))
    assert code == 0
    assert "circuits moved" in words
    _, found = run_json(capsys, "split", str(target), "--deal")
    assert all(one["dealt"]["moved"] == 0 for one in found["boards"])
    _, found = run_json(capsys, "split", str(larkmoor_path))
    assert {"units", "limits", "choice", "further", "changes"} <= set(found["proposals"][0])
    assert "left out: dental-compressor" in run(capsys, "split", str(larkmoor_path))[1]
    assert "no board stands on several legs" in run(capsys, "split", str(larkmoor_path), "--deal")[1]
    assert run(capsys, "split", str(sample_path("wendle-row-14")))[0] == 2


def test_horizon(capsys, job, tmp_path):
    path, target = tmp_path / "h.csv", tmp_path / "behind.json"
    path.write_text("0,0\n120,20\n240,20\n")
    _, found = run_json(capsys, "horizon", job, path, "-o", target)
    assert len(found["points"]) == 3
    assert found["pv_kwh"] < found["pv_without_kwh"]
    assert len(load_job(target).site.horizon) == 3
    assert "3 points, highest 20 at 120 degrees" in run(capsys, "horizon", target)[1]
