"""Who makes the records of which kind: each maker says so itself, by what it yields."""

from collections.abc import Callable, Iterator
from typing import Any, TypeVar, get_args, get_type_hints

from lodestaff.job import Job
from lodestaff.reckoning.reckoner import Reckoner

Maker = TypeVar("Maker", bound=Callable[[Reckoner, Job, bool], Iterator[Any]])
RECORDS: dict[type, Callable[[Reckoner, Job, bool], Iterator[Any]]] = {}


def makes(function: Maker) -> Maker:
    """Register a maker under the record that it yields. Its last argument is whether costly cures are
    looked for."""
    (record,) = get_args(get_type_hints(function)["return"])
    RECORDS[record] = function
    return function
