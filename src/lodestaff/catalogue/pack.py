"""Rule packs: tables, words, colours and clause names as data; the calculations are shared."""

import json
from functools import cache
from importlib import resources
from pathlib import Path
from typing import Any, Literal, Self

from platformdirs import user_data_path
from pydantic import ValidationError, model_validator

from lodestaff.catalogue.begins import Begins
from lodestaff.catalogue.demand import DemandMethod
from lodestaff.catalogue.frozen import Frozen
from lodestaff.catalogue.placing import Placing
from lodestaff.catalogue.proposes import Proposes
from lodestaff.quantities import Provenance, Source
from lodestaff.quantities.convention import plain
from lodestaff.quantities.errors import JobError
from lodestaff.quantities.gauge import gauge_words


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

    @model_validator(mode="after")
    def _rows_fit(self) -> Self:
        if len(set(self.columns)) < len(self.columns):
            raise ValueError("a column stands twice")
        if any(len(row) != len(self.columns) for row in self.rows):
            raise ValueError(f"each row has {len(self.columns)} cells, as there are columns")
        return self

    def row_keys(self) -> tuple[float, ...]:
        return tuple(row[0] for row in self.rows if row[0] is not None)

    def at(self, key: float, column: str) -> float:
        """The cell of a key and column. Raises JobError where the table has none."""
        place = self.columns.index(column) if column in self.columns else None
        for row in self.rows:
            if row[0] == key and place is not None and row[place] is not None:
                return float(row[place])  # type: ignore[arg-type]
        keys = ", ".join(f"{each:g}" for each in self.row_keys())
        raise JobError(
            f"no value for {key:g} {self.unit} in {column!r}",
            self.source,
            f"rows: {keys}; or correct the pack",
        )

    def above(self, key: float, column: str) -> float:
        """The cell of the next row at or above a key that has one (a table is read on the safe side)."""
        place = self.columns.index(column) if column in self.columns else 0
        keys = (row[0] for row in self.rows if row[0] is not None and row[place] is not None)
        return self.at(min((size for size in keys if size >= key - 1e-9), default=key), column)

    def cite(self) -> Source:
        return Source(self.source + (", corrected in this job" if self.corrected else ""), self.provenance)


class Sizes(Frozen):
    """What conduits and trunkings have inside, mm², by the name of their size."""

    source: str
    provenance: Provenance
    sizes: dict[str, float]

    def cite(self) -> Source:
        return Source(self.source, self.provenance)


