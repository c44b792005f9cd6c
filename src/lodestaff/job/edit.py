"""One way to change a job: named changes by path, revalidated, giving a new job."""

from dataclasses import dataclass
from typing import Any

from pydantic import ValidationError

from lodestaff.job.model import Job
from lodestaff.quantities.errors import JobError


@dataclass(frozen=True)
class Change:
    """Set the value at a path; a step into a list names the part's id, as in circuits/fridges/role."""

    path: str
    value: Any


def edit(job: Job, *changes: Change) -> Job:
    """Apply changes in order and revalidate.

    Raises JobError naming the path and what would be right; the given job is never altered.
    """
    touched = {change.path.split("/")[0] for change in changes}
    data = _changed(job.model_dump(mode="json", include=touched), changes)
    rest = {name: getattr(job, name) for name in Job.model_fields if name not in data}
    try:
        return _sharing(job, Job.model_validate({**rest, **data}))
    except ValidationError:  # the whole of it, so that the error names the place
        return _sharing(job, validated(_changed(job.model_dump(mode="json"), changes)))


def _changed(data: dict[str, Any], changes: tuple[Change, ...]) -> dict[str, Any]:
    """Plain data with all changes in it."""
    for change in changes:
        _set(data, change.path.split("/"), change.value, change.path)
    return data


def _sharing(old: Job, new: Job) -> Job:
    """The new job with the old one's parts where they are the same: a step to undo takes what it changed."""
    shared: dict[str, Any] = {}
    for name in Job.model_fields:
        before, after = getattr(old, name), getattr(new, name)
        if before is after:
            continue
        if before == after:
            shared[name] = before
        elif isinstance(before, tuple) and isinstance(after, tuple):
            known = {part.id: part for part in before if hasattr(part, "id")}
            shared[name] = tuple(
                there if (there := known.get(getattr(part, "id", None))) == part else part for part in after
            )
    return new.model_copy(update=shared)


def validated(data: Any, where: str = "") -> Job:
    """Build a job from plain data, or say in one line what is wrong, where, and what would be right."""
    try:
        return Job.model_validate(data)
    except ValidationError as trouble:
        first = trouble.errors()[0]
        place = "/".join(_named(step, data, first["loc"][:index]) for index, step in enumerate(first["loc"]))
        more = f" (and {trouble.error_count() - 1} more)" if trouble.error_count() > 1 else ""
        message = first["msg"].removeprefix("Value error, ")
        given = first.get("input")
        shown = f", not {given!r}" if isinstance(given, str | int | float) and len(repr(given)) < 40 else ""
        spot = " ".join(part for part in (where, place) if part)
        raise JobError(message[0].lower() + message[1:] + shown + more, spot or "job") from trouble


def _named(step: Any, data: Any, before: tuple[Any, ...]) -> str:
    """The step of a path, with a list's index replaced by the part's id where it has one."""
    if not isinstance(step, int):
        return str(step)
    for earlier in before:
        try:
            data = data[earlier]
        except (KeyError, IndexError, TypeError):
            return str(step)
    part = data[step] if isinstance(data, list) and step < len(data) else None
    return str(part["id"]) if isinstance(part, dict) and "id" in part else str(step)


def _set(data: Any, steps: list[str], value: Any, path: str) -> None:
    for step in steps[:-1]:
        data = _into(data, step, path)
    last = steps[-1]
    if isinstance(data, list):
        index = _index(data, last, path)
        if value is None:
            del data[index]
        else:
            data[index] = value
    elif isinstance(data, dict) and (last in data or last.isidentifier()):
        data[last] = value
    else:
        raise JobError("there is no such place", path)


def _into(data: Any, step: str, path: str) -> Any:
    if isinstance(data, list):
        return data[_index(data, step, path)]
    if isinstance(data, dict) and step in data:
        return data[step]
    raise JobError(f"there is no {step!r}", path)


def _index(parts: list[Any], name: str, path: str) -> int:
    for index, part in enumerate(parts):
        if isinstance(part, dict) and part.get("id") == name:
            return index
    raise JobError(f"there is no part with the id {name!r}", path)
