"""Records of the site that grow: found devices, permits, limits until a date, choices. Made and taken out
as one step."""

from dataclasses import dataclass
from typing import Any

from lodestaff.job import Change, Job

FOUND = ("board", "generation", "car charger", "heat pump", "generator", "conductor", "other")
PERMITS = ("main fuse", "seal", "consent", "inspection")
INTERIM = ("main fuse", "export", "generation")


@dataclass(frozen=True)
class Addition:
    """Something that can be added: its words in the menu, the list it goes into, and the record to begin
    with."""

    words: str
    path: str
    stem: str
    record: dict[str, Any]


def additions(job: Job) -> tuple[Addition, ...]:
    """All that can be added, in the pack's words."""
    cutout = job.pack.word("cutout")
    board = job.pack.word("board")
    extras = [
        Addition(
            f"Found: {what if what != 'board' else board}",
            "site/found",
            what.replace(" ", "-"),
            {
                "what": what,
                "name": {"board": f"Old {board}", "conductor": "Old conductor"}.get(what, what.capitalize()),
            },
        )
        for what in FOUND
    ]
    permits = [
        Addition(f"Permit: {what}", "site/permits", what.replace(" ", "-"), {"kind": what})
        for what in PERMITS
    ]
    amps = job.site.supply.rating_a.value or job.pack.value("usual_service_a").value
    start = {"main fuse": amps, "export": 0.0, "generation": 0.0}
    limits = [
        Addition(
            f"Until a date: {what if what != 'main fuse' else f'smaller fuse in the {cutout}'}",
            "site/interim",
            f"until-{what.replace(' ', '-')}",
            {"what": what, "value": start[what]},
        )
        for what in INTERIM
    ]
    return (
        *extras,
        *permits,
        *limits,
        Addition("Choice of the customer", "choices", "choice", {"about": "What was asked"}),
    )


def records_at(job: Job, path: str) -> list[dict[str, Any]]:
    """The records of a list as plain data."""
    node: Any = job
    for step in path.split("/"):
        node = getattr(node, step)
    return [record.model_dump(mode="json") for record in node]


def added(job: Job, addition: Addition) -> tuple[str, Change]:
    """A new record in its list: its path, and the change that makes it."""
    rows = records_at(job, addition.path)
    taken = {row["id"] for row in rows}
    id = next(
        name
        for name in (addition.stem, *(f"{addition.stem}-{n}" for n in range(2, 1000)))
        if name not in taken
    )
    return f"{addition.path}/{id}", Change(addition.path, [*rows, {"id": id, **addition.record}])


def record_path(path: str) -> str:
    """The path of the record that a row belongs to; '' for a row of no record."""
    steps = path.split("/")
    for length in (2, 3):
        if (
            "/".join(steps[: length - 1]) in ("site/found", "site/permits", "site/interim", "choices")
            and len(steps) > length
        ):
            return "/".join(steps[:length])
    return ""


def without(job: Job, path: str) -> Change:
    """A record taken out of its list."""
    where, _, id = path.rpartition("/")
    return Change(where, [row for row in records_at(job, where) if row["id"] != id])
