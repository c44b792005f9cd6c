"""The journal only grows; attachments are what they were; one file carries all three."""

import errno
import json
import subprocess
import sys
import time

import pytest

from lodestaff.job import save_job
from lodestaff.job.attachments import attach, folder_of, read_attachment
from lodestaff.job.journal import append, aside_path, journal_path, load, read, standing
from lodestaff.quantities.errors import JobError


@pytest.fixture
def job_path(larkmoor, tmp_path):
    path = tmp_path / "larkmoor.json"
    save_job(larkmoor, path)
    return path


def test_entries_come_back_in_order(job_path):
    first = append(job_path, "reading", "string 1: 388 V", "J. Marr")
    append(job_path, "note", "gate stiff", "J. Marr")
    append(job_path, "correction", "string 1: 398 V", "J. Marr", corrects=first.id)
    entries = read(job_path)
    assert [entry.text for entry in entries] == ["string 1: 388 V", "gate stiff", "string 1: 398 V"]
    assert entries[2].corrects == first.id == entries[0].id
    assert all(entry.at.endswith("+00:00") for entry in entries)


def test_no_journal_is_an_empty_one(job_path):
    assert read(job_path) == []


@pytest.mark.parametrize(
    ("kind", "corrects", "words"), [("poem", None, "no kind of entry 'poem'"), ("correction", 7, "no line 7")]
)
def test_entries_that_cannot_be(job_path, kind, corrects, words):
    with pytest.raises(JobError, match=words):
        append(job_path, kind, "x", corrects=corrects)
    assert not journal_path(job_path).exists()


def test_a_line_cut_off_by_a_crash_is_kept_aside_and_the_next_is_whole(job_path):
    append(job_path, "note", "one")
    with journal_path(job_path).open("ab") as stream:
        stream.write(b'{"kind": "note", "te')
    found = load(job_path)
    assert [entry.text for entry in found.entries] == ["one"]
    assert "line 2 was cut off" in found.damaged[0]
    append(job_path, "note", "two")
    assert [entry.text for entry in read(job_path)] == ["one", "two"]
    assert load(job_path).damaged == ()
    assert aside_path(job_path).read_bytes() == b'{"kind": "note", "te\n'


def test_a_whole_line_that_lacks_only_its_end_stays(job_path):
    append(job_path, "note", "one")
    raw = journal_path(job_path).read_bytes()
    journal_path(job_path).write_bytes(raw[:-1])
    append(job_path, "note", "two")
    assert [entry.text for entry in read(job_path)] == ["one", "two"]


@pytest.mark.parametrize(
    "line", [b'{"kind": "note", "flavour": 3}', b"junk", b"[1]", b'{"kind": 3}', b"[" * 100_000, b"\xff\xfe"]
)
def test_a_damaged_line_is_named_and_all_others_are_read(job_path, line):
    append(job_path, "note", "one")
    with journal_path(job_path).open("ab") as stream:
        stream.write(line + b"\n")
    append(job_path, "note", "two")
    found = load(job_path)
    assert [entry.text for entry in found.entries] == ["one", "two"]
    assert len(found.damaged) == 1
    assert "line 2" in found.damaged[0]


def test_a_line_that_was_changed_is_named(job_path):
    append(job_path, "reading", "string 1: 388 V")
    append(job_path, "note", "two")
    raw = journal_path(job_path).read_bytes()
    journal_path(job_path).write_bytes(raw.replace(b"388", b"398"))
    found = load(job_path)
    assert [entry.text for entry in found.entries] == ["two"]
    assert "line 1 was changed" in found.damaged[0]


def test_journals_without_ids_read_for_ever_and_are_corrected_by_their_line(job_path):
    old = {"at": "2026-05-02T09:00:00+00:00", "by": "J. Marr", "data": {"step": "a"}, "corrects": None}
    lines = [
        json.dumps({"kind": "reading", "text": "first", **old}),
        "junk",
        json.dumps({"kind": "reading", "text": "third", **old}),
        json.dumps({"kind": "correction", "text": "", **old, "data": None, "corrects": 3}),
    ]
    journal_path(job_path).write_text("\n".join(lines) + "\n", encoding="utf-8")
    assert [name for name, _ in standing(read(job_path), "reading")] == ["1"]
    append(job_path, "correction", "", corrects="1")
    assert list(standing(read(job_path), "reading")) == []


def test_a_disk_that_fills_while_an_entry_is_written_leaves_the_journal_as_it_was(job_path, monkeypatch):
    append(job_path, "note", "one")
    before = journal_path(job_path).read_bytes()

    def full(_descriptor):
        raise OSError(errno.ENOSPC, "No space left on device")

    with monkeypatch.context() as patched:
        patched.setattr("lodestaff.job.journal.os.fsync", full)
        with pytest.raises(JobError, match="disk is full"):
            append(job_path, "note", "two")
    assert journal_path(job_path).read_bytes() == before


WRITE_FOREVER = """
import sys
from pathlib import Path
from lodestaff.job.journal import append
for number in range(100000):
    append(Path(sys.argv[1]), "reading", str(number))
    print(number, flush=True)
"""


def test_killed_while_writing_no_acknowledged_entry_is_lost(job_path):
    with subprocess.Popen(
        [sys.executable, "-c", WRITE_FOREVER, str(job_path)], stdout=subprocess.PIPE, text=True
    ) as child:
        assert child.stdout is not None
        child.stdout.readline()
        time.sleep(0.15)
        child.kill()
        acknowledged = [0, *(int(line) for line in child.stdout.read().split() if line.isdigit())]
    texts = [entry.text for entry in read(job_path)]
    assert texts[: max(acknowledged) + 1] == [str(number) for number in range(max(acknowledged) + 1)]


def test_an_attachment_is_named_by_what_it_holds(job_path, tmp_path):
    photo = tmp_path / "board.jpg"
    photo.write_bytes(b"a picture of the board")
    digest = attach(job_path, photo)
    assert digest == attach(job_path, photo)
    assert read_attachment(job_path, digest) == b"a picture of the board"
    assert [entry.name for entry in folder_of(job_path).iterdir()] == [digest]


def test_an_attachment_that_was_changed_or_lost_is_refused(job_path, tmp_path):
    photo = tmp_path / "board.jpg"
    photo.write_bytes(b"a picture of the board")
    digest = attach(job_path, photo)
    (folder_of(job_path) / digest).write_bytes(b"another picture")
    with pytest.raises(JobError, match="was changed"):
        read_attachment(job_path, digest)
    (folder_of(job_path) / digest).unlink()
    with pytest.raises(JobError, match="is missing"):
        read_attachment(job_path, digest)


def test_the_schema_accepts_the_sample(larkmoor, larkmoor_path):
    """The published schema, by an independent validator."""
    import jsonschema

    from lodestaff.job.schema import job_schema

    schema = job_schema()
    assert schema["$id"] == "urn:lodestaff:job:5"
    jsonschema.validate(json.loads(larkmoor_path.read_text(encoding="utf-8")), schema)
    properties = [
        one for part in (schema, *schema["$defs"].values()) for one in part.get("properties", {}).items()
    ]
    assert [key for key, one in properties if not one.get("title")] == []
    units = {key: one.get("unit") for key, one in properties}
    assert units["altitude_m"] == "m"
    assert units["voc_v"] == "V"
    assert units["module_kwh"] == "kWh"
    assert [
        key for key, unit in units.items() if key.endswith(("_kw", "_v", "_a", "_kwh")) and not unit
    ] == []
