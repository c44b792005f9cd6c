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

from lodestaff.job import load_job
from lodestaff.measuring.rehearsal import as_if_permitted, rehearse
from lodestaff.plant import FAULTS, PlantStart
from lodestaff.plant.faults import fault_named, faults_of
from lodestaff.samples import sample_names, sample_path
from lodestaff.topology import build
from tests.measuring.new_jobs import new_job

PAGE = Path(__file__).parents[1] / "docs" / "faults.md"
SEEDS, NEW_JOBS = 5, 200
HEAD = """# What a rehearsal finds

Made by `./run bench` (`python -m benchmarks.rehearsals`): every fault that can occur in a sample is put into its
simulated site, alone, with {seeds} seeds of sky, meter and instruments, and the procedure is gone through. Each cell is the
step that found it; `–` where the fault can't occur there. {count} rehearsals, {wrong} not found by a declared step.
Without a fault all {samples} samples and {jobs} new jobs of all kinds pass ({failed} did not).

| fault | what is wrong |
|---|---|
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
    """The table as Markdown."""
    cells: dict[tuple[str, str], set[str]] = defaultdict(set)
    for name, fault, _, stopped, _ in rows:
        cells[name, fault].add(stopped or "not found")
    wrong = sum(not right for *_, right in rows)
    names = list(sample_names())
    text = HEAD.format(seeds=seeds, count=len(rows), wrong=wrong, samples=len(names), jobs=jobs, failed=failed)
    text += "".join(f"| `{fault.name}` | {fault.words} |\n" for fault in FAULTS)
    for name in names:
        text += f"\n## {name}\n\n| fault | found by |\n|---|---|\n"
        for fault in FAULTS:
            found = cells.get((name, fault.name))
            text += f"| `{fault.name}` | {', '.join(f'`{step}`' for step in sorted(found)) if found else '–'} |\n"
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
