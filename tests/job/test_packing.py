"""A packed job carries all three, and is taken apart only where all of it is sound."""

import shutil
import zipfile

import pytest

from lodestaff.job import load_job, save_job
from lodestaff.job.attachments import attach, digests_of, folder_of, read_attachment
from lodestaff.job.journal import append, aside_path, journal_path, load, read, standing
from lodestaff.job.packing import pack, unpack
from lodestaff.quantities.errors import JobError
from lodestaff.samples import sample_path


@pytest.fixture
def job_path(tmp_path):
    """A job without attachments of its own."""
    path = tmp_path / "far-byre.json"
    save_job(load_job(sample_path("far-byre")), path)
    return path


@pytest.fixture
def packed(job_path, tmp_path):
    append(job_path, "note", "gate stiff")
    pack(job_path, tmp_path / "sent.zip")
    return tmp_path / "sent.zip"


def test_pack_and_unpack_carry_all_three(job_path, tmp_path):
    photo = tmp_path / "board.jpg"
    photo.write_bytes(b"a picture of the board")
    digest = attach(job_path, photo)
    append(job_path, "note", "gate stiff")
    packed = tmp_path / "larkmoor.zip"
    assert pack(job_path, packed) == ["job.json", "journal.jsonl", f"files/{digest}"]
    copy = tmp_path / "elsewhere" / "job.json"
    copy.parent.mkdir()
    unpack(packed, copy)
    assert copy.read_bytes() == job_path.read_bytes()
    assert [entry.text for entry in read(copy)] == ["gate stiff"]
    assert read_attachment(copy, digest) == b"a picture of the board"
    with pytest.raises(JobError, match="already there"):
        unpack(packed, copy)


@pytest.mark.parametrize(
    ("members", "words"),
    [
        ({}, "holds no job.json"),
        ({"job.json": "{}"}, "no schema_version"),
        ({"job.json": None, "../evil.txt": "x"}, "does not belong there"),
        ({"job.json": None, "files/" + "0" * 64: "not its digest"}, "does not belong there"),
        ({"job.json": None, "files/../../evil": "x"}, "does not belong there"),
        ({"job.json": None, "journal.jsonl": "junk"}, "line 1 was cut off"),
        ({"job.json": None, "journal.jsonl": "junk\n"}, "line 1 is no journal entry"),
    ],
)
def test_hostile_packs_write_nothing(job_path, tmp_path, members, words):
    source = tmp_path / "bad.zip"
    with zipfile.ZipFile(source, "w") as archive:
        for name, content in members.items():
            archive.writestr(name, job_path.read_text() if content is None else content)
    target = tmp_path / "out" / "job.json"
    target.parent.mkdir()
    with pytest.raises(JobError, match=words):
        unpack(source, target)
    assert list(target.parent.iterdir()) == []


def test_what_is_no_pack_is_refused(job_path, tmp_path):
    with pytest.raises(JobError, match="not a packed job"):
        unpack(job_path, tmp_path / "out.json")


def test_a_member_that_stands_twice_is_refused(job_path, tmp_path):
    source = tmp_path / "bad.zip"
    with zipfile.ZipFile(source, "w") as archive:
        archive.writestr("job.json", job_path.read_text())
        with pytest.warns(UserWarning, match="Duplicate name"):
            archive.writestr("job.json", "{}")
    with pytest.raises(JobError, match="twice"):
        unpack(source, tmp_path / "out.json")


@pytest.mark.parametrize("how", [zipfile.ZIP_LZMA, zipfile.ZIP_BZIP2])
def test_only_what_is_made_here_is_taken_apart(job_path, tmp_path, how):
    source = tmp_path / "odd.zip"
    with zipfile.ZipFile(source, "w", how) as archive:
        archive.writestr("job.json", job_path.read_text())
    with pytest.raises(JobError, match="in a way that isn't read"):
        unpack(source, tmp_path / "out.json")


