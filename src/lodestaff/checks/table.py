"""All checks, in the order of the stations: a reader finds the function for a code here."""

from lodestaff.checks import (  # noqa: F401  (each registers its checks)
    ageing,
    array,
    branches,
    busbar,
    commission,
    conductors,
    connectors,
    demand,
    devices,
    drop,
    electrode,
    fill,
    found,
    generator,
    glands,
    guards,
    hands,
    isolating,
    labels,
    limits,
    live,
    loads,
    modes,
    mounting,
    optimisers,
    permits,
    phases,
    places,
    prices,
    protection,
    service,
    shade,
    sheets,
    site,
    storage,
    surge,
    transfer,
    transformers,
    voltage,
    windows,
    wire,
)
from lodestaff.checks.check import REGISTERED, Check
from lodestaff.quantities.errors import JobError

STATIONS = ("site", "loads", "array", "storage", "place", "wire", "limits", "commission")
CHECKS: tuple[Check, ...] = tuple(
    sorted(REGISTERED, key=lambda each: (STATIONS.index(each.station), each.code))
)


def checks_named(name: str) -> tuple[Check, ...]:
    """The checks of a code, or the one of a rule. Raises JobError where there is none."""
    named = tuple(each for each in CHECKS if name in (each.code, each.rule))
    if not named:
        codes = dict.fromkeys(each.code for each in CHECKS)
        raise JobError(f"no check {name!r}", right=f"codes: {', '.join(codes)}")
    return named
