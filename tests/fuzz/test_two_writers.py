"""Two processes on one job in random order: nothing is lost, nothing withdrawn that wasn't named."""

import shutil
import subprocess
import sys

from lodestaff.job import load_job
from lodestaff.job.journal import read, standing
from lodestaff.job.lock import lock_path
from lodestaff.samples import sample_path

WORK = """
import contextlib, io, random, sys
from pathlib import Path
from lodestaff.job.journal import append
from lodestaff.main import main
path, name = Path(sys.argv[1]), sys.argv[2]
rnd, mine = random.Random(name), []
for number in range(14):
    what = rnd.choice(["adjust", "note", "note", "withdraw"])
    if what == "adjust":
        words = ["insert", f"id={name}{number}", "name=Extra meter", "what=meter", "into=hybrid:grid"]
        with contextlib.redirect_stdout(io.StringIO()):
            assert main(["adjust", str(path), "--add", *words]) == 0
        print("adjusted", f"{name}{number}", flush=True)
    elif what == "note" or not mine:
        mine.append(append(path, "reading", f"{name}{number}", data={"step": "a"}))
        print("recorded", f"{name}{number}", flush=True)
    else:
        gone = mine.pop(rnd.randrange(len(mine)))
        append(path, "correction", "misread", corrects=gone.id)
        print("withdrawn", gone.text, flush=True)
"""


def test_two_processes_in_random_order(tmp_path):
    path = tmp_path / "job.json"
    shutil.copy(sample_path("larkmoor"), path)
    before = {one.id for one in load_job(path).adjustments}
    running = [
        subprocess.Popen([sys.executable, "-c", WORK, str(path), name], stdout=subprocess.PIPE, text=True)
        for name in ("a", "b")
    ]
    said = [line.split() for one in running for line in one.communicate(timeout=200)[0].splitlines()]
    assert [one.returncode for one in running] == [0, 0]
    told = {
        what: {name for kind, name in said if kind == what} for what in ("adjusted", "recorded", "withdrawn")
    }
    assert told["adjusted"]
    assert {one.id for one in load_job(path).adjustments} == before | told["adjusted"]
    stands = {entry.text for _, entry in standing(read(path), "reading")}
    assert stands == told["recorded"] - told["withdrawn"]
    assert not lock_path(path).exists()