class Pack(Frozen):
    """A rule pack as shipped or as embedded in a job."""

    name: str
    title: str
    edition: str
    daylight_saving: str = ""  # of older editions: the rule in words; clocks go by the site's time zone
    time_zones: dict[str, str] = {}  # the usual one by the hours that standard time is ahead of UTC
    phase_names: tuple[str, str, str] | None = None
    dates: Literal["day first", "month first"] | None = None
    begins: Begins | None = None
    frequency_hz: Literal[50, 60] | None = None
    paper: Literal["A4", "Letter"] = "A4"
    symbols: Literal["IEC", "ANSI"] = "IEC"  # the public standard that the diagram's symbols follow
    conductor_rule: Literal["IEC", "NEC"] = "IEC"  # the inequality between current, device and conductor
    insulation_of: dict[str, str] = {
        "4D5 C": "70",
        "4D1 B": "70",
        "4E4 C": "90",
    }  # method -> column of `ambient`
    words: dict[str, str]
    conductor_colours: dict[str, str]
    values: dict[str, PackValue]
    demand: DemandMethod
    proposes: Proposes | None = None
    containments: Sizes | None = None
    placing: Placing | None = None
    cautions: dict[str, str]
    tables: dict[str, PackTable] = {}

    @property
    def shipped(self) -> "Pack":
        """The edition that ships under this name; the pack itself where none does."""
        return load_pack(self.name) if self.name in pack_names() else self

    @property
    def beginning(self) -> Begins:
        """What a new job begins with. Raises JobError where neither this nor the shipped edition says so."""
        start = self.begins or self.shipped.begins
        if start is None:
            raise JobError("doesn't say what a job begins with", f"pack {self.name}", "add its begins")
        return start

    @property
    def places(self) -> Placing | None:
        """Where batteries may stand; an older edition goes by the shipped one's."""
        return self.placing or self.shipped.placing

    @property
    def hz(self) -> int:
        """The frequency of its grids; an older edition goes by the shipped one's."""
        return self.frequency_hz or self.shipped.frequency_hz or 50

    @property
    def legs(self) -> tuple[str, ...]:
        """Names of the phases or legs, in the pack's way; an older edition goes by the shipped one's."""
        return self.phase_names or self.shipped.phase_names or ("L1", "L2", "L3")

    @property
    def month_first(self) -> bool:
        """Whether dates in figures begin with the month."""
        return (self.dates or self.shipped.dates) == "month first"

    def zone_at(self, utc_offset_h: float) -> str | None:
        """The time zone that is usual at an offset; None where the pack knows none."""
        return (self.time_zones or self.shipped.time_zones).get(f"{utc_offset_h:g}")

    def table(self, name: str) -> PackTable:
        if name not in self.tables:
            raise JobError(
                f"no table {name!r}", f"pack {self.name}", "add it to the pack's tables with its source"
            )
        return self.tables[name]

    def size_words(self, mm2: float) -> str:
        """A conductor's size as people of the pack say it."""
        return gauge_words(mm2) if self.conductor_rule == "NEC" else f"{plain(mm2)} mm²"

    @property
    def usual_runs(self) -> Proposes:
        """How runs are proposed; an older edition goes by the shipped one's. Raises JobError where neither
        says."""
        proposer = self.proposes or self.shipped.proposes
        if proposer is None:
            raise JobError("doesn't say how runs are proposed", f"pack {self.name}", "add its proposes")
        return proposer

    def usual_table(self, name: str) -> PackTable:
        """A table; one that an older edition lacks is the shipped edition's."""
        return (self if name in self.tables else self.shipped).table(name)

    @property
    def containment_sizes(self) -> dict[str, float]:
        """What each size of conduit or trunking has inside, mm²; in an older edition the shipped one's."""
        sizing = self.containments or self.shipped.containments
        return sizing.sizes if sizing is not None else {}

    def conductor_c(self, method: str) -> float | None:
        """The conductor's temperature that a method's column counts on, °C; None for a table that gives
        none."""
        number = self.insulation_of.get(method, "").removesuffix(" ground")
        return float(number) if number else None

    def buried(self, method: str) -> bool:
        """Whether cables of a method lie in the ground."""
        return self.insulation_of.get(method, "").endswith("ground")

    def around(self, method: str) -> PackValue:
        """The temperature around cables of a method where nobody said otherwise, °C."""
        name = "ground_c" if self.buried(method) else "air_c"
        return self.values.get(name) or self.shipped.value(name)

    @property
    def methods(self) -> tuple[str, ...]:
        """Names of the methods of running a cable that the tables rate."""
        return (*self.insulation_of, "DC class 5")

    def word(self, idea: str) -> str:
        """The trade's word for an idea; an idea without a word is a fault of the pack."""
        said = self.words.get(idea) or _as_shipped(self.name).words.get(idea)
        if said is None:
            raise JobError(f"no word for {idea!r}", f"pack {self.name}", "add it to the pack's words")
        return said

    @property
    def all_words(self) -> dict[str, str]:
        """Its words; what an older edition or one of a person's own has no word for is said as shipped."""
        return {**_as_shipped(self.name).words, **self.words}

    def caution(self, name: str) -> str:
        """A caution; one that an older edition lacks is the shipped edition's, for a warning is never left
        out."""
        if name in self.cautions:
            return self.cautions[name]
        return _as_shipped(self.name).cautions[name]

    def value(self, name: str) -> PackValue:
        if name not in self.values:
            raise JobError(
                f"no value {name!r}", f"pack {self.name}", "add it to the pack's values with its source"
            )
        return self.values[name]


def own_packs() -> Path:
    """Where a person's own packs lie, beside those that ship."""
    return user_data_path("lodestaff") / "packs"


def _files() -> dict[str, Any]:
    """Packs by name: those that ship, and the person's own, which go by names of their own."""
    own = own_packs()
    paths = {path.stem: path for path in own.glob("*.json")} if own.is_dir() else {}
    shipped = resources.files("lodestaff.catalogue") / "packs"
    return {**paths, **{file.name[:-5]: file for file in shipped.iterdir() if file.name.endswith(".json")}}


def pack_names() -> list[str]:
    """Names of the packs that there are."""
    return sorted(_files())


@cache
def _as_shipped(name: str) -> Pack:
    """The pack of that name that is here; of one that isn't, what any pack says."""
    return load_pack(name if name in pack_names() else "uk")


@cache
def load_pack(name: str) -> Pack:
    """Read a shipped pack. Raises JobError where there is none of that name."""
    files = _files()
    if name not in files:
        raise JobError(f"no rule pack {name!r}", right=f"packs: {', '.join(sorted(files))}")
    try:
        return Pack.model_validate(json.loads(files[name].read_text(encoding="utf-8")))
    except (ValidationError, ValueError) as trouble:
        raise JobError(f"the pack cannot be read: {trouble}", f"pack {name}") from trouble
