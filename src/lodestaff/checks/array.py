"""Strings against their trackers: ARR-VOC, ARR-VMP, ARR-ISC, ARR-IMP, ARR-PAR, ARR-FUSE, ARR-RATIO."""

from collections.abc import Callable
from dataclasses import dataclass

from lodestaff.catalogue import ModuleSheet, PackTable, PackValue, Tracker
from lodestaff.checks.check import check
from lodestaff.checks.finding import Findings, Remedy, Verdict, cure
from lodestaff.checks.makers import at_least, at_most, noted, open_
from lodestaff.electrical.strings import Lengths, ModuleVolts, string_fuse, tracker_currents
from lodestaff.job import Change
from lodestaff.quantities import Input, Provenance, Source, text_of
from lodestaff.quantities.convention import plain

DESIGN = Source("IEC 62548 string design", Provenance.FROM_MEMORY)
FUSES = Source("IEC 62548 string overcurrent protection", Provenance.FROM_MEMORY)
SHEET = Source("the unit's and module's sheets", Provenance.SHEET)
IN_RATING = "contained in the tracker's rating, sheet"
PARALLEL = Source(
    "equal strings in parallel on unlike faces lose under 0.1 % a year; unequal lengths 2 to 6 %",
    Provenance.COMMON_PRACTICE,
)


@dataclass(frozen=True)
class StringVolts:
    """One string: its module, how many, its volts at the site's temperatures, its tracker."""

    id: str
    name: str
    module: ModuleSheet
    volts: ModuleVolts
    lengths: Lengths
    tracker: Tracker
    max_dc_v: float
    module_places: tuple[str, ...]  # path of each module, first to last
    soft_low: tuple[str, ...]
    soft_high: tuple[str, ...]
    cold_factor: float | None = None  # on Voc by the pack's table; None without one

    @property
    def count(self) -> int:
        return len(self.module_places)


def _shorten(record: StringVolts, length: int) -> tuple[Remedy, ...]:
    spare = record.count - length
    if spare <= 0 or length < 1:
        return ()
    changes = tuple(Change(f"{path}/string", "") for path in record.module_places[-spare:])
    return (Remedy(f"Take {spare} module{'s' if spare > 1 else ''} off string {record.name}", changes),)


def _temperatures(record: StringVolts) -> tuple[Input, ...]:
    return (
        Input("coldest cell", record.volts.cold_c, "°C", "record low, at dawn"),
        Input("hottest cell", record.volts.hot_c, "°C", "record high and the mounting's rise"),
        Input("modules", float(record.count)),
    )


def _coefficient(record: StringVolts) -> tuple[Input, ...]:
    """The sheet's coefficient, with what the pack's table would say; the table alone where it gives none."""
    beta, factor = record.module.beta_voc_pct_per_k, record.cold_factor
    rows = () if beta is None else (Input("beta", beta, "%/K", "sheet"),)
    if factor is None:
        return rows
    by_table = record.count * record.module.voc_v * factor
    return (*rows, Input("by the pack's table", by_table, "V", "decides" if beta is None else "information"))


def _without_coefficient(record: StringVolts) -> tuple[str, ...]:
    if record.module.beta_voc_pct_per_k is not None or record.cold_factor is not None:
        return ()
    return ("the module's sheet gives no coefficient of Voc",)


@check("ARR-VOC", station="array", rests_on="unit's and module's sheets")
def arr_voc(record: StringVolts) -> Findings:
    """Does every string stay under the maximum voltage at the record low?"""
    module, most = record.module, record.lengths.most_hard
    value, limit = record.count * record.volts.voc_cold_v, min(record.max_dc_v, module.max_system_v)
    yield at_most(
        value=value,
        limit=limit,
        unit="V",
        text=f"String {record.name} reaches {text_of(value, 'V')} at {text_of(record.volts.cold_c, '°C')}; "
        f"at most {text_of(limit, 'V')}: up to {most} modules.",
        name=f"String {record.name}, open circuit at the record low",
        formula="n x Voc x (1 + beta/100 x (T − 25))",
        inputs=(Input("Voc", module.voc_v, "V", "sheet"), *_coefficient(record), *_temperatures(record)),
        source=DESIGN,
        rests_on=SHEET,
        note="A typical-year file's lowest temperature is no record.",
        because=record.soft_low + _without_coefficient(record),
        cures=lambda: _shorten(record, most),
        advice="Fewer modules in the string.",
    )


