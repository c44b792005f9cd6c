"""The design on disk: whole or not at all, and damaged files refused with place and cure."""

import json
import os
import subprocess
import sys
import textwrap
import time
from pathlib import Path

import pytest

from lodestaff.job import SCHEMA_VERSION, Change, edit, load_job, save_job
from lodestaff.job.file import job_text, parse_job
from lodestaff.quantities.errors import JobError
from lodestaff.samples import sample_path

DATA = Path(__file__).parents[1] / "data"


def test_a_job_comes_back_as_it_was_saved(larkmoor, tmp_path):
    path = tmp_path / "job.json"
    save_job(larkmoor, path)
    assert load_job(path) == larkmoor
    save_job(load_job(path), tmp_path / "again.json")
    assert path.read_bytes() == (tmp_path / "again.json").read_bytes()


def test_the_shipped_sample_is_written_as_the_program_writes(larkmoor, larkmoor_path):
    assert larkmoor_path.read_text(encoding="utf-8") == job_text(larkmoor)


def test_saving_leaves_nothing_beside_the_file(larkmoor, tmp_path):
    save_job(larkmoor, tmp_path / "job.json")
    save_job(larkmoor, tmp_path / "job.json")
    assert [entry.name for entry in tmp_path.iterdir()] == ["job.json"]


@pytest.mark.parametrize(
    ("name", "system"), [("larkmoor", "single phase"), ("quern-hall-joinery", "three phases")]
)
def test_a_document_of_no_system_or_another_is_told_by_its_phases(tmp_path, name, system):
    data = json.loads(sample_path(name).read_text())
    for wrong in (None, "120/240 V"):
        data["mains"] = {} if wrong is None else {"system": wrong}
        (tmp_path / "job.json").write_text(json.dumps(data))
        assert load_job(tmp_path / "job.json").mains.system == system


@pytest.mark.parametrize("version", [1, 2])
def test_an_older_job_is_brought_up_and_keeps_its_numbers(larkmoor, reckoner, version):
    """The sample as older versions wrote it: the same circuits, modules and limits, the same year to the
    bit."""
    old = load_job(DATA / f"larkmoor-version-{version}.json")
    assert old.schema_version == SCHEMA_VERSION
    later = {"use", "added", "device_a", "measured_w", "planned_w", "switched_by", "open_neutral", "sheet"}
    assert [c.model_dump(exclude=later) for c in old.circuits] == [
        c.model_dump(exclude=later) for c in larkmoor.circuits
    ]
    assert old.limits == larkmoor.limits
    assert [len(face.modules) for face in old.faces] == [10, 8]
    unknown = Change("faces/south-west/obstacles/obstacle-1/height_m", None)  # how high wasn't asked then
    assert reckoner.figures(old) == reckoner.figures(edit(larkmoor, unknown))


