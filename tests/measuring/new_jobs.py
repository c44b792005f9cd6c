"""New jobs of all kinds, seeded, made ready for a rehearsal: what a first visit would have told is filled
in."""

import random
from typing import get_args

from lodestaff.job import Change, edit
from lodestaff.quantities.errors import JobError
from lodestaff.templates import compose
from lodestaff.templates.wanted import Building, Family, Wanted

SYSTEMS = {
    "uk": ("single phase", "two of three phases", "three phases"),
    "anz": ("single phase", "two of three phases", "three phases"),
    "na": ("120/240 V", "120/208 V", "three phases"),
}
READ = {"known": "read on site", "note": "", "date": "2026-11-02"}


def _choices(draw: random.Random) -> dict[str, object]:
    pack = draw.choice(("uk", "anz", "na"))
    return {
        "pack": pack,
        "grid": draw.random() > 0.15,
        "system": draw.choice(SYSTEMS[pack]),
        "rating_a": draw.choice((63, 80, 100, 200)),
        "earthing": "MEN" if pack == "anz" else draw.choice(("TN-C-S", "TN-S", "TT")),
        "existing": draw.choice(("none", "none", "string inverter")),
        "charger": draw.random() < 0.3,
        "generator": draw.random() < 0.25,
        "second_building": draw.random() < 0.25,
        "family": draw.choice(get_args(Family)),
        "units": draw.choice((1, 1, 1, 2, 3)),
        "arrangement": draw.choice(("together", "together", "one on each phase", "side by side", "across "
        "all phases")),
        "backup": draw.choice(("none", "outlet", "panel", "panel", "whole building", "whole building")),
        "bypass": draw.choice(("none", "by hand", "automatic")),
        "interlock": draw.random() < 0.2,
        "shutdown": draw.random() < 0.2,
        "optimisers": draw.choice(("none", "none", "some", "all")),
        "surplus": draw.random() < 0.25,
        "metered": draw.random() < 0.25,
        "outbuilding": draw.random() < 0.15,
        "chosen_loads_ct": draw.random() < 0.15,
        "circuits": draw.choice(get_args(Building)),
    }  # fmt: skip


def new_job(seed: int):
    """A new job by a seed: choices are drawn until they may stand together; then it is made ready."""
    draw = random.Random(seed)
    while True:
        try:
            job = compose(Wanted.model_validate(_choices(draw)))
        except (JobError, ValueError):
            continue
        return made_ready(job)


def made_ready(job):
    """Permission for what stands there, the record low, and the supply as it was read."""
    kva = max(1.0, sum(job.sheet_of(unit).rated_kva for unit in job.units))
    changes = [Change("site/record_low_c", {"value": -12.0, **READ})]
    if job.mains.grid:
        changes += [
            Change("site/permission/parallel_state", "granted"),
            Change("site/permission/parallel_kva", {"value": kva, **READ}),
            Change("site/permission/export_kw", {"value": 5.0, **READ}),
            Change("site/permission/state", "granted"),
        ]
    return edit(job, *changes)
