"""All checks, in the order of the stations: a reader finds the function for a code here."""

from lodestaff.checks import (  # noqa: F401  (each registers its checks)
    array,
    branches,
    commission,
    conductors,
    demand,
    drop,
    electrode,
    found,
    hands,
    isolating,
    limits,
    live,
    loads,
    permits,
    phases,
    prices,
    protection,
    site,
    storage,
    transfer,
    transformers,
    voltage,
    wire,
)
from lodestaff.checks.check import REGISTERED, Check
from lodestaff.quantities.errors import JobError

STATIONS = ("site", "loads", "array", "storage", "wire", "limits", "commission")
CHECKS: tuple[Check, ...] = tuple(sorted(REGISTERED, key=lambda one: (STATIONS.index(one.station), one.code)))


def checks_named(name: str) -> tuple[Check, ...]:
    """The checks of a code, or the one of a rule. Raises JobError where there is none."""
    named = tuple(one for one in CHECKS if name in (one.code, one.rule))
    if not named:
        codes = dict.fromkeys(one.code for one in CHECKS)
        raise JobError(f"no check {name!r}", right=f"codes: {', '.join(codes)}")
    return named
