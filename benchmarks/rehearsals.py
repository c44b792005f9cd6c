"""Every fault that every sample can have, rehearsed with several seeds, and two hundred new jobs without one:
the table of docs/faults.md.

`python -m benchmarks.rehearsals` writes it; every line names what did not come out as declared.
"""

import argparse
import os
import time
from collections import defaultdict
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

from tests.measuring.new_jobs import new_job

from lodestaff.job import load_job
from lodestaff.measuring.rehearsal import as_if_permitted, rehearse
from lodestaff.plant import FAULTS, PlantStart
from lodestaff.plant.faults import fault_named, faults_of
from lodestaff.samples import sample_names, sample_path
from lodestaff.topology import build

PAGE = Path(__file__).parents[1] / "docs" / "faults.md"
SEEDS, NEW_JOBS = 5, 200
HEAD = """# What a rehearsal finds

Made by `./run bench` (`python -m benchmarks.rehearsals`): every fault that can occur in a sample is put into
its simulated site, alone, with {seeds} seeds of sky, meter and instruments; the procedure is gone through.
`✓`: found with every seed by a step that is declared beside the fault; `✗`: not; `·`: can't occur there.

{count} rehearsals, {wrong} not found by a declared step. Without a fault all samples pass, and of {jobs} new
jobs of all kinds {passed}.

"""


def one(work: tuple[str, str, int]) -> tuple[str, str, int, str, bool]:
    """A rehearsal of a sample with a fault: the step that stopped it, and whether it is a declared one."""
    name, fault, seed = work
    kept = fault_named(fault)
    found = rehearse(load_job(sample_path(name)), PlantStart(seed=seed, faults=(kept,)))
    stopped = found.stopped_at or ""
    return name, fault, seed, stopped, bool(stopped) and kept.is_caught_by(stopped)


def faultless(seed: int) -> tuple[int, str]:
    """A new job without a fault: '' where it passed, else the step."""
    return seed, rehearse(new_job(seed), PlantStart(seed=seed)).stopped_at or ""


def work_of(seeds: int) -> list[tuple[str, str, int]]:
    found = []
    for name in sample_names():
        job = as_if_permitted(load_job(sample_path(name)))
        for fault in faults_of(job, build(job)):
            found += [(name, fault.name, seed) for seed in range(1, seeds + 1)]
    return found


def page(rows: list[tuple[str, str, int, str, bool]], seeds: int, failed: int, jobs: int) -> str:
    """The table as Markdown: a row for each fault, a column for each sample."""
    right: dict[tuple[str, str], bool] = {}
    steps: dict[str, set[str]] = defaultdict(set)
    for name, fault, _, stopped, declared in rows:
        right[name, fault] = right.get((name, fault), True) and declared
        steps[fault].add(stopped or "nothing")
    names = list(sample_names())
    wrong = sum(not declared for *_, declared in rows)
    text = HEAD.format(seeds=seeds, count=len(rows), wrong=wrong, jobs=jobs, passed=jobs - failed)
    text += "Columns: " + ", ".join(f"{number} {name}" for number, name in enumerate(names, 1)) + ".\n\n"
    text += "| fault | " + " | ".join(str(number) for number in range(1, len(names) + 1)) + " |\n"
    text += "|---|" + "---|" * len(names) + "\n"
    for fault in FAULTS:
        cells = [
            ("✓" if right[name, fault.name] else "✗") if (name, fault.name) in right else "·"
            for name in names
        ]
        text += f"| `{fault.name}` | {' | '.join(cells)} |\n"
    text += "\n| fault | what is wrong | found by |\n|---|---|---|\n"
    for fault in FAULTS:
        found_by = ", ".join(f"`{step}`" for step in sorted(steps[fault.name]))
        text += f"| `{fault.name}` | {fault.words} | {found_by} |\n"
    return text


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--seeds", type=int, default=SEEDS)
    parser.add_argument("--jobs", type=int, default=NEW_JOBS)
    options = parser.parse_args()
    begins = time.perf_counter()
    with ProcessPoolExecutor(os.cpu_count()) as pool:
        rows = list(pool.map(one, work_of(options.seeds), chunksize=8))
        new = list(pool.map(faultless, range(options.jobs), chunksize=4))
    for name, fault, seed, stopped, right in rows:
        if not right:
            print(f"{name} {fault} seed {seed}: {stopped or 'not found'}")
    failed = [(seed, step) for seed, step in new if step]
    for seed, step in failed:
        print(f"new job {seed}: stopped at {step} without a fault")
    PAGE.write_text(page(rows, options.seeds, len(failed), options.jobs), encoding="utf-8")
    seconds = time.perf_counter() - begins
    print(f"{len(rows) + len(new)} rehearsals in {seconds:.0f} s")
    return int(bool(failed) or not all(right for *_, right in rows))


if __name__ == "__main__":
    raise SystemExit(main())