@check("ARR-VMP", station="array", rests_on="unit's sheet")
def arr_vmp(record: StringVolts) -> Findings:
    """Does every string start and work in its tracker's window?"""
    tracker, volts, lengths = record.tracker, record.volts, record.lengths
    hot, start, cold = (
        record.count * module_v for module_v in (volts.vmp_hot_v, volts.voc_hot_v, volts.vmp_cold_v)
    )
    window = f"{plain(tracker.v_min)} to {plain(tracker.v_max)}"
    text = (
        f"String {record.name} works at {text_of(hot, 'V')} when hottest and {text_of(cold, 'V')} when "
        "coldest; "
    )
    text += f"window {window} V, starts at {plain(tracker.v_start)} V."
    never = record.count * volts.voc_cold_v < tracker.v_start
    if never:
        text += " It never starts, and yields nothing."
    low, high = hot < tracker.v_min or start < tracker.v_start, cold > tracker.v_max
    advice = f"At least {lengths.least} modules, at most {lengths.most}."
    if lengths.least > lengths.most:
        advice = "No length of this module fits the window: take another module, or another unit."
    yield at_least(
        value=hot,
        limit=tracker.v_min,
        unit="V",
        kept=not (never or low or high),
        text=text,
        worse=Verdict.BLOCKS if never else Verdict.WARNS,
        name=f"String {record.name}, operating voltage at the hottest",
        formula="n x Vmp x (1 + beta/100 x (T − 25))",
        inputs=(
            Input("window", window, "V"),
            Input("starts at", tracker.v_start, "V"),
            Input("open circuit, hottest", start, "V"),
            Input("operating, coldest", cold, "V"),
            *_temperatures(record),
        ),
        source=DESIGN,
        rests_on=SHEET,
        because=record.soft_high,
        advice=advice,
        note="Leaving the window loses yield; it harms nothing. A string that never starts yields none.",
        cures=lambda: _shorten(record, lengths.most) if high and not low else (),
    )


@dataclass(frozen=True)
class StringOn:
    """A string on its tracker: how many of which module, on which faces."""

    id: str
    name: str
    count: int
    module: ModuleSheet
    faces: tuple[str, ...]

    @property
    def isc_a(self) -> float:
        """Its short-circuit current, with what its back side adds."""
        return self.module.isc_a * (1 + self.module.bifacial_gain)


@dataclass(frozen=True)
class Coincidence:
    """The highest clear-sky current of strings on unlike faces together, and the sum of their highest, A."""

    sum_a: float
    apart_a: float

    @property
    def share(self) -> float:
        return self.sum_a / self.apart_a if self.apart_a > 0 else 1.0


@dataclass(frozen=True)
class OnTracker:
    """The strings on one tracker."""

    owner: str
    unit: str  # '' where there is one unit only
    tracker: Tracker
    strings: tuple[StringOn, ...]
    factor: PackValue
    fuses: PackTable
    coincidence: Coincidence | None
    clipped_kwh: float
    mismatch_share: float | None  # of the year's energy, by adding I-V curves; None while it isn't reckoned
    fuse_least: PackValue | None = None  # of Isc, where the pack has a rule of its own
    fitted_a: float | None = None  # fuse in each string
    run: str = ""  # its run of cable, where that was chosen

    @property
    def subjects(self) -> tuple[str, ...]:
        return tuple(string.id for string in self.strings)

    def __str__(self) -> str:
        return f"Tracker {self.tracker.name}{f' of {self.unit}' if self.unit else ''}"

    @property
    def names(self) -> str:
        return " + ".join(string.name for string in self.strings)

    def each(self, value: Callable[[StringOn], float], unit: str, known: str) -> tuple[Input, ...]:
        return tuple(Input(f"string {string.name}", value(string), unit, known) for string in self.strings)


