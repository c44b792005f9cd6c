"""What the unit is told: LIM-EXPORT, LIM-IMPORT, LIM-RESERVE."""

from dataclasses import dataclass

from lodestaff.catalogue import PackValue
from lodestaff.checks.check import check
from lodestaff.checks.finding import Finding, Findings, Remedy, Verdict, cure
from lodestaff.checks.makers import Words, at_least, at_most, noted, open_
from lodestaff.electrical.export_limits import limited_exports
from lodestaff.job import Change
from lodestaff.quantities import Input, Provenance, Source, text_of
from lodestaff.quantities.convention import plain

PERMISSION = Source("the operator's permission", Provenance.JOB)
SHEET = Source("the unit's sheet", Provenance.SHEET)
FUSE = Source("service rating x nominal voltage", Provenance.JOB)
THE_YEAR = Source("simulated year", Provenance.DERIVED)
IN_PROPORTION = Source(
    "the excess over the sum is taken off the exporting phases in proportion", Provenance.DERIVED
)


@dataclass(frozen=True)
class Export:
    """The export setting against the permission."""

    setting_kw: float
    permission_kw: float | None
    state: str
    permission_word: str
    meter_error: PackValue
    on_meter_loss: str
    soft_facts: tuple[str, ...]
    free: tuple[tuple[str, float], ...] = ()  # units that keep no limit, with what they may feed, kW
    band: tuple[float, str] | None = None  # within how much of zero a limit of zero is kept, kW, and by what
    cures: tuple[Remedy, ...] = ()  # that a free unit is said to keep it

    @property
    def unkept_kw(self) -> float:
        return sum(kw for _, kw in self.free)

    @property
    def worst_kw(self) -> float:
        return self.setting_kw * (1 + self.meter_error.value) + self.unkept_kw


@check("LIM-EXPORT", "site", station="limits", rests_on="operator's permission")
def lim_export(record: Export) -> Findings:
    """Is the export setting, with the meter's error, within the permission?"""
    setting, error = record.setting_kw, record.meter_error
    inputs = [Input("setting", setting, "kW"), Input("meter error", error.value * 100, "%", error.source)]
    inputs += [Input(f"{name}, keeps no limit", kw, "kW") for name, kw in record.free]
    if record.band is not None and setting <= 0:
        inputs.append(Input("kept within, of nothing", record.band[0], "kW", record.band[1]))
    figure = Words(
        name="Export at the worst meter error",
        formula="setting x (1 + meter error) + what units feed that keep no limit",
        inputs=tuple(inputs),
        source=error.cite(),
        rests_on=PERMISSION,
    )
    allowed = 0.0 if record.state != "granted" else record.permission_kw
    if allowed is None:
        yield open_(
            verdict=Verdict.BLOCKS if setting > 0 else Verdict.PASSED,
            value=record.worst_kw,
            unit="kW",
            **figure,
            quantity="setting",
            text=f"{record.permission_word}: the permitted export isn't known; the setting is "
            f"{text_of(setting, 'kW')}.",
            because=record.soft_facts or ("the permission is unknown",),
            cures=_export_to(0.0),
            advice="Read the permission.",
        )
    else:
        yield _permitted(record, allowed, figure)
    if record.on_meter_loss == "export goes on":
        yield noted(
            verdict=Verdict.WARNS if setting > 0 else Verdict.BLOCKS,
            value=setting,
            unit="kW",
            **LOST,
            quantity="meter lost",
            advice=ASK,
            text="When its meter is lost the unit goes on exporting.",
        )
    elif record.on_meter_loss != "export stops":
        yield open_(
            text="The sheet doesn't say what the unit does when its meter is lost.",
            because=("the sheet is silent",),
            value=setting,
            unit="kW",
            **LOST,
            quantity="meter lost",
            advice=ASK,
        )


ASK = "Ask the maker; test it at commissioning by pulling the meter's plug."
LOST = Words(name="Export limit while the meter is lost", formula="sheet", source=SHEET)


