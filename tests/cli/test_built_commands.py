"""`built`: the plan kept, what differs, who stands for it."""

from lodestaff.cli.exits import BLOCKED, FINE, UNREADABLE
from lodestaff.job import Change, edit, load_job, save_job
from lodestaff.samples import sample_path
from tests.cli.running import run, run_json


def test_the_plan_goes_with_the_job_and_differences_are_confirmed(capsys, tmp_path):
    kept, later, sure = (tmp_path / f"{name}.json" for name in ("kept", "later", "sure"))
    code, answer = run_json(
        capsys, "built", sample_path("larkmoor"), "--plan", "--by", "R. Planner", "-o", kept
    )
    assert code == FINE
    assert answer["plan"]["by"] == "R. Planner"
    assert answer["differences"] == []
    save_job(edit(load_job(kept), Change("banks/battery/modules", 5), Change("title", "Other")), kept)
    code, answer = run_json(capsys, "built", kept)
    assert code == BLOCKED
    assert [(row["path"], row["planned"], row["built"]) for row in answer["differences"]] == [
        ("banks/battery/modules", "4", "5")
    ]
    code, answer = run_json(
        capsys, "built", kept, "--confirm", "--by", "T. Fitter", "--why", "asked", "-o", later
    )
    assert code == FINE
    assert answer["differences"][0]["confirmed"]["by"] == "T. Fitter"
    code, out, _ = run(capsys, "built", later)
    assert code == FINE
    assert "confirmed by T. Fitter" in out
    code, answer = run_json(capsys, "built", later, "--plan", "-o", sure)  # a later change begins from here
    assert (code, answer["differences"]) == (FINE, [])
    assert load_job(sure).handed.confirmed == ()


def test_what_cannot_be_said_is_told_in_a_line(capsys, tmp_path):
    for given, said in (
        ([], "no plan is kept"),
        (["--plan"], "give -o FILE"),
        (["--confirm", "units"], "give -o FILE"),
        (["--confirm", "-o", tmp_path / "x.json"], "no plan is kept"),
    ):
        code, _, err = run(capsys, "built", sample_path("larkmoor"), *given)
        assert code == UNREADABLE
        assert said in err
        assert err.count("\n") == 1