@check("ARR-ISC", station="array", rests_on="unit's sheet, pack's factor")
def arr_isc(record: OnTracker) -> Findings:
    """Does every tracker take the short-circuit current of its strings?"""
    factor, limit = record.factor, record.tracker.isc_max_a
    times = 1.0 if record.tracker.isc_with_factor else factor.value
    value = tracker_currents([string.isc_a for string in record.strings], [], times, 0.0).design_a
    inputs = record.each(lambda part: part.module.isc_a, "A", "Isc, sheet")
    if any(string.module.bifacial_gain for string in record.strings):
        inputs += record.each(lambda part: part.module.bifacial_gain * 100, "%", "more by the back side")
    if record.coincidence is not None:
        clear = record.coincidence
        inputs += (
            Input("most under a clear sky, together", clear.sum_a, "A", "information, never the rating"),
            Input("unlike faces coincide to", clear.share * 100, "%", "information, never the rating"),
        )
    yield at_most(
        value=value,
        limit=limit,
        unit="A",
        text=f"{record} may see {text_of(value, 'A')} (strings {record.names}); it takes "
        f"{text_of(limit, 'A')}.",
        name=f"{record}, strings {record.names}",
        formula="factor x sum of Isc",
        inputs=(*inputs, Input("factor", times, "", IN_RATING if times == 1 else factor.source)),
        source=factor.cite(),
        rests_on=SHEET,
        advice="Move a string to another tracker.",
    )


@check("ARR-IMP", station="array", rests_on="unit's sheet")
def arr_imp(record: OnTracker) -> Findings:
    """Is operating current clipped?"""
    limit = record.tracker.imp_max_a
    value = tracker_currents([], [string.module.imp_a for string in record.strings], 1.0, limit).imp_sum_a
    yield at_most(
        value=value,
        limit=limit,
        unit="A",
        worse=Verdict.WARNS,
        text=f"{record} works at up to {text_of(value, 'A')} of {text_of(limit, 'A')}; "
        f"{text_of(record.clipped_kwh, 'kWh')} a year are clipped.",
        name=f"{record}, operating current",
        formula="sum of Imp",
        inputs=(
            *record.each(lambda part: part.module.imp_a, "A", "Imp, sheet"),
            Input("clipped in a year", record.clipped_kwh, "kWh"),
        ),
        source=SHEET,
        note="Current above the limit is clipped; it harms nothing.",
        advice="Move a string to another tracker.",
    )


@check("ARR-PAR", station="array", rests_on="common practice")
def arr_par(record: OnTracker) -> Findings:
    """Are parallel strings equal?"""
    if len(record.strings) < 2:
        return
    lost, where = record.mismatch_share, f"{str(record)[0].lower()}{str(record)[1:]}"
    counts = {string.count for string in record.strings}
    unequal = len(counts) > 1 or len({string.module.name for string in record.strings}) > 1
    faces = {face for string in record.strings for face in string.faces}
    words = "unequal in length or module" if unequal else "equal"
    if not unequal and len(faces) > 1:
        words += f", on {len(faces)} faces"
    inputs = record.each(lambda part: float(part.count), "", "")
    if lost is not None:
        words += f"; together they lose {plain(lost * 100, 2)} % a year"
        inputs += (Input("lost by mismatch in a year", lost * 100, "%", "I-V curves added"),)
    yield at_most(
        value=float(max(counts) - min(counts)),
        limit=0.0,
        worse=Verdict.WARNS,
        kept=not unequal,
        text=f"Parallel strings {record.names} on {where} are {words}.",
        name=f"Lengths on {where}",
        formula="most − least modules",
        inputs=inputs,
        source=PARALLEL,
        advice="Make them equal, or give each its own tracker.",
    )


