"""What a check of a run of cable takes: what flows in it, by leg, and the cable that was chosen."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Literal

from lodestaff.catalogue import Pack
from lodestaff.catalogue.proposes import RunUse
from lodestaff.checks.finding import Finding, Findings, Remedy, Verdict, cure
from lodestaff.checks.makers import open_
from lodestaff.job import Cable, Site
from lodestaff.quantities import Provenance, Source, text_of
from lodestaff.quantities.errors import JobError

DC_TABLE = "DC class 5"
UNDECIDED = Source("the run has no cable yet", Provenance.JOB)
TABLES = Source("the pack's tables", Provenance.JOB)
RunKind = Literal["AC source", "AC load", "battery", "array"]


@dataclass(frozen=True)
class Run:
    """One run. `load_a` flows towards circuits, `source_a` back from sources, A by leg, each in its worst
    state.

    `voltage_v` is line to neutral on AC, the string's Vmp on an array's run, the bank's lowest on a
    battery's; None where it isn't known. `legs` counts line conductors. `isc_a` is the plain sum of the
    short-circuit currents of strings that share a pair of conductors, and `pairs` how many pairs there are.
    `unknown` says why the design current itself is not known.
    """

    id: str
    name: str
    kind: RunKind
    pack: Pack
    site: Site
    cable: Cable | None
    voltage_v: float | None
    load_a: tuple[tuple[str, float], ...] = ()
    source_a: tuple[tuple[str, float], ...] = ()
    legs: int = 2
    angles_deg: tuple[float, ...] = (0.0,)  # of the legs' voltages
    use: RunUse = "feed"
    two_way: bool = False
    on_island: bool = False  # whether a unit alone may feed it
    guarded_ahead: bool = False  # whether a residual-current device of another run stands ahead of it
    outlet: bool = False  # whether it ends in sockets that a unit feeds
    state: str = ""  # in which it carries most
    isc_a: float = 0.0
    pairs: int = 1
    asked_rcd_type: str | None = None  # by the sheet of the unit that it feeds
    terminals_c: str | None = None
    unknown: tuple[str, ...] = ()

    @property
    def owner(self) -> str:
        return self.id

    @property
    def chosen(self) -> Cable:
        """The cable, where the caller has seen that there is one."""
        assert self.cable is not None
        return self.cable

    @property
    def size(self) -> str:
        """The cable's size in words."""
        return self.pack.size_words(self.chosen.size_mm2)

    @property
    def load(self) -> float:
        return max((amps for _, amps in self.load_a), default=0.0)

    @property
    def source(self) -> float:
        return max((amps for _, amps in self.source_a), default=0.0)

    @property
    def design_a(self) -> float:
        """The most that flows in any leg."""
        return max(self.load, self.source)

    @property
    def dc(self) -> bool:
        return self.kind in ("battery", "array")

    def with_size(self, size: float) -> "Run":
        return replace(self, cable=self.chosen.model_copy(update={"size_mm2": size}))

    def sizes(self) -> tuple[float, ...]:
        """The sizes that the cable's table has."""
        if self.chosen.table == DC_TABLE:
            return self.pack.table(
                "dc_cables" if "dc_cables" in self.pack.tables else "copper_r20"
            ).row_keys()
        return tuple(size for size, *_ in self.pack.table("cables").rows if size is not None)

    def smallest(self, fits: "Callable[[Run], bool]") -> tuple[Remedy, ...]:
        """The cure by the next larger size of the table that fits; sizes that a table lacks are passed
        over."""
        for size in self.sizes():
            try:
                if size > self.chosen.size_mm2 and fits(self.with_size(size)):
                    return self.change(f"take {self.pack.size_words(size)}", "size_mm2", size)
            except JobError:
                continue
        return ()

    def change(self, words: str, field: str, value: object) -> tuple[Remedy, ...]:
        return cure(f"{self.name}: {words}", f"cables/{self.id}/{field}", value)


def carries(run: Run) -> str:
    """What a run carries, in words."""
    return "what it carries isn't known" if run.unknown else f"it carries {text_of(run.design_a, 'A')}"


def reckoned(run: Run, made: Callable[[Run], Findings]) -> Findings:
    """What a check makes of a run with a cable; open without one, and where the pack's tables don't have
    it."""
    if run.cable is None:
        yield _open(
            run,
            "no cable chosen yet; " + carries(run),
            ("the cable is unknown", *run.unknown),
            "Choose size, length and method.",
        )
        return
    try:
        yield from list(made(run))
    except JobError as trouble:
        # a size or method that the tables don't have: as bad as it could be
        yield open_(
            verdict=Verdict.BLOCKS,
            text=f"{run.name}: {trouble}.",
            because=("the pack's table has no such row",),
            unit="A",
            name=f"{run.name}: value of the table",
            formula="looked up by size and method",
            source=TABLES,
            advice="Choose a size of the table, or correct the pack.",
        )


def unreckoned(run: Run, why: str, advice: str) -> Finding:
    """A run whose current or volts are not known, or for which the pack has no table: open."""
    return _open(run, f"{carries(run)}; {why}", (why,), advice)


def _open(run: Run, words: str, because: tuple[str, ...], advice: str) -> Finding:
    return open_(
        text=f"{run.name}: {words}.",
        because=because,
        value=run.design_a,
        unit="A",
        name=f"{run.name}: design current",
        formula="from the design",
        source=UNDECIDED,
        note=f"Most in the state {run.state}." if run.state else "",
        advice=advice,
    )