def test_a_bomb_is_refused_before_it_is_taken_apart(job_path, tmp_path):
    source = tmp_path / "bomb.zip"
    with zipfile.ZipFile(source, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("job.json", b" " * 100_000_000)
    assert source.stat().st_size < 200_000
    with pytest.raises(JobError, match="out of all proportion"):
        unpack(source, tmp_path / "out.json")


def test_every_damaged_byte_is_one_error_or_no_harm(packed, tmp_path):
    raw = packed.read_bytes()
    packed_alike = 0
    for place in range(0, len(raw), max(1, len(raw) // 150)):
        damaged = tmp_path / "damaged.zip"
        damaged.write_bytes(raw[:place] + bytes([raw[place] ^ 0x5A]) + raw[place + 1 :])
        target = tmp_path / "out" / "job.json"
        try:
            unpack(damaged, target)
        except JobError:
            assert not target.exists()
        else:
            assert [entry.text for entry in read(target)] == ["gate stiff"]
            shutil.rmtree(target.parent)
            packed_alike += 1
    assert packed_alike < 75


def test_leftovers_of_killed_writers_are_not_packed(job_path, tmp_path):
    photo = tmp_path / "board.jpg"
    photo.write_bytes(b"a picture")
    digest = attach(job_path, photo)
    (folder_of(job_path) / f".{digest}.1234.x.part").write_bytes(b"half")
    assert pack(job_path, tmp_path / "sent.zip") == ["job.json", f"files/{digest}"]


def test_an_attachment_that_the_job_names_must_be_there(tmp_path):
    source = sample_path("larkmoor")
    assert digests_of(load_job(source))
    alone = tmp_path / "alone.json"
    shutil.copy(source, alone)
    with pytest.raises(JobError, match="--incomplete"):
        pack(alone, tmp_path / "sent.zip")
    pack(alone, tmp_path / "sent.zip", incomplete=True)
    with pytest.raises(JobError, match="lacks"):
        unpack(tmp_path / "sent.zip", tmp_path / "out.json")
    assert not (tmp_path / "out.json").exists()
    unpack(tmp_path / "sent.zip", tmp_path / "out.json", incomplete=True)


class TestAJournalThatLiesThere:
    @pytest.fixture
    def target(self, tmp_path):
        target = tmp_path / "there" / "job.json"
        target.parent.mkdir()
        append(target, "reading", "Ze 0.21 ohm")
        return target

    def test_is_never_replaced_unasked(self, packed, target):
        with pytest.raises(JobError, match="--merge adds to it"):
            unpack(packed, target)
        assert [entry.text for entry in read(target)] == ["Ze 0.21 ohm"]
        assert not target.exists()

    def test_is_added_to_once(self, packed, target):
        for _ in range(2):
            unpack(packed, target, "merge")
            assert [entry.text for entry in read(target)] == ["Ze 0.21 ohm", "gate stiff"]
            target.unlink()

    def test_is_kept_under_another_name(self, packed, target):
        unpack(packed, target, "replace")
        assert [entry.text for entry in read(target)] == ["gate stiff"]
        (kept,) = target.parent.glob("job.journal-*.jsonl")
        assert "Ze 0.21 ohm" in kept.read_text(encoding="utf-8")


def test_a_damaged_journal_is_packed_with_its_damage_apart(job_path, tmp_path):
    append(job_path, "note", "one")
    with journal_path(job_path).open("ab") as stream:
        stream.write(b"junk\n")
    second = append(job_path, "reading", "two", data={"step": "a"})
    append(job_path, "correction", "misread", corrects=second.id)
    pack(job_path, tmp_path / "sent.zip")
    unpack(tmp_path / "sent.zip", tmp_path / "out.json")
    found = load(tmp_path / "out.json")
    assert [entry.text for entry in found.entries] == ["one", "two", "misread"]
    assert found.damaged == ()
    assert list(standing(found.entries, "reading")) == []
    assert b"junk" in aside_path(tmp_path / "out.json").read_bytes()
