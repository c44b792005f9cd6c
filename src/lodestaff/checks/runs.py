"""What a check of a run of cable takes: what flows in it, by leg, and the cable that was chosen."""

from dataclasses import dataclass, replace
from typing import Literal

from lodestaff.catalogue import Pack
from lodestaff.checks.finding import Finding, Remedy, Verdict
from lodestaff.job import Cable, Change, Site
from lodestaff.quantities import Figure, Provenance, Source, text_of
from lodestaff.quantities.errors import JobError

DC_TABLE = "DC class 5"
UNDECIDED = Source("the run has no cable yet", Provenance.JOB)
RunKind = Literal["AC source", "AC load", "battery", "array"]


@dataclass(frozen=True)
class Run:
    """One run. `load_a` flows towards circuits, `source_a` back from sources, A by leg, each in its worst state.

    `voltage_v` is line to neutral on AC, the string's Vmp on an array's run, the bank's lowest on a battery's; None
    where it isn't known. `legs` counts line conductors. `isc_a` is the plain sum of the strings' short-circuit
    currents. `unknown` says why the design current itself is not known.
    """

    id: str
    name: str
    kind: RunKind
    load_a: tuple[tuple[str, float], ...]
    source_a: tuple[tuple[str, float], ...]
    voltage_v: float | None
    legs: int
    cable: Cable | None
    pack: Pack
    site: Site
    two_way: bool = False
    on_island: bool = False  # whether a unit alone may feed it
    state: str = ""  # in which it carries most
    isc_a: float = 0.0
    asked_rcd_type: str | None = None  # by the sheet of the unit that it feeds
    terminals_c: str | None = None
    unknown: tuple[str, ...] = ()

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
        assert self.cable is not None
        return replace(self, cable=self.cable.model_copy(update={"size_mm2": size}))

    def sizes(self) -> tuple[float, ...]:
        """The sizes that the cable's table has."""
        assert self.cable is not None
        if self.cable.table == DC_TABLE:
            return self.pack.table("copper_r20").row_keys()
        return tuple(size for size, *_ in self.pack.table("cables").rows if size is not None)


def carries(run: Run) -> str:
    """What a run carries, in words."""
    if run.unknown:
        return "what it carries isn't known"
    return f"it carries {text_of(run.design_a, 'A')}"


def undecided(run: Run, code: str) -> list[Finding]:
    figure = Figure(f"{run.name}: design current", run.design_a, "A", "from the design", (), UNDECIDED, _state(run))
    return [
        Finding(
            code,
            Verdict.NOTES,
            f"{run.name}: no cable chosen yet; {carries(run)}.",
            figure,
            None,
            None,
            UNDECIDED,
            ("the cable is unknown", *run.unknown),
            (),
            "Choose size, length and method.",
            (run.id,),
        )
    ]


def _state(run: Run) -> str:
    return f"Most in the state {run.state}." if run.state else ""


def not_in_table(run: Run, code: str, trouble: JobError) -> list[Finding]:
    """A size or method that the pack's tables don't have: a finding of this run, open, as bad as it could be."""
    source = Source("the pack's tables", Provenance.JOB)
    figure = Figure(f"{run.name}: value of the table", float("nan"), "A", "looked up by size and method", (), source)
    return [Finding(code, Verdict.BLOCKS, f"{run.name}: {trouble}.", figure, None, None, source,
                    ("the pack's table has no such row",), (), "Choose a size of the table, or correct the pack.",
                    (run.id,))]  # fmt: skip


def unreckoned(run: Run, code: str, why: str, advice: str) -> list[Finding]:
    """A run whose current or volts are not known, or for which the pack has no table: open."""
    figure = Figure(f"{run.name}: design current", run.design_a, "A", "from the design", (), UNDECIDED, _state(run))
    return [Finding(code, Verdict.NOTES, f"{run.name}: {carries(run)}; {why}.", figure, None, None, UNDECIDED, (why,), (),
                    advice, (run.id,))]  # fmt: skip


def resize(run: Run, size: float | None) -> tuple[Remedy, ...]:
    if size is None:
        return ()
    return (Remedy(f"{run.name}: take {size:g} mm²", (Change(f"cables/{run.id}/size_mm2", size),)),)
