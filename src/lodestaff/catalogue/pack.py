"""Rule packs: tables, words, colours and clause names as data; the calculations are shared."""

import json
from functools import cache
from importlib import resources
from typing import Literal

from pydantic import ValidationError

from lodestaff.catalogue.demand import DemandMethod
from lodestaff.catalogue.frozen import Frozen
from lodestaff.quantities import Provenance, Source
from lodestaff.quantities.errors import JobError


class PackValue(Frozen):
    """One value of a pack with its provenance; `corrected` marks a value the person has changed."""

    value: float
    unit: str
    source: str
    provenance: Provenance
    corrected: bool = False

    def cite(self) -> Source:
        return Source(self.source + (", corrected in this job" if self.corrected else ""), self.provenance)


class PackTable(Frozen):
    """A table of a pack: the first column is the key; the same provenance holds for every cell."""

    source: str
    provenance: Provenance
    unit: str
    columns: tuple[str, ...]
    rows: tuple[tuple[float | None, ...], ...]
    corrected: bool = False

    def row_keys(self) -> tuple[float, ...]:
        return tuple(row[0] for row in self.rows if row[0] is not None)

    def at(self, key: float, column: str) -> float:
        """The cell of a key and column. Raises JobError where the table has none."""
        place = self.columns.index(column) if column in self.columns else None
        for row in self.rows:
            if row[0] == key and place is not None and row[place] is not None:
                return float(row[place])  # type: ignore[arg-type]
        keys = ", ".join(f"{one:g}" for one in self.row_keys())
        raise JobError(
            f"no value for {key:g} {self.unit} in {column!r}", self.source, f"rows: {keys}; or correct the pack"
        )

    def above(self, key: float, column: str) -> float:
        """The cell of the next row at or above a key (a table is read on the safe side)."""
        return self.at(min((one for one in self.row_keys() if one >= key - 1e-9), default=key), column)

    def cite(self) -> Source:
        return Source(self.source + (", corrected in this job" if self.corrected else ""), self.provenance)


class Pack(Frozen):
    """A rule pack as shipped or as embedded in a job."""

    name: str
    title: str
    edition: str
    daylight_saving: str
    paper: Literal["A4", "Letter"] = "A4"
    symbols: Literal["IEC", "ANSI"] = "IEC"  # the public standard that the diagram's symbols follow
    conductor_rule: Literal["IEC", "NEC"] = "IEC"  # the inequality between current, device and conductor
    insulation_of: dict[str, str] = {"4D5 C": "70", "4D1 B": "70", "4E4 C": "90"}  # method -> column of `ambient`
    words: dict[str, str]
    conductor_colours: dict[str, str]
    values: dict[str, PackValue]
    demand: DemandMethod
    cautions: dict[str, str]
    tables: dict[str, PackTable] = {}

    def table(self, name: str) -> PackTable:
        if name not in self.tables:
            raise JobError(f"no table {name!r}", f"pack {self.name}", "add it to the pack's tables with its source")
        return self.tables[name]

    @property
    def methods(self) -> tuple[str, ...]:
        """Names of the methods of running a cable that the tables rate."""
        return (*self.insulation_of, "DC class 5")

    def word(self, idea: str) -> str:
        """The trade's word for an idea; an idea without a word is a fault of the pack."""
        if idea not in self.words:
            raise JobError(f"no word for {idea!r}", f"pack {self.name}", "add it to the pack's words")
        return self.words[idea]

    def caution(self, name: str) -> str:
        """A caution; one that an older edition lacks is the shipped edition's, for a warning is never left out."""
        if name in self.cautions:
            return self.cautions[name]
        shipped = load_pack(self.name if self.name in pack_names() else "uk")
        return shipped.cautions[name]

    def value(self, name: str) -> PackValue:
        if name not in self.values:
            raise JobError(f"no value {name!r}", f"pack {self.name}", "add it to the pack's values with its source")
        return self.values[name]


def _folder() -> resources.abc.Traversable:
    return resources.files("lodestaff.catalogue") / "packs"


def pack_names() -> list[str]:
    """Names of the shipped packs."""
    return sorted(entry.name[:-5] for entry in _folder().iterdir() if entry.name.endswith(".json"))


@cache
def load_pack(name: str) -> Pack:
    """Read a shipped pack. Raises JobError where there is none of that name."""
    if name not in pack_names():
        raise JobError(f"no rule pack {name!r}", right=f"packs: {', '.join(pack_names())}")
    try:
        return Pack.model_validate(json.loads((_folder() / f"{name}.json").read_text(encoding="utf-8")))
    except (ValidationError, ValueError) as trouble:
        raise JobError(f"the pack cannot be read: {trouble}", f"pack {name}") from trouble
