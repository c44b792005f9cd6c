"""The published schema of the design document: JSON Schema with a name of its own; each property has a title,
and a unit where it is a quantity."""

from collections.abc import Iterator
from typing import Any, get_args

from pydantic import BaseModel

from lodestaff.catalogue.field_meta import rows_of
from lodestaff.job.model import SCHEMA_VERSION, Job

DIALECT = "https://json-schema.org/draft/2020-12/schema"
# What the end of a field's name says of its unit; a share, a count or a word has none.
UNITS = {
    "kwh_year": "kWh/year", "kwh": "kWh", "kw": "kW", "kva": "kVA", "w": "W", "v": "V", "a": "A", "m": "m",
    "mm": "mm", "mm2": "mm²", "m2": "m²", "deg": "°", "c": "°C", "k": "K", "h": "h", "s": "s", "min": "min",
    "ms": "ms", "pct": "%", "ohm": "Ω", "mohm": "mΩ", "kg": "kg", "hz": "Hz", "ma": "mA", "ka": "kA",
    "soc": "share", "ah": "Ah", "pct_per_k": "%/K", "w_m2": "W/m²", "w_m2_k": "W/(m²K)", "m_s": "m/s",
}  # fmt: skip


def job_schema() -> dict[str, Any]:
    """The schema. `unit` stands beside `title` where a number has one."""
    schema = Job.model_json_schema()
    named = {model.__name__: model for model in _models(Job, set())}
    for name, definition in (("Job", schema), *schema["$defs"].items()):
        rows = {row.key: row for row in rows_of(named[name])} if name in named else {}
        for key, field in definition.get("properties", {}).items():
            row = rows.get(key)
            field["title"] = row.words if row is not None else key.replace("_", " ")
            unit = (row.unit if row is not None else "") or _unit(key)
            if unit and "string" not in str(field.get("type", "")):
                field["unit"] = unit
    head = {"$schema": DIALECT, "$id": f"urn:lodestaff:job:{SCHEMA_VERSION}", "title": "Lodestaff job"}
    return {**head, **{key: value for key, value in schema.items() if key != "title"}}


def _unit(key: str) -> str:
    parts = key.split("_")
    ends = ("_".join(parts[-count:]) for count in (4, 3, 2, 1) if count < len(parts) or count == 1)
    return next((UNITS[end] for end in ends if end in UNITS), "") if len(parts) > 1 else ""


def _models(model: type[BaseModel], seen: set[type]) -> Iterator[type[BaseModel]]:
    """A model and all that its fields are made of."""
    if model in seen:
        return
    seen.add(model)
    yield model
    for info in model.model_fields.values():
        for inner in _inside(info.annotation):
            yield from _models(inner, seen)


def _inside(annotation: Any) -> Iterator[type[BaseModel]]:
    if isinstance(annotation, type) and issubclass(annotation, BaseModel):
        yield annotation
    for part in get_args(annotation):
        yield from _inside(part)
