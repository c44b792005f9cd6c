"""Strings against their trackers: ARR-VOC, ARR-VMP, ARR-ISC, ARR-IMP, ARR-PAR, ARR-FUSE, ARR-RATIO."""

from dataclasses import dataclass

from lodestaff.catalogue import ModuleSheet, PackTable, PackValue, Tracker
from lodestaff.checks.finding import Finding, Remedy, Verdict
from lodestaff.electrical.strings import Lengths, ModuleVolts, string_fuse, tracker_currents
from lodestaff.job import Change
from lodestaff.quantities import Figure, Input, Provenance, Source, text_of

DESIGN = Source("IEC 62548 string design", Provenance.FROM_MEMORY)
SHEET = Source("the unit's and module's sheets", Provenance.SHEET)


@dataclass(frozen=True)
class StringVolts:
    """One string: its module, how many, its volts at the site's temperatures, its tracker."""

    id: str
    name: str
    count: int
    module: ModuleSheet
    volts: ModuleVolts
    lengths: Lengths
    tracker: Tracker
    max_dc_v: float
    module_places: tuple[str, ...]  # path of each module, first to last
    soft_low: tuple[str, ...]
    soft_high: tuple[str, ...]
    record_low_known: bool
    regulated: bool = False  # optimisers set the string's volts


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


def arr_voc(record: StringVolts) -> list[Finding]:
    """Open-circuit voltage at the record low against the unit's maximum and the module's system voltage."""
    value = record.count * record.volts.voc_cold_v
    limit = min(record.max_dc_v, record.module.max_system_v)
    figure = Figure(
        f"String {record.name}, open circuit at the record low",
        value,
        "V",
        "n x Voc x (1 + beta/100 x (T − 25))",
        (
            Input("Voc", record.module.voc_v, "V", "sheet"),
            Input("beta", record.module.beta_voc_pct_per_k, "%/K", "sheet"),
            *_temperatures(record),
        ),
        DESIGN,
        "A typical-year file's lowest temperature is no record.",
    )
    over = value > limit
    text = f"String {record.name} reaches {text_of(value, 'V')} at {text_of(record.volts.cold_c, '°C')}; at most {text_of(limit, 'V')}: up to {record.lengths.most_hard} modules."
    return [
        Finding(
            "ARR-VOC",
            Verdict.BLOCKS if over else Verdict.PASSED,
            text,
            figure,
            limit,
            limit - value,
            SHEET,
            record.soft_low,
            _shorten(record, record.lengths.most_hard) if over else (),
            "Fewer modules in the string.",
            (record.id,),
        )
    ]


def arr_vmp(record: StringVolts) -> list[Finding]:
    """Operating voltage hot against the tracker's minimum and start; cold against the window's top."""
    hot = record.count * record.volts.vmp_hot_v
    start = record.count * record.volts.voc_hot_v
    cold = record.count * record.volts.vmp_cold_v
    tracker = record.tracker
    figure = Figure(
        f"String {record.name}, operating voltage at the hottest",
        hot,
        "V",
        "n x Vmp x (1 + beta/100 x (T − 25))",
        (
            Input("window", f"{tracker.v_min:g} to {tracker.v_max:g}", "V"),
            Input("starts at", tracker.v_start, "V"),
            Input("open circuit, hottest", start, "V"),
            Input("operating, coldest", cold, "V"),
            *_temperatures(record),
        ),
        DESIGN,
        "Leaving the window loses yield; it harms nothing. A string that never starts yields none.",
    )
    text = f"String {record.name} works at {text_of(hot, 'V')} when hottest and {text_of(cold, 'V')} when coldest; window {tracker.v_min:g} to {tracker.v_max:g} V, starts at {tracker.v_start:g} V."
    never = record.count * record.volts.voc_cold_v < tracker.v_start and not record.regulated
    if never:
        text += " It never starts, and yields nothing."
    low = hot < tracker.v_min or start < tracker.v_start
    high = cold > tracker.v_max
    verdict = Verdict.BLOCKS if never else Verdict.WARNS if low or high else Verdict.PASSED
    advice = f"At least {record.lengths.least} modules, at most {record.lengths.most}."
    if record.lengths.least > record.lengths.most:
        advice = "No length of this module fits the window: take another module, or another unit."
    return [
        Finding(
            "ARR-VMP",
            verdict,
            text,
            figure,
            tracker.v_min,
            hot - tracker.v_min,
            SHEET,
            record.soft_high,
            _shorten(record, record.lengths.most) if high and not low else (),
            advice,
            (record.id,),
        )
    ]


