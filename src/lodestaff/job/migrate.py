"""Older job documents are brought up one version at a time."""

from collections.abc import Callable
from typing import Any

from lodestaff.catalogue import load_pack
from lodestaff.job.model import SCHEMA_VERSION
from lodestaff.job.plan import LEGS
from lodestaff.quantities.errors import JobError

Document = dict[str, Any]
MOST_MODULES = 400  # of one face; more is damage, not a roof


def migrated(data: Any, name: str) -> Document:
    """Bring a document to the present version. Raises JobError for one that is newer or none at all."""
    if not isinstance(data, dict):
        raise JobError("does not hold a job (a JSON object is expected)", name)
    version = data.get("schema_version")
    if not isinstance(version, int) or isinstance(version, bool):
        raise JobError(
            "has no schema_version", name, f"a job of this program has one, at most {SCHEMA_VERSION}"
        )
    if version > SCHEMA_VERSION:
        raise JobError(
            f"is of version {version}; this program reads up to {SCHEMA_VERSION}", name, "use a newer program"
        )
    document: Document = data
    while version < SCHEMA_VERSION:
        step = STEPS.get(version)
        if step is None:
            raise JobError(f"is of version {version}, which was never published", name)
        try:
            document = step(document)
        except JobError as trouble:
            raise JobError(trouble.what, f"{name} {trouble.where}".strip(), trouble.right) from trouble
        except (KeyError, TypeError, AttributeError, ValueError) as trouble:
            raise JobError(
                f"is damaged for version {version}: {trouble} is missing or wrong", name
            ) from trouble
        version = document["schema_version"]
    return _with_its_system(document)


SYSTEM_OF = {1: "single phase", 2: "two of three phases", 3: "three phases"}


def _with_its_system(data: Document) -> Document:
    """Documents that don't say what kind of supply stands there, or another than their phases make: it is
    told by these."""
    site, mains = data.get("site"), data.get("mains", {})
    phases = site.get("phases") if isinstance(site, dict) else None
    if not isinstance(mains, dict) or not isinstance(phases, list):
        return data
    if LEGS.get(str(mains.get("system"))) == len(phases) or mains.get("system", "single phase") not in LEGS:
        return data  # what is no system at all is said when the job is made
    return {**data, "mains": {**mains, "system": SYSTEM_OF.get(len(phases), "single phase")}}


def _one_to_two(data: Document) -> Document:
    """Version 1 named its pack only, had one unit, and kept the reserve and shed level in percent."""
    new = {key: value for key, value in data.items() if key not in ("unit", "bank")}
    new["schema_version"] = 2
    new["pack"] = load_pack(data["pack"]).model_dump(mode="json")
    new["units"] = [data["unit"]]
    new["banks"] = [{**data["bank"], "unit": data["unit"]["id"]}]
    limits = dict(data["limits"])
    limits["reserve_soc"] = limits.pop("reserve_pct") / 100
    limits["shed_soc"] = limits.pop("shed_pct") / 100
    new["limits"] = limits
    return new


def _two_to_three(data: Document) -> Document:
    """Version 2 counted a face's modules; they are placed now, in two rows, a string for each face.

    Tables and values that its pack lacks are taken from the shipped one; those it has stay as they are.
    """
    new = {**data, "schema_version": 3}
    shipped = load_pack(data["pack"]["name"]).model_dump(mode="json")
    new["pack"] = {
        **data["pack"],
        "values": {**shipped["values"], **data["pack"]["values"]},
        "tables": {**shipped["tables"], **data["pack"].get("tables", {})},
    }
    new["faces"], new["strings"] = [], []
    for number, face in enumerate(data["faces"], start=1):
        sheet = data["sheets"]["modules"][face["module"]]
        kept = {key: value for key, value in face.items() if key not in ("count", "unit", "tracker")}
        string = f"string-{number}"
        new["strings"].append(
            {"id": string, "name": str(number), "unit": face["unit"], "tracker": face["tracker"]}
        )
        if face["count"] > MOST_MODULES:
            raise JobError(
                f"a face counts {face['count']} modules", f"faces {number}", f"at most {MOST_MODULES}"
            )
        columns = -(-face["count"] // 2)
        step_x, step_y = sheet["width_m"] + 0.02, sheet["length_m"] + 0.02
        kept["modules"] = [
            {
                "id": f"m{index + 1}",
                "x_m": round(0.3 + index % columns * step_x, 3),
                "y_m": round(0.3 + index // columns * step_y, 3),
                "string": string,
            }
            for index in range(face["count"])
        ]
        kept["width_m"], kept["height_m"] = round(0.6 + columns * step_x, 2), round(0.6 + 2 * step_y, 2)
        new["faces"].append(kept)
    return new


def _three_to_four(data: Document) -> Document:
    """Version 3 knew hybrids on one phase with an essential board each; what it says stands as it is.

    Values that its pack lacks are taken from the shipped one.
    """
    shipped = load_pack(data["pack"]["name"]).model_dump(mode="json")
    pack = {**data["pack"], "values": {**shipped["values"], **data["pack"]["values"]}}
    pack["words"] = {**shipped["words"], **data["pack"]["words"]}
    return {**data, "schema_version": 4, "pack": pack}


def _four_to_five(data: Document) -> Document:
    """Version 4 had no found devices, permits, interval data or choices; what its pack lacks is the shipped
    one's."""
    shipped = load_pack(data["pack"]["name"]).model_dump(mode="json")
    pack = {**shipped, **data["pack"]}
    for part in ("values", "words", "tables"):
        pack[part] = {**shipped[part], **data["pack"].get(part, {})}
    return {**data, "schema_version": 5, "pack": pack}


STEPS: dict[int, Callable[[Document], Document]] = {
    1: _one_to_two,
    2: _two_to_three,
    3: _three_to_four,
    4: _four_to_five,
}