def _permitted(record: Export, allowed: float, figure: Words) -> Finding:
    """The export of the site against what is allowed, kW."""
    setting, unkept, worst, free = record.setting_kw, record.unkept_kw, record.worst_kw, record.free
    right = max(0.0, int((allowed - unkept) / (1 + record.meter_error.value) * 100) / 100)
    words = f"no permission yet ({record.state})"
    if record.state == "granted":
        words = f"permission for {text_of(allowed, 'kW')}"
    beside, advice = "", f"Set at most {text_of(right, 'kW')}."
    if free:
        names = ", ".join(name for name, _ in free)
        beside = (
            f" and {text_of(unkept, 'kW')} of {names}, which keep{'s' if len(free) == 1 else ''} no limit"
        )
        advice = "Ask the maker what these units follow, limit their output, or ask for the export."
    over = setting + unkept > allowed * (1 + 1e-9)
    return at_most(
        value=worst,
        limit=allowed,
        unit="kW",
        worse=Verdict.BLOCKS if over else Verdict.WARNS,
        text=f"Set to {text_of(setting, 'kW')}, at most {text_of(worst, 'kW')} with the meter's "
        f"error{beside}; {words}.",
        **figure,
        because=record.soft_facts,
        advice=advice,
        quantity="setting",
        cures=(*record.cures, *(() if unkept > allowed else _export_to(right))),
    )


def _export_to(kw: float) -> tuple[Remedy, ...]:
    return cure(f"Set the export limit to {text_of(kw, 'kW')}", "limits/export_kw", kw)


@dataclass(frozen=True)
class ExportByPhase:
    """Units on several phases at full power: what each phase exports with the least load, under both
    limits."""

    phases: tuple[str, ...]
    available_kw: tuple[float, ...]
    load_kw: tuple[float, ...]
    per_phase_kw: float
    total_kw: float


@check("LIM-EXPORT", "phases", station="limits", rests_on="operator's permission")
def lim_export_phases(record: ExportByPhase) -> Findings:
    """What does each phase export at full power, and what is curtailed for it?"""
    exports = limited_exports(record.available_kw, record.load_kw, record.per_phase_kw, record.total_kw)
    nets, lost = tuple(zip(record.phases, exports.net_kw, strict=True)), sum(exports.curtailed_kw)
    said = ", ".join(
        f"{leg} {'exports' if net >= 0 else 'imports'} {text_of(abs(net), 'kW')}" for leg, net in nets
    )
    yield noted(
        verdict=Verdict.NOTES if lost > 0.05 else Verdict.PASSED,
        value=lost,
        unit="kW",
        text=f"At full power and least load {said}; {text_of(lost, 'kW')} are curtailed to keep the limits.",
        name="Curtailed at full power",
        formula="sum over phases of generation − (load + net)",
        inputs=(
            *(Input(f"net on {leg}", net, "kW") for leg, net in nets),
            Input("limit for each phase", record.per_phase_kw, "kW"),
            Input("limit on the sum", record.total_kw, "kW"),
        ),
        source=IN_PROPORTION,
    )


@dataclass(frozen=True)
class OwnLimit:
    """A limit that one unit is told of its own, kW, against the site's; `together_kw` sums all that keep one
    by transformers of their own, None where they see the same."""

    id: str
    name: str
    what: str  # export or import
    own_kw: float
    site_kw: float
    together_kw: float | None

    @property
    def owner(self) -> str:
        return self.id


@check("LIM-EXPORT", "own", station="limits", rests_on="settings")
def own_limits(record: OwnLimit) -> Findings:
    """Is a unit told no more than the site may?"""
    kw = record.own_kw if record.together_kw is None else record.together_kw
    all_ = "" if record.together_kw is None else f", {text_of(kw, 'kW')} with the others"
    yield at_most(
        value=kw,
        limit=record.site_kw,
        unit="kW",
        text=f"{record.name} is told an {record.what} limit of {text_of(record.own_kw, 'kW')}{all_}; "
        f"the site's is {text_of(record.site_kw, 'kW')}.",
        name=f"{record.name}: {record.what} limit of its own",
        formula="its own" if record.together_kw is None else "sum of what each is told",
        source=IN_PROPORTION,
        quantity=record.what,
        advice="A smaller one, or its share of the site's.",
    )


@dataclass(frozen=True)
class Import:
    """The import limit and the year's peak against the main fuse."""

    limit_kw: float
    fuse_a: float | None
    nominal: PackValue
    phases: int
    peak_kw: float
    peak_when: str
    charge_then_kw: float
    soft_facts: tuple[str, ...]
    peak_facts: tuple[str, ...] = ()  # of the year that the peak is of
    leg_word: str = "phase"
    leg: str = ""  # the busiest phase or leg, whose peak it is; '' on a single phase
    free_kw: float = 0.0  # charging by units that keep no import limit
    free: str = ""