@dataclass(frozen=True)
class OnTracker:
    """The strings on one tracker: names, module counts, faces, currents."""

    unit: str  # '' where there is one unit only
    tracker: Tracker
    strings: tuple[tuple[str, str, int, ModuleSheet, tuple[str, ...]], ...]  # id, name, count, module, faces
    factor: PackValue
    fuses: PackTable
    coincidence: float | None
    clipped_kwh: float
    mismatch_share: float | None  # of the year's energy, by adding I-V curves; None while it isn't reckoned
    fuse_least: PackValue | None = None  # of Isc, where the pack has a rule of its own


def _tracker(record: OnTracker) -> str:
    return f"Tracker {record.tracker.name}{f' of {record.unit}' if record.unit else ''}"


def _names(record: OnTracker) -> str:
    return " + ".join(name for _, name, *_ in record.strings)


def arr_isc(record: OnTracker) -> list[Finding]:
    """Plain sum of short-circuit currents x factor against the tracker's rating; coincidence as information."""
    isc = [module.isc_a for _, _, _, module, _ in record.strings]
    imp = [module.imp_a for _, _, _, module, _ in record.strings]
    found = tracker_currents(isc, imp, record.factor.value, record.tracker.imp_max_a)
    limit = record.tracker.isc_max_a
    inputs = [Input(f"string {name}", module.isc_a, "A", "Isc, sheet") for _, name, _, module, _ in record.strings]
    if record.coincidence is not None:
        inputs.append(Input("unlike faces coincide to", record.coincidence * 100, "%", "information, never the rating"))
    figure = Figure(
        f"{_tracker(record)}, strings {_names(record)}",
        found.design_a,
        "A",
        "factor x sum of Isc",
        (*inputs, Input("factor", record.factor.value, "", record.factor.source)),
        record.factor.cite(),
    )
    over = found.design_a > limit
    text = f"{_tracker(record)} may see {text_of(found.design_a, 'A')} (strings {_names(record)}); it takes {text_of(limit, 'A')}."
    return [
        Finding(
            "ARR-ISC",
            Verdict.BLOCKS if over else Verdict.PASSED,
            text,
            figure,
            limit,
            limit - found.design_a,
            SHEET,
            (),
            (),
            "Move a string to another tracker.",
            tuple(one[0] for one in record.strings),
        )
    ]


def arr_imp(record: OnTracker) -> list[Finding]:
    """Operating current against the tracker's operating limit: energy clipped, not damage."""
    found = tracker_currents([], [module.imp_a for _, _, _, module, _ in record.strings], 1.0, record.tracker.imp_max_a)
    figure = Figure(
        f"{_tracker(record)}, operating current",
        found.imp_sum_a,
        "A",
        "sum of Imp",
        (
            *(Input(f"string {name}", module.imp_a, "A", "Imp, sheet") for _, name, _, module, _ in record.strings),
            Input("clipped in a year", record.clipped_kwh, "kWh"),
        ),
        SHEET,
        "Current above the limit is clipped; it harms nothing.",
    )
    limit = record.tracker.imp_max_a
    over = found.imp_sum_a > limit
    text = f"{_tracker(record)} works at up to {text_of(found.imp_sum_a, 'A')} of {text_of(limit, 'A')}; {text_of(record.clipped_kwh, 'kWh')} a year are clipped."
    return [
        Finding(
            "ARR-IMP",
            Verdict.WARNS if over else Verdict.PASSED,
            text,
            figure,
            limit,
            limit - found.imp_sum_a,
            SHEET,
            (),
            (),
            "Move a string to another tracker.",
        )
    ]


def arr_par(record: OnTracker) -> list[Finding]:
    """Parallel strings of unequal length or module; unlike faces are accepted and shown."""
    if len(record.strings) < 2:
        return []
    mismatch = record.mismatch_share
    lost = () if mismatch is None else (Input("lost by mismatch in a year", mismatch * 100, "%", "I-V curves added"),)
    counts = {count for _, _, count, _, _ in record.strings}
    modules = {module.name for _, _, _, module, _ in record.strings}
    source = Source(
        "equal strings in parallel on unlike faces lose under 0.1 % a year; unequal lengths 2 to 6 %",
        Provenance.COMMON_PRACTICE,
    )
    figure = Figure(
        f"Lengths on {_tracker(record)[0].lower()}{_tracker(record)[1:]}",
        float(max(counts) - min(counts)),
        "",
        "most − least modules",
        (*(Input(f"string {name}", float(count)) for _, name, count, _, _ in record.strings), *lost),
        source,
    )
    unequal = len(counts) > 1 or len(modules) > 1
    faces = {face for *_, on in record.strings for face in on}
    words = (
        "unequal in length or module" if unequal else "equal" + (f", on {len(faces)} faces" if len(faces) > 1 else "")
    )
    if mismatch is not None:
        words += f"; together they lose {mismatch * 100:.2f} % a year"
    return [
        Finding(
            "ARR-PAR",
            Verdict.WARNS if unequal else Verdict.PASSED,
            f"Parallel strings {_names(record)} on {_tracker(record)[0].lower()}{_tracker(record)[1:]} are {words}.",
            figure,
            0.0,
            float(min(counts) - max(counts)),
            source,
            (),
            (),
            "Make them equal, or give each its own tracker.",
        )
    ]


