"""Arrangements and families on the command line: words, keys, the job that is written, and bad input."""

import pytest

from lodestaff.job import Change, edit, load_job, save_job
from lodestaff.samples import sample_path
from tests.cli.running import run, run_json


def test_arrange_says_the_best_and_why_others_fail(capsys, larkmoor_path):
    code, words, _ = run(capsys, "arrange", str(larkmoor_path))
    assert code == 0
    assert "Hybrid, A: 10 South-east" in words
    assert "as it stands" in words
    assert "South-east on Hybrid, A: 5 to 12 modules (150 V to start" in words
    _, found = run_json(capsys, "arrange", str(larkmoor_path))
    assert set(found) == {"job", "ways", "looked_at", "exact", "fits", "now_kwh", "now_blocks"}
    assert set(found["ways"][0]) == {"strings", "kwh", "alone_kwh", "left", "margin_v", "changes"}
    assert set(found["fits"][0]) == {"unit", "tracker", "modules", "least", "most", "why"}


def test_arrange_writes_the_one_that_is_taken(capsys, larkmoor_path, tmp_path):
    target = tmp_path / "other.json"
    code, *_ = run(capsys, "arrange", str(larkmoor_path), "--take", "2", "-o", str(target))
    assert code == 0
    counts = sorted(sum(n for _, n in load_job(target).modules_in(s.id)) for s in load_job(target).strings)
    assert counts == [7, 11]


@pytest.mark.parametrize("take", ["0", "99"])
def test_a_way_that_is_not_there_is_told(capsys, larkmoor_path, tmp_path, take):
    code, _, told = run(capsys, "arrange", str(larkmoor_path), "--take", take, "-o", str(tmp_path / "x.json"))
    assert code == 2
    assert "1 to 10" in told
    assert not (tmp_path / "x.json").exists()


def test_families_side_by_side(capsys):
    path = str(sample_path("larch-fold-barn"))
    code, words, _ = run(capsys, "families", path)
    assert code == 0
    assert "* optimisers on shaded modules" in words
    _, found = run_json(capsys, "families", path)
    assert set(found) == {"job", "families", "unshaded_kwh", "shade_kwh"}
    assert set(found["families"][0]) == {
        "name", "present", "kwh_dc", "kwh_ac", "lost_mismatch_kwh", "lost_conversion_kwh", "unit_fails_share",
        "module_fails_share", "on_roof", "cost",
    }  # fmt: skip


def test_without_modules_both_say_what_is_wrong(capsys, tmp_path):
    path = tmp_path / "bare.json"
    code, *_ = run(capsys, "new", "--kind", "R", "-o", str(path))
    assert code == 0
    job = load_job(path)
    save_job(edit(job, *(Change(f"faces/{face.id}/modules", []) for face in job.faces)), path)
    for command in ("arrange", "families"):
        code, _, told = run(capsys, command, str(path))
        assert code == 2
        assert "no module" in told


def test_shade_of_each_module_and_of_one_by_month_and_hour(capsys, larkmoor_path):
    path = str(larkmoor_path)
    code, words, _ = run(capsys, "shade", path)
    assert code == 0
    assert len(words.splitlines()) == 18
    _, found = run_json(capsys, "shade", path)
    worst = max(found["modules"], key=lambda module: module["lost_share"])
    assert (worst["face"], worst["id"]) == ("south-west", "m8")
    code, words, _ = run(capsys, "shade", path, "--module", "south-west/m8")
    assert code == 0
    _, one = run_json(capsys, "shade", path, "--module", "South-west/m8")
    assert set(one) == {"job", "face", "module", "beam", "groups", "sky"}
    morning, evening = one["beam"][3][9], one["beam"][3][17]
    assert morning < 0.5, "the chimney stands in the morning sun"
    assert evening == 1
    assert one["beam"][0][2] is None
    assert 0.8 < one["sky"] < 1
    assert len(one["groups"]) == 3


@pytest.mark.parametrize("given", ["nowhere/m1", "south-west/m99"])
def test_shade_of_a_module_that_is_not_there(capsys, larkmoor_path, given):
    code, _, told = run(capsys, "shade", str(larkmoor_path), "--module", given)
    assert code == 2
    assert "m1" in told or "south-east" in told
