"""Ways from the origin to boards and units, as runs one after the other."""

from collections.abc import Iterator

from lodestaff.checks.drop import Path
from lodestaff.checks.runs import Run
from lodestaff.job import Job
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.records.making import makes
from lodestaff.reckoning.records.runs import runs


@makes
def paths(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Path]:
    """To the last run of every way that carries loads, and from every unit that gives."""
    yield from paths_of(job, reckoner.wiring(job).before, tuple(runs(reckoner, job, False)))


def paths_of(job: Job, before: dict[str, tuple[str, ...]], all_runs: tuple[Run, ...]) -> tuple[Path, ...]:
    """The ways over these runs; `before` says of each run which stand between it and the origin."""
    known, pack = {run.id: run for run in all_runs if not run.dc}, job.pack
    last = set(known) - {above for run in known for above in before.get(run, ())}
    values = {**pack.shipped.values, **pack.values}
    all_paths = []
    for id, run in known.items():
        way = tuple(known[name] for name in (*before.get(id, ()), id) if name in known)
        if len(way) < 2:
            continue
        if id in last and run.load > 0 and run.use != "source":
            all_paths.append(Path(run, way, "drop", values.get("load_drop_total_pct")))
        if run.use == "source" and run.source > 0:
            all_paths.append(Path(run, way, "rise", values.get("generation_drop_pct")))
    return tuple(all_paths)
