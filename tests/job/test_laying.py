"""A job is laid down in one way: what belongs to it comes along, and nothing that lies there is lost."""

import os
from pathlib import Path

import pytest

from lodestaff.job import load_job, save_job
from lodestaff.job.attachments import digests_of, read_attachment
from lodestaff.job.journal import Entry, append, journal_path, line_of, read, standing
from lodestaff.job.laying import lay, merged
from lodestaff.quantities.disk import read_whole, write_whole
from lodestaff.quantities.errors import JobError


@pytest.fixture
def source(larkmoor, tmp_path):
    path = tmp_path / "larkmoor.json"
    save_job(larkmoor, path)
    append(path, "note", "gate stiff")
    return path


def named(job, id):
    return job.model_copy(update={"id": id})


def test_journal_and_attachments_come_along(larkmoor, larkmoor_path, source, tmp_path):
    target = tmp_path / "there" / "copy.json"
    target.parent.mkdir()
    laid = lay(larkmoor, target, (source, larkmoor_path), source)
    assert laid.words == ""
    assert load_job(target) == larkmoor
    assert [entry.text for entry in read(target)] == ["gate stiff"]
    for digest in digests_of(larkmoor):
        assert read_attachment(target, digest) == read_attachment(larkmoor_path, digest)


def test_what_is_found_nowhere_is_said(larkmoor, tmp_path):
    digests = digests_of(larkmoor)
    laid = lay(larkmoor, tmp_path / "job.json")
    assert laid.lost == digests
    assert f"{len(digests)} attachments were found nowhere" in laid.words
    with pytest.raises(JobError, match="folder does not exist"):
        lay(larkmoor, tmp_path / "nowhere" / "job.json")


def test_the_journal_of_another_job_is_kept_aside(larkmoor, source, tmp_path):
    other = tmp_path / "other.json"
    save_job(named(larkmoor, "other"), other)
    append(other, "reading", "Ze 0.21 ohm")
    laid = lay(larkmoor, other, (source,), source)
    assert [entry.text for entry in read(other)] == ["gate stiff"]
    assert laid.aside is not None
    assert "Ze 0.21 ohm" in laid.aside.read_text(encoding="utf-8")
    assert laid.aside.name in laid.words


def test_a_new_job_does_not_inherit_the_readings_of_one_that_lay_there(larkmoor, tmp_path):
    target = tmp_path / "job.json"
    append(target, "reading", "Ze 0.21 ohm")
    assert lay(larkmoor, target).aside is not None
    assert read(target) == []


def test_the_same_job_elsewhere_gets_what_it_lacks(larkmoor, source, tmp_path):
    copy = tmp_path / "copy.json"
    lay(larkmoor, copy, (source,), source)
    append(source, "note", "on the first")
    append(copy, "note", "on the second")
    lay(larkmoor, copy, (source,), source)
    assert [entry.text for entry in read(copy)] == ["gate stiff", "on the second", "on the first"]


def test_saving_in_place_leaves_the_journal_alone(larkmoor, source):
    before = journal_path(source).read_bytes()
    lay(larkmoor, source, (source,), source)
    assert journal_path(source).read_bytes() == before


def test_merging_keeps_what_corrections_name():
    """Old entries go by their number; in another journal the same ones stand elsewhere."""
    first = Entry("reading", "a", "t", "x", data={"step": "a"}, id="1")
    second = Entry("reading", "b", "t", "x", data={"step": "b"}, id="2")
    withdrawal = Entry("correction", "", "t", "x", corrects=2, id="3")
    others = [first, second, withdrawal]
    there = [Entry("note", "mine", "t", "y", id="1"), Entry(**{**vars(first), "id": "2"})]
    both = [*there, *merged(there, others)]
    assert [entry.text for entry in both] == ["mine", "a", "b", ""]
    assert [entry.text for _, entry in standing(both, "reading")] == ["a"]
    assert merged(both, others) == []
    assert all(line_of(entry) for entry in both)


def test_a_link_stays_a_link(larkmoor, tmp_path):
    real = tmp_path / "real.json"
    save_job(larkmoor, real)
    link = tmp_path / "link.json"
    link.symlink_to(real)
    lay(named(larkmoor, "other"), link)
    assert link.is_symlink()
    assert load_job(real).id == "other"


def test_leftovers_of_writers_that_are_gone_are_swept(larkmoor, tmp_path):
    path = tmp_path / "job.json"
    left = tmp_path / ".job.json.999999999.abc.part"
    left.write_bytes(b"half")
    mine = tmp_path / ".another.json.999999999.abc.part"
    mine.write_bytes(b"half")
    save_job(larkmoor, path)
    assert not left.exists()
    assert mine.exists()


def test_what_is_no_plain_file_is_never_written_to(tmp_path):
    with pytest.raises(JobError, match="folder"):
        write_whole(tmp_path, b"")
    pipe = tmp_path / "pipe"
    os.mkfifo(pipe)
    with pytest.raises(JobError, match="may not write"):
        write_whole(pipe, b"")
    for path in (pipe, Path("/dev/zero")):
        with pytest.raises(JobError, match="no plain file"):
            read_whole(path)
    assert pipe.is_fifo()
