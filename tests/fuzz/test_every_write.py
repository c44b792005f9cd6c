"""A disk that refuses or tears what is written, at every call in turn: what was there stays, or is new."""

import errno
import os
import shutil

import pytest

from lodestaff.job import Change, edit, load_job
from lodestaff.job.attachments import attach, read_attachment
from lodestaff.job.journal import append, load
from lodestaff.job.laying import lay
from lodestaff.job.lock import Lock
from lodestaff.job.packing import pack, unpack
from lodestaff.quantities.errors import JobError
from lodestaff.samples import sample_path

CALLS = ("open", "write", "fsync", "replace", "rename", "ftruncate", "mkdir", "chmod", "unlink")
MOST = 400


class Disk:
    """The calls of `os` that change a disk; the one with a number fails, and with `for_good` all after it."""

    def __init__(self, fails_at, for_good, code=errno.ENOSPC):
        self.count, self.fails_at, self.for_good, self.code = 0, fails_at, for_good, code
        self.failed = False

    def wrapped(self, call, real):
        def told(*given, **more):
            if call == "open" and not given[1] & (os.O_CREAT | os.O_WRONLY | os.O_RDWR):
                return real(*given, **more)
            self.count += 1
            if self.count == self.fails_at or (self.for_good and self.count > self.fails_at):
                self.failed = True
                if call == "write" and len(given[1]) > 1:  # torn: half of it is on disk
                    real(given[0], given[1][: len(given[1]) // 2])
                raise OSError(self.code, os.strerror(self.code))
            return real(*given, **more)

        return told


def torn(monkeypatch, action, check, for_good):
    """Run an action with a failure at every call in turn, and check what is left after each."""
    import io

    for number in range(1, MOST):
        disk = Disk(number, for_good)
        with monkeypatch.context() as patched:
            for call in CALLS:
                patched.setattr(os, call, disk.wrapped(call, getattr(os, call)))
            real = io.open

            def opened(file, mode="r", *given, real=real, disk=disk, **more):
                stream = real(file, mode, *given, **more)
                if any(sign in mode for sign in "wa+") and "b" in mode:
                    return Torn(stream, disk)
                return stream

            patched.setattr("pathlib.io.open", opened)
            patched.setattr(os, "fdopen", lambda fd, mode="r", *a, **k: opened(fd, mode, *a, **k))
            try:
                action(number)
                done = True
            except (JobError, OSError):
                done = False
        check(number, done)
        if not disk.failed:
            return number
    raise AssertionError("never came to an end")


class Torn:
    """A stream whose writes are counted and torn."""

    def __init__(self, stream, disk):
        self._stream = stream
        self._write = disk.wrapped("write", lambda _, data: stream.raw.write(data) if data else 0)

    def write(self, data):
        self._stream.flush()
        self._write(None, bytes(data))
        return len(data)

    def __enter__(self):
        return self

    def __exit__(self, *_):
        self._stream.close()

    def __getattr__(self, name):
        return getattr(self._stream, name)


@pytest.fixture
def path(tmp_path):
    path = tmp_path / "job.json"
    shutil.copy(sample_path("far-byre"), path)
    return path


@pytest.mark.parametrize("for_good", [False, True])
class TestEveryWrite:
    def test_saving(self, path, monkeypatch, for_good):
        job = load_job(path)
        last = job.limits.reserve_soc

        def save(number):
            lay(edit(job, Change("limits/reserve_soc", 0.2 + number / 1000)), path, (path,), path)

        def check(number, done):
            nonlocal last
            now = load_job(path).limits.reserve_soc
            assert now in ((0.2 + number / 1000,) if done else (last, 0.2 + number / 1000))
            last = now

        assert torn(monkeypatch, save, check, for_good) > 4

    def test_recording(self, path, monkeypatch, for_good):
        kept = []

        def check(number, done):
            texts = [entry.text for entry in load(path).entries]
            if done or (for_good and texts[-1:] == [str(number)]):  # there it says that it can't tell
                kept.append(str(number))
            assert texts == kept, number

        assert torn(monkeypatch, lambda n: append(path, "reading", str(n)), check, for_good) >= 3
        append(path, "reading", "after")
        assert [entry.text for entry in load(path).entries] == [*kept, "after"]

    def test_attaching(self, path, tmp_path, monkeypatch, for_good):
        photo = tmp_path / "photo"
        kept = []

        def act(number):
            kept.append(attach(path, photo))

        def check(number, _done):
            photo.write_bytes(b"a picture" * 100 + str(number).encode())
            assert all(read_attachment(path, digest) for digest in kept)

        check(0, True)
        assert torn(monkeypatch, act, check, for_good) > 3

    def test_unpacking(self, path, tmp_path, monkeypatch, for_good):
        append(path, "note", "gate stiff")
        pack(path, tmp_path / "sent.zip")
        place = tmp_path / "out"

        def check(_number, done):
            target = place / "job.json"
            assert target.exists() or not done
            if target.exists():  # the job is written last: with it all of it is there
                assert [entry.text for entry in load(target).entries] == ["gate stiff"]
            shutil.rmtree(place, ignore_errors=True)

        assert (
            torn(monkeypatch, lambda _: unpack(tmp_path / "sent.zip", place / "job.json"), check, for_good)
            > 5
        )

    def test_locking(self, path, monkeypatch, for_good):
        if for_good:
            pytest.skip("a lock that can't be taken away goes with its process")

        def check(_number, done):
            lock = Lock(path)
            assert lock.take()
            lock.release()

        def act(_number):
            lock = Lock(path)
            if lock.take():
                lock.release()
                lock.path.unlink(missing_ok=True)

        assert torn(monkeypatch, act, check, for_good) > 2
