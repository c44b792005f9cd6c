"""What commands write: all that belongs to a job, and never over what is no file of Lodestaff's own."""

import shutil

import pytest

from lodestaff.cli.output import _own
from lodestaff.job import load_job
from lodestaff.job.attachments import digests_of, read_attachment
from lodestaff.job.journal import append, read
from lodestaff.samples import sample_path
from tests.cli.running import run


@pytest.fixture
def whole(tmp_path):
    """Larkmoor with its attachments and a journal."""
    path = tmp_path / "larkmoor.json"
    shutil.copy(sample_path("larkmoor"), path)
    shutil.copytree(sample_path("larkmoor").with_suffix(".files"), tmp_path / "larkmoor.files")
    append(path, "reading", "Ze 0.21 ohm", data={"step": "x"})
    return path


@pytest.mark.parametrize(
    "arguments",
    [
        ["split"],
        ["split", "--deal"],
        ["adjust", "--add", "insert", "id=q", "name=Q", "what=isolator", "into=hybrid:grid"],
        ["circuits", "--add", "LIBRARY"],
        ["edition"],
    ],
)
def test_journal_and_attachments_follow_a_job_that_is_written_elsewhere(capsys, whole, tmp_path, arguments):
    target = tmp_path / "there" / "other.json"
    target.parent.mkdir()
    command, *rest = arguments
    if command == "circuits":
        from lodestaff.catalogue.library import library

        job = load_job(whole)
        rest = ["--add", library(job.site.building or "house", job.pack.beginning.circuits)[0].id]
    place = ["--job", whole] if command == "circuits" else [whole]
    code, out, err = run(capsys, command, *place, *rest, "-o", target)
    if command == "edition":  # nothing newer is there
        assert (code, target.exists()) == (0, False)
        return
    assert code == 0, (out, err)
    made = load_job(target)
    assert [entry.text for entry in read(target)] == ["Ze 0.21 ohm"]
    assert all(read_attachment(target, digest) for digest in digests_of(made))


@pytest.mark.parametrize(
    ("arguments", "name"),
    [
        (["new", "--kind", "A"], "note.json"),
        (["split", "JOB"], "note.json"),
        (["report", "JOB"], "note.pdf"),
        (["report", "JOB"], "note.xlsx"),
        (["report", "JOB"], "note.svg"),
        (["simulate", "JOB", "--csv"], "note.csv"),
        (["pack", "JOB"], "note.zip"),
        (["shelf", "export"], "note.json"),
    ],
)
def test_what_is_not_lodestaffs_own_is_replaced_only_by_force(capsys, whole, tmp_path, arguments, name):
    target = tmp_path / name
    target.write_text("a letter to a friend")
    words = [whole if word == "JOB" else word for word in arguments]
    by_option = arguments[0] in ("new", "split", "report")
    given = [*words, "-o", target] if by_option else [*words, target]
    code, _, err = run(capsys, *given)
    assert code == 2
    assert err.count("\n") == 1
    assert "--force" in err
    assert target.read_text() == "a letter to a friend"
    assert run(capsys, *given, "--force")[0] == 0
    assert _own(target, ".job" if arguments[0] in ("new", "split") else target.suffix)
    assert b"a friend" not in target.read_bytes()


def test_a_folder_that_is_not_there_is_told_before_anything_is_computed(capsys, whole, monkeypatch):
    monkeypatch.setattr("lodestaff.cli.commands.open_job", lambda _: pytest.fail("computed"))
    code, _, err = run(capsys, "report", whole, "-o", "/nowhere/pack.pdf")
    assert code == 2
    assert "that folder does not exist" in err