@check("LIM-IMPORT", station="limits", rests_on="service rating")
def lim_import(record: Import) -> Findings:
    """Do the import limit and the year's peak stay under the main fuse?"""
    yield _setting(record)
    peak, limit = record.peak_kw, record.limit_kw / record.phases  # the meter counts each phase for itself
    where = f" on {record.leg}" if record.leg else ""
    each = f" a {record.leg_word}" if record.phases > 1 else ""
    within = "above" if peak > limit * (1 + 1e-9) else "within"
    yield at_most(
        value=peak,
        limit=limit,
        unit="kW",
        worse=Verdict.WARNS,
        quantity="peak",
        because=record.peak_facts,
        text=f"The year's highest import is {text_of(peak, 'kW')}{where} ({record.peak_when}), {within} the "
        f"limit of {text_of(limit, 'kW')}{each}.",
        name="Highest import of the year, mean of 15 minutes",
        formula="max over the simulated year",
        inputs=(
            Input("when", record.peak_when),
            Input("of that, charging from the grid", record.charge_then_kw, "kW"),
        ),
        source=THE_YEAR,
        rests_on=FUSE,
        note="Charging yields first: it takes only what the limit leaves. The circuits themselves don't "
        "yield.",
        advice="Move a heavy load to another hour, or ask for a larger main fuse.",
    )


def _setting(record: Import) -> Finding:
    """The import limit, with what charges without keeping it, against the main fuse."""
    limit, fuse_a, free_kw, nominal = record.limit_kw, record.fuse_a, record.free_kw, record.nominal
    figure = Words(
        name="Import limit",
        formula="setting",
        source=FUSE,
        inputs=(
            Input("main fuse", fuse_a if fuse_a is not None else "unknown", "A"),
            Input("nominal", nominal.value, "V", nominal.source),
        ),
    )
    if fuse_a is None:
        return open_(
            verdict=Verdict.WARNS,
            text="The main fuse isn't known; the import limit rests on nothing.",
            value=limit,
            unit="kW",
            **figure,
            quantity="setting",
            because=("the service rating is unknown",),
            advice="Read the fuse carrier.",
        )
    fuse_kw = fuse_a * nominal.value * record.phases / 1000
    carries = text_of(fuse_kw, "kW")
    beside = f", and {record.free} may charge with {text_of(free_kw, 'kW')} beside it" if free_kw else ""
    return at_most(
        value=limit,
        limit=fuse_kw,
        unit="kW",
        kept=limit + free_kw <= fuse_kw * (1 + 1e-9),
        **figure,
        quantity="setting",
        text=f"The import limit is {text_of(limit, 'kW')}{beside}; the main fuse carries {carries}.",
        because=record.soft_facts,
        advice="Set it at or below the main fuse.",
        cures=() if free_kw else cure(f"Set the import limit to {carries}", "limits/import_kw", fuse_kw),
    )


@dataclass(frozen=True)
class Reserve:
    """Endurance from the reserve alone, by month, against the promised hours."""

    reserve_soc: float
    promised_h: float
    worst_month: str
    worst_h: float
    horizon_h: float
    percentile: PackValue
    by_month_h: tuple[float, ...]
    better_soc: float | None
    shed_soc: float
    better_cost: float | None
    currency: str
    soft_facts: tuple[str, ...]
    owner: str = ""


@check("LIM-RESERVE", station="limits", rests_on="customer's wish")
def lim_reserve(record: Reserve) -> Findings:
    """Does the reserve alone last as long as was promised, in every month?"""
    percentile, month, hours = record.percentile, record.worst_month, record.worst_h
    yield at_least(
        value=hours,
        limit=record.promised_h,
        unit="h",
        worse=Verdict.WARNS,
        text=f"A reserve of {plain(record.reserve_soc * 100, 0)} % holds {text_of(hours, 'h')} in {month}; "
        f"{text_of(record.promised_h, 'h')} were promised.",
        name=f"Lasts on the reserve alone, {month}",
        formula=f"percentile {plain(percentile.value)} over outages that begin every 3 h of the month",
        inputs=tuple(Input(f"month {n}", lasts, "h") for n, lasts in enumerate(record.by_month_h, start=1)),
        source=percentile.cite(),
        note=f"Outages are followed for {plain(record.horizon_h)} h at most; sun counts.",
        because=record.soft_facts,
        cures=lambda: _more(record),
        advice="Raise the reserve, hold less, or promise less.",
    )


def _more(record: Reserve) -> tuple[Remedy, ...]:
    """The reserve that keeps the promise, and what it costs."""
    better = record.better_soc
    if better is None:
        return ()
    cost = (
        ""
        if record.better_cost is None
        else f" (costs {plain(record.better_cost, 0)} {record.currency} a year)"
    )
    changes, shed = [Change("limits/reserve_soc", better)], ""
    if better > record.shed_soc:  # else the shed-first circuits, on at that charge, eat it
        changes.append(Change("limits/shed_soc", better))
        shed = " and the shed level with it"
    return (Remedy(f"Set the reserve to {plain(better * 100, 0)} %{shed}{cost}", tuple(changes)),)