@check("ARR-FUSE", station="array", rests_on="module's sheet")
def arr_fuse(record: OnTracker) -> Findings:
    """Do parallel strings need fuses?"""
    module, least, count = record.strings[0].module, record.fuse_least, len(record.strings)
    source, most = FUSES if least is None else least.cite(), module.max_series_fuse_a
    name, formula = f"{record}, reverse current", "(Np − 1) x Isc"
    if most is None:
        yield open_(
            text="The module's sheet gives no maximum series fuse.",
            because=("the sheet gives no series fuse",),
            value=(count - 1) * module.isc_a,
            unit="A",
            name=name,
            formula=formula,
            source=source,
        )
        return
    fuse = string_fuse(
        count, module.isc_a, most, record.fuses.row_keys(), None if least is None else least.value
    )
    sizes, fitted = ", ".join(f"{plain(size)}" for size in fuse.choices_a) or "none", record.fitted_a
    kept, worse = not fuse.needed, Verdict.WARNS
    words = f"no string fuse is needed below {text_of(most, 'A')}"
    if fuse.needed:
        words = f"each string needs a fuse ({sizes} A)"
    if fitted is not None:
        kept, worse = fuse.bears(fitted), Verdict.BLOCKS
        words += f"; {plain(fitted)} A {'are' if kept else 'are wrongly'} fitted"
    yield at_most(
        value=fuse.reverse_a,
        limit=most,
        unit="A",
        worse=worse,
        kept=kept,
        text=f"{record}: reverse current {text_of(fuse.reverse_a, 'A')}; {words}.",
        name=name,
        formula=formula,
        inputs=(
            Input("parallel strings", float(count)),
            Input("Isc", module.isc_a, "A", "sheet"),
            Input("fuse from", fuse.least_a, "A"),
            Input("fuse to", fuse.most_a, "A"),
            Input("fitted", fitted if fitted is not None else "none", "A"),
        ),
        source=source,
        rests_on=SHEET,
        cures=lambda: (
            cure(f"Fit {plain(fuse.choices_a[0])} A", f"cables/{record.run}/string_fuse_a", fuse.choices_a[0])
            if fuse.choices_a and record.run
            else ()
        ),
        advice="Fit gPV fuses in each string.",
    )


@dataclass(frozen=True)
class Ratio:
    """The array against its unit."""

    owner: str
    unit: str
    array_kw: float
    rated_kw: float
    max_dc_kw: float | None  # None where the sheet gives none
    clipped_kwh: float
    low: PackValue
    high: PackValue
    several: bool = False


@check("ARR-RATIO", station="array", rests_on="unit's sheet, pack")
def arr_ratio(record: Ratio) -> Findings:
    """Does the array suit its unit?"""
    ratio, high, most = record.array_kw / record.rated_kw, record.high, record.max_dc_kw
    takes = f"the unit takes {text_of(most, 'kW')} DC; " if most is not None else ""
    verdict = Verdict.NOTES if ratio < record.low.value else Verdict.PASSED
    if ratio > high.value or (most is not None and record.array_kw > most):
        verdict = Verdict.WARNS
    yield noted(
        verdict=verdict,
        value=ratio,
        limit=high.value,
        margin=high.value - ratio,
        text=f"{f'{record.unit}: ' if record.several else ''}{text_of(record.array_kw, 'kW')} of modules on "
        f"{text_of(record.rated_kw, 'kW')}: {plain(ratio, 2)}; "
        f"{takes}{text_of(record.clipped_kwh, 'kWh')} a year are clipped.",
        name=f"DC/AC of {record.unit}",
        formula="array at standard conditions / rated AC power",
        inputs=(
            Input("array", record.array_kw, "kW"),
            Input("rated", record.rated_kw, "kW"),
            Input("clipped in a year", record.clipped_kwh, "kWh"),
        ),
        source=high.cite(),
        advice="A larger unit, or fewer modules.",
        note="Oversizing is usual where the battery is DC-coupled or export is limited.",
    )
