"""`place`: its answers, what it changes, templates, and what it refuses."""

import pypdfium2
import pytest

from lodestaff.cli.exits import FINE, UNREADABLE
from lodestaff.job import load_job
from lodestaff.samples import sample_path
from tests.cli.running import run, run_json

LARKMOOR = sample_path("larkmoor")


def test_it_answers_with_walls_parts_and_ways(capsys):
    code, answer = run_json(capsys, "place", LARKMOOR)
    assert code == FINE
    assert answer["arrangements"] is None
    ways = {one["run"]: one for one in answer["ways"]}
    assert ways["hybrid-array-a"]["length_m"] > 18.5  # those on the roof are in it
    assert "hybrid-array-a" in {one["id"] for one in answer["parts"]}
    assert not ways["hybrid-feed"]["laid"]


def test_all_that_it_changes_is_in_the_job_that_it_writes(capsys, tmp_path):
    out = tmp_path / "out.json"
    code, answer = run_json(
        capsys, "place", LARKMOOR, "--way", "hybrid-feed", "--by", "corridor:0.4,2.2", "plant:2,2.2",
        "--keep", "Laid", "--choose", "Laid", "--why", "as asked", "--who", "the owner", "-o", out,
    )  # fmt: skip
    assert code == FINE
    job = load_job(out)
    assert [(turn.wall, turn.x_m) for turn in job.courses[0].by] == [("corridor", 0.4), ("plant", 2.0)]
    assert job.choices[-1].chosen == "Laid"
    assert (job.choices[-1].why, job.choices[-1].by) == ("as asked", "the owner")
    assert next(one for one in answer["ways"] if one["run"] == "hybrid-feed")["laid"]
    again = tmp_path / "again.json"
    run_json(capsys, "place", out, "--way", "hybrid-feed", "-o", again)
    assert load_job(again).courses == ()


def test_ways_to_stand_it_all_are_told_side_by_side(capsys):
    code, answer = run_json(capsys, "place", LARKMOOR, "--compare")
    assert code == FINE
    found = {one["name"]: one for one in answer["arrangements"]}
    assert set(found) == {"Battery by the hybrid", "Battery at the far end"}
    assert found["Battery by the hybrid"]["now"]
    assert any("air brick" in text for text in found["Battery at the far end"]["blocks"])
    _, out, _ = run(capsys, "place", LARKMOOR, "--compare")
    assert "Battery by the hybrid (as it stands now)" in out


def test_a_template_is_written_at_full_size(capsys, tmp_path):
    target = tmp_path / "hybrid.pdf"
    code, answer = run_json(capsys, "place", LARKMOOR, "--template", "hybrid", "--sheets", target)
    assert (code, answer["template"]) == (FINE, str(target))
    document = pypdfium2.PdfDocument(target.read_bytes(), autoclose=True)
    assert "entry Ø 40" in " ".join(page.get_textpage().get_text_range() for page in document)


@pytest.mark.parametrize(
    ("given", "said"),
    [
        (["--way", "feed"], "no run 'feed'"),
        (["--way", "hybrid-feed", "--by", "plant"], "a point like garage:1.2,2.1"),
        (["--way", "hybrid-feed", "--by", "plant:x,2"], "metres along"),
        (["--way", "hybrid-feed", "--by", "shed:1,2"], "'shed' is not there"),
        (["--choose", "none"], "no arrangement 'none'; Battery by the hybrid"),
        (["--template", "hybrid"], "give --sheets"),
        (["--template", "hybird", "--sheets", "{tmp}/x.pdf"], "no part 'hybird'"),
        (["-o", "{tmp}/x.json"], "nothing to write"),
    ],
    ids=lambda value: " ".join(value) if isinstance(value, list) else "",
)  # fmt: skip
def test_what_cannot_be_done_is_said_in_a_line(capsys, tmp_path, given, said):
    code, _, err = run(capsys, "place", LARKMOOR, *(text.replace("{tmp}", str(tmp_path)) for text in given))
    assert code == UNREADABLE
    assert said in err
    assert err.count("\n") == 1


@pytest.mark.parametrize("name", ["gannet-point-lodge", "skerry-light-cottage", "juniper-draw-ranch"])
def test_unlike_kinds_without_a_kept_way_are_told_as_they_stand(capsys, name):
    _, answer = run_json(capsys, "place", sample_path(name), "--compare")
    assert [one["id"] for one in answer["arrangements"]] == [""]
    places = {one["id"] for one in answer["parts"]}
    assert len(answer["arrangements"][0]["no_place"]) == sum(one["wall"] is None for one in answer["parts"])
    assert places
