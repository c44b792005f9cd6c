"""One writer: a lock names its process; what no longer runs on this host holds nothing."""

import json
import os
import subprocess
import sys
from dataclasses import replace

import pytest

from lodestaff.job.lock import Lock, lock_path, only_writer
from lodestaff.quantities.errors import JobError
from lodestaff.quantities.process import Process, this_process


@pytest.fixture
def path(tmp_path):
    return tmp_path / "job.json"


def held_by(path, **changes):
    lock_path(path).write_text(json.dumps(replace(this_process(), **changes).as_data()))


def test_one_holds_it_until_it_is_let_go(path):
    first, second = Lock(path), Lock(path)
    assert first.take()
    assert first.take()
    assert not second.take()
    assert second.holder() == this_process()
    second.release()  # not held there: nothing happens
    assert first.mine
    first.release()
    assert second.take()
    assert not first.mine


@pytest.mark.parametrize(
    ("changes", "taken"),
    [
        ({"start": "1"}, True),  # the number was given to another since
        ({"boot": "an earlier one"}, True),
        ({"pid": 2**22 + 1}, True),
        ({"host": "another"}, False),  # of another host nothing is known
        ({"space": "pid:[1]"}, False),  # nor of another container
        ({}, False),
    ],
)
def test_a_lock_is_stale_only_where_that_is_certain(path, changes, taken):
    held_by(path, **changes)
    assert Lock(path).take() is taken


@pytest.mark.parametrize("text", ["", "{", "[]", '{"host": "x"}', "[" * 4000])
def test_a_damaged_lock_holds_nothing(path, text):
    lock_path(path).write_text(text)
    assert Lock(path).take()


def test_taken_over_the_first_knows(path):
    first, second = Lock(path), Lock(path)
    first.take()
    second.take_over()
    assert second.mine
    assert not first.mine
    first.release()
    assert second.mine


def test_a_link_and_its_file_have_one_lock(path, tmp_path):
    path.write_text("{}")
    link = tmp_path / "link.json"
    link.symlink_to(path)
    assert lock_path(link) == lock_path(path)


@pytest.mark.skipif(os.geteuid() == 0, reason="root may write everywhere")
def test_a_folder_that_cannot_be_written_opens_to_read(path, tmp_path):
    tmp_path.chmod(0o555)
    lock = Lock(path)
    assert not lock.take()
    assert lock.read_only


def test_a_file_system_that_refuses_opens_to_read(path, monkeypatch):
    def refused(*_, **__):
        raise OSError(30, "Read-only file system")

    monkeypatch.setattr("lodestaff.quantities.disk.tempfile.mkstemp", refused)
    lock = Lock(path)
    assert not lock.take()
    assert lock.read_only


def test_a_command_waits_and_then_names_the_holder(path):
    holder = Lock(path)
    holder.take()
    with pytest.raises(JobError, match=f"is open in process {os.getpid()}"), only_writer(path, 0.1):
        pytest.fail("written")
    holder.release()
    with only_writer(path, 0.1):
        assert Lock(path).holder() == this_process()
    assert not lock_path(path).exists()


COUNT = """
import sys
from pathlib import Path
from lodestaff.job.lock import only_writer
number = Path(sys.argv[1])
for _ in range(60):
    with only_writer(number):
        number.write_text(str(int(number.read_text()) + 1))
"""


def test_processes_take_turns(path):
    path.write_text("0")
    running = [subprocess.Popen([sys.executable, "-c", COUNT, str(path)]) for _ in range(3)]
    assert [one.wait(120) for one in running] == [0, 0, 0]
    assert path.read_text() == "180"


def test_a_process_is_known_by_its_data():
    assert Process.of_data(this_process().as_data()) == this_process()
    assert this_process().may_run
    for data in (None, {}, {"host": "x"}, {"host": "x", "pid": "7"}, {"host": "x", "pid": -1}):
        assert Process.of_data(data) is None