def arr_fuse(record: OnTracker) -> list[Finding]:
    """String fuses where reverse current exceeds the module's maximum series fuse."""
    module = record.strings[0][3]
    least = record.fuse_least
    source = (
        Source("IEC 62548 string overcurrent protection", Provenance.FROM_MEMORY) if least is None else least.cite()
    )
    if module.max_series_fuse_a is None:
        figure = Figure(
            f"{_tracker(record)}, reverse current",
            (len(record.strings) - 1) * module.isc_a,
            "A",
            "(Np − 1) x Isc",
            (),
            source,
        )
        return [
            Finding(
                "ARR-FUSE",
                Verdict.NOTES,
                "The module's sheet gives no maximum series fuse.",
                figure,
                None,
                None,
                source,
                ("the sheet gives no series fuse",),
            )
        ]
    fuse = string_fuse(len(record.strings), module.isc_a, module.max_series_fuse_a, record.fuses.row_keys(),
                       None if least is None else least.value)  # fmt: skip
    figure = Figure(
        f"{_tracker(record)}, reverse current",
        fuse.reverse_a,
        "A",
        "(Np − 1) x Isc",
        (
            Input("parallel strings", float(len(record.strings))),
            Input("Isc", module.isc_a, "A", "sheet"),
            Input("fuse from", fuse.least_a, "A"),
            Input("fuse to", fuse.most_a, "A"),
        ),
        source,
    )
    sizes = ", ".join(f"{size:g}" for size in fuse.choices_a) or "none"
    text = f"{_tracker(record)}: reverse current {text_of(fuse.reverse_a, 'A')}; " + (
        f"each string needs a fuse ({sizes} A)."
        if fuse.needed
        else f"no string fuse is needed below {text_of(module.max_series_fuse_a, 'A')}."
    )
    return [
        Finding(
            "ARR-FUSE",
            Verdict.WARNS if fuse.needed else Verdict.PASSED,
            text,
            figure,
            module.max_series_fuse_a,
            module.max_series_fuse_a - fuse.reverse_a,
            SHEET,
            (),
            (),
            "Fit gPV fuses in each string.",
        )
    ]


@dataclass(frozen=True)
class Ratio:
    """The array against its unit."""

    unit: str
    array_kw: float
    rated_kw: float
    max_dc_kw: float | None  # None where the sheet gives none
    clipped_kwh: float
    low: PackValue
    high: PackValue
    several: bool = False


def arr_ratio(record: Ratio) -> list[Finding]:
    """DC/AC ratio, most DC power, clipped energy."""
    ratio = record.array_kw / record.rated_kw
    figure = Figure(
        f"DC/AC of {record.unit}",
        ratio,
        "",
        "array at standard conditions / rated AC power",
        (
            Input("array", record.array_kw, "kW"),
            Input("rated", record.rated_kw, "kW"),
            Input("clipped in a year", record.clipped_kwh, "kWh"),
        ),
        record.high.cite(),
        "Oversizing is usual where the battery is DC-coupled or export is limited.",
    )
    over = record.max_dc_kw is not None and record.array_kw > record.max_dc_kw
    takes = f"the unit takes {text_of(record.max_dc_kw, 'kW')} DC; " if record.max_dc_kw is not None else ""
    whose = f"{record.unit}: " if record.several else ""
    text = f"{whose}{text_of(record.array_kw, 'kW')} of modules on {text_of(record.rated_kw, 'kW')}: {ratio:.2f}; {takes}{text_of(record.clipped_kwh, 'kWh')} a year are clipped."
    verdict = (
        Verdict.WARNS
        if over or ratio > record.high.value
        else Verdict.NOTES
        if ratio < record.low.value
        else Verdict.PASSED
    )
    return [
        Finding(
            "ARR-RATIO",
            verdict,
            text,
            figure,
            record.high.value,
            record.high.value - ratio,
            record.high.cite(),
            (),
            (),
            "A larger unit, or fewer modules.",
        )
    ]