def damage(text: str, kind: str) -> bytes:
    data = json.loads(text)
    if kind == "cut off":
        return text[: len(text) // 2].encode()
    if kind == "empty":
        return b" \n"
    if kind == "not text":
        return b"\xff\xfe" + text.encode()[:100]
    if kind == "a list":
        return b"[1, 2]"
    if kind == "no version":
        del data["schema_version"]
    if kind == "newer":
        data["schema_version"] = 99
    if kind == "never published":
        data["schema_version"] = 0
    if kind == "misspelt":
        data["limits"]["reserv_soc"] = data["limits"].pop("reserve_soc")
    if kind == "NaN":
        return text.replace('"reserve_soc": 0.3', '"reserve_soc": NaN').encode()
    if kind == "deep":
        return b"[" * 100_000
    if kind == "old and damaged":
        return json.dumps({"schema_version": 1, "pack": "uk"}).encode()
    return json.dumps(data).encode()


@pytest.mark.parametrize(
    ("kind", "words"),
    [
        ("cut off", ["line", "column", "is not JSON", "restore"]),
        ("empty", ["is empty"]),
        ("not text", ["not UTF-8", "byte 0"]),
        ("a list", ["does not hold a job"]),
        ("no version", ["no schema_version"]),
        ("newer", ["version 99", "newer program"]),
        ("never published", ["version 0"]),
        ("misspelt", ["limits/reserve_soc", "ield required"]),
        ("NaN", ["NaN"]),
        ("deep", []),
        ("old and damaged", ["damaged for version 1", "unit"]),
    ],
)
def test_damaged_files_are_refused_with_place_and_cure(larkmoor, kind, words):
    with pytest.raises(JobError) as caught:
        parse_job(damage(job_text(larkmoor), kind), "bad.json")
    message = str(caught.value)
    assert "bad.json" in message
    assert "\n" not in message
    for word in words:
        assert word in message


@pytest.mark.parametrize(("path", "words"), [("nowhere/job.json", "no such file"), (".", "a folder")])
def test_files_that_are_not_there(tmp_path, path, words):
    with pytest.raises(JobError, match=words):
        load_job(tmp_path / path)


def test_saving_where_there_is_no_folder_says_so(larkmoor, tmp_path):
    with pytest.raises(JobError, match="that folder does not exist"):
        save_job(larkmoor, tmp_path / "nowhere" / "job.json")


def run(code: str, *arguments: str, **options) -> subprocess.CompletedProcess:
    return subprocess.run(
        [sys.executable, "-c", textwrap.dedent(code), *arguments],
        capture_output=True,
        text=True,
        timeout=60,
        **options,
    )


def test_a_full_disk_loses_nothing(larkmoor, tmp_path):
    """The kernel refuses a file over 4 kB, as a full disk would in mid-write: the file before is whole."""
    path = tmp_path / "job.json"
    save_job(larkmoor, path)
    before = path.read_bytes()
    done = run(
        """
        import resource, signal, sys
        from pathlib import Path
        from lodestaff.job import Change, edit, load_job, save_job
        from lodestaff.quantities.errors import JobError
        job = edit(load_job(Path(sys.argv[1])), Change("limits/reserve_soc", 0.9))
        signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
        resource.setrlimit(resource.RLIMIT_FSIZE, (4096, 4096))
        try:
            save_job(job, Path(sys.argv[1]))
        except JobError as trouble:
            print(trouble)
        """,
        str(path),
    )
    assert "could not be written" in done.stdout
    assert "the file on disk is as it was" in done.stdout
    assert path.read_bytes() == before
    assert [entry.name for entry in tmp_path.iterdir()] == ["job.json"]


@pytest.mark.skipif(
    os.geteuid() == 0 and not Path("/proc/version").exists(), reason="needs a read-only place"
)
def test_a_place_that_may_not_be_written(larkmoor):
    with pytest.raises(JobError, match="could not be written"):
        save_job(larkmoor, Path("/proc/job.json"))


SAVE_FOREVER = """
import sys
from pathlib import Path
from lodestaff.job import Change, edit, load_job, save_job
path = Path(sys.argv[1])
job = load_job(path)
for number in range(1, 100000):
    job = edit(job, Change("title", f"saved {number}"))
    save_job(job, path)
    print(number, flush=True)
"""


@pytest.mark.parametrize("after_s", [0.05, 0.11, 0.23, 0.37])
def test_killed_while_saving_the_last_acknowledged_state_is_there(larkmoor, tmp_path, after_s):
    """kill -9 at any moment: the file is whole, and not older than the last save that returned."""
    path = tmp_path / "job.json"
    save_job(larkmoor, path)
    with subprocess.Popen(
        [sys.executable, "-c", SAVE_FOREVER, str(path)], stdout=subprocess.PIPE, text=True
    ) as child:
        assert child.stdout is not None
        assert child.stdout.readline().strip() == "1"
        time.sleep(after_s)
        child.kill()
        acknowledged = [int(line) for line in child.stdout.read().split() if line.isdigit()]
    last = max([1, *acknowledged])
    found = int(load_job(path).title.removeprefix("saved "))
    assert found in (last, last + 1)
