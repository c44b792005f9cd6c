"""What the unit is told: LIM-EXPORT, LIM-IMPORT, LIM-RESERVE."""

from dataclasses import dataclass

from lodestaff.catalogue import PackValue
from lodestaff.checks.finding import Finding, Remedy, Verdict
from lodestaff.electrical.export_limits import limited_exports
from lodestaff.job import Change
from lodestaff.quantities import Figure, Input, Provenance, Source, text_of

PERMISSION = Source("the operator's permission", Provenance.JOB)


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


def lim_export(record: Export) -> list[Finding]:
    """Export setting, meter error included, with what keeps no limit, against permission; and what a lost meter does."""
    error = record.meter_error.value
    unkept = sum(kw for _, kw in record.free)
    worst = record.setting_kw * (1 + error) + unkept
    band = () if record.band is None or record.setting_kw > 0 else (
        Input("kept within, of nothing", record.band[0], "kW", record.band[1]),)  # fmt: skip
    figure = Figure(
        "Export at the worst meter error",
        worst,
        "kW",
        "setting x (1 + meter error) + what units feed that keep no limit",
        (Input("setting", record.setting_kw, "kW"), Input("meter error", error * 100, "%", record.meter_error.source),
         *(Input(f"{name}, keeps no limit", kw, "kW") for name, kw in record.free), *band),
        record.meter_error.cite(),
    )  # fmt: skip
    allowed = 0.0 if record.state != "granted" else record.permission_kw
    soft = record.soft_facts
    if allowed is None:
        return [
            Finding(
                "LIM-EXPORT",
                Verdict.BLOCKS if record.setting_kw > 0 else Verdict.PASSED,
                f"{record.permission_word}: the permitted export isn't known; the setting is "
                f"{text_of(record.setting_kw, 'kW')}.",
                figure,
                None,
                None,
                PERMISSION,
                soft or ("the permission is unknown",),
                (_export_to(0.0),) if record.setting_kw > 0 else (),
                "Read the permission.",
            )
        ]
    right = max(0.0, int((allowed - unkept) / (1 + error) * 100) / 100)
    over = record.setting_kw + unkept > allowed * (1 + 1e-9)
    verdict = Verdict.BLOCKS if over else Verdict.WARNS if worst > allowed * (1 + 1e-9) else Verdict.PASSED
    words = (
        f"permission for {text_of(allowed, 'kW')}"
        if record.state == "granted"
        else f"no permission yet ({record.state})"
    )
    beside = ""
    if record.free:
        names = ", ".join(name for name, _ in record.free)
        beside = f" and {text_of(unkept, 'kW')} of {names}, which keep{'s' if len(record.free) == 1 else ''} no limit"
    text = f"Set to {text_of(record.setting_kw, 'kW')}, at most {text_of(worst, 'kW')} with the meter's error{beside}; {words}."
    findings = [
        Finding(
            "LIM-EXPORT",
            verdict,
            text,
            figure,
            allowed,
            allowed - worst,
            PERMISSION,
            soft,
            () if verdict is Verdict.PASSED else (*record.cures, *(() if unkept > allowed else (_export_to(right),))),
            f"Set at most {text_of(right, 'kW')}."
            if not record.free
            else "Ask the maker what these units follow, limit their output, or ask for the export.",
        )
    ]
    if record.on_meter_loss != "export stops":
        goes_on = record.on_meter_loss == "export goes on"
        loss = Figure(
            "Export limit while the meter is lost",
            record.setting_kw,
            "kW",
            "sheet",
            (),
            Source("the unit's sheet", Provenance.SHEET),
        )
        findings.append(
            Finding(
                "LIM-EXPORT",
                (Verdict.WARNS if record.setting_kw > 0 else Verdict.BLOCKS) if goes_on else Verdict.NOTES,
                "When its meter is lost the unit goes on exporting."
                if goes_on
                else "The sheet doesn't say what the unit does when its meter is lost.",
                loss,
                None,
                None,
                loss.source,
                () if goes_on else ("the sheet is silent",),
                (),
                "Ask the maker; test it at commissioning by pulling the meter's plug.",
            )
        )
    return findings


def _export_to(kw: float) -> Remedy:
    return Remedy(f"Set the export limit to {text_of(kw, 'kW')}", (Change("limits/export_kw", kw),))


@dataclass(frozen=True)
class ExportByPhase:
    """Units on several phases at full power: what each phase exports with the least load, under both limits."""

    phases: tuple[str, ...]
    available_kw: tuple[float, ...]
    load_kw: tuple[float, ...]
    per_phase_kw: float
    total_kw: float


def lim_export_phases(record: ExportByPhase) -> list[Finding]:
    """Export of each phase under the limit for each and the one on the sum; what is curtailed to keep them."""
    found = limited_exports(record.available_kw, record.load_kw, record.per_phase_kw, record.total_kw)
    source = Source("the excess over the sum is taken off the exporting phases in proportion", Provenance.DERIVED)
    lost = sum(found.curtailed_kw)
    figure = Figure(
        "Curtailed at full power", lost, "kW", "sum over phases of generation − (load + net)",
        (*(Input(f"net on {phase}", net, "kW") for phase, net in zip(record.phases, found.net_kw, strict=True)),
         Input("limit for each phase", record.per_phase_kw, "kW"), Input("limit on the sum", record.total_kw, "kW")), source,
    )  # fmt: skip
    nets = ", ".join(
        f"{phase} {'exports' if net >= 0 else 'imports'} {text_of(abs(net), 'kW')}"
        for phase, net in zip(record.phases, found.net_kw, strict=True)
    )
    text = f"At full power and least load {nets}; {text_of(lost, 'kW')} are curtailed to keep the limits."
    return [Finding("LIM-EXPORT", Verdict.NOTES if lost > 0.05 else Verdict.PASSED, text, figure, None, None, source)]


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
    leg_word: str = "phase"
    leg: str = ""  # the busiest phase or leg, whose peak it is; '' on a single phase
    free_kw: float = 0.0  # charging by units that keep no import limit
    free: str = ""


def lim_import(record: Import) -> list[Finding]:
    """House peak and charging against the main fuse; what yields first is charging from the grid."""
    fuse = Source("service rating x nominal voltage", Provenance.JOB)
    fuse_kw = None if record.fuse_a is None else record.fuse_a * record.nominal.value * record.phases / 1000
    setting = Figure(
        "Import limit",
        record.limit_kw,
        "kW",
        "setting",
        (
            Input("main fuse", record.fuse_a if record.fuse_a is not None else "unknown", "A"),
            Input("nominal", record.nominal.value, "V", record.nominal.source),
        ),
        fuse,
    )
    findings = []
    if fuse_kw is None:
        findings.append(
            Finding(
                "LIM-IMPORT",
                Verdict.WARNS,
                "The main fuse isn't known; the import limit rests on nothing.",
                setting,
                None,
                None,
                fuse,
                ("the service rating is unknown",),
                (),
                "Read the fuse carrier.",
            )
        )
    else:
        over = record.limit_kw + record.free_kw > fuse_kw * (1 + 1e-9)
        beside = (
            f", and {record.free} may charge with {text_of(record.free_kw, 'kW')} beside it" if record.free_kw else ""
        )
        remedy = Remedy(f"Set the import limit to {text_of(fuse_kw, 'kW')}", (Change("limits/import_kw", fuse_kw),))
        findings.append(
            Finding(
                "LIM-IMPORT",
                Verdict.BLOCKS if over else Verdict.PASSED,
                f"The import limit is {text_of(record.limit_kw, 'kW')}{beside}; the main fuse carries {text_of(fuse_kw, 'kW')}.",
                setting,
                fuse_kw,
                fuse_kw - record.limit_kw,
                fuse,
                record.soft_facts,
                (remedy,) if over and not record.free_kw else (),
                "Set it at or below the main fuse.",
            )
        )
    peak = Figure(
        "Highest import of the year, mean of 15 minutes",
        record.peak_kw,
        "kW",
        "max over the simulated year",
        (Input("when", record.peak_when), Input("of that, charging from the grid", record.charge_then_kw, "kW")),
        Source("simulated year", Provenance.DERIVED),
        "Charging yields first: it takes only what the limit leaves. The circuits themselves don't yield.",
    )
    limit = record.limit_kw / record.phases  # the meter counts each phase for itself
    above = record.peak_kw > limit * (1 + 1e-9)
    where = f" on {record.leg}" if record.leg else ""
    each = f" a {record.leg_word}" if record.phases > 1 else ""
    findings.append(
        Finding(
            "LIM-IMPORT",
            Verdict.WARNS if above else Verdict.PASSED,
            f"The year's highest import is {text_of(record.peak_kw, 'kW')}{where} ({record.peak_when}), "
            f"{'above' if above else 'within'} the limit of {text_of(limit, 'kW')}{each}.",
            peak,
            limit,
            limit - record.peak_kw,
            setting.source,
            (),
            (),
            "Move a heavy load to another hour, or ask for a larger main fuse.",
        )
    )
    return findings


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


def lim_reserve(record: Reserve) -> list[Finding]:
    """Reserve against the outage hours that were promised, by month."""
    figure = Figure(
        f"Lasts on the reserve alone, {record.worst_month}",
        record.worst_h,
        "h",
        f"percentile {record.percentile.value:g} over outages that begin every 3 h of the month",
        tuple(Input(f"month {month}", hours, "h") for month, hours in enumerate(record.by_month_h, start=1)),
        record.percentile.cite(),
        f"Outages are followed for {record.horizon_h:g} h at most; sun counts.",
    )
    short = record.worst_h < record.promised_h
    text = (
        f"A reserve of {record.reserve_soc * 100:.0f} % holds {text_of(record.worst_h, 'h')} in {record.worst_month}; "
        f"{text_of(record.promised_h, 'h')} were promised."
    )
    remedies: tuple[Remedy, ...] = ()
    if short and record.better_soc is not None:
        cost = "" if record.better_cost is None else f" (costs {record.better_cost:.0f} {record.currency} a year)"
        changes = [Change("limits/reserve_soc", record.better_soc)]
        shed = ""
        if record.better_soc > record.shed_soc:  # else the shed-first circuits, on at that charge, eat it
            changes.append(Change("limits/shed_soc", record.better_soc))
            shed = " and the shed level with it"
        remedies = (Remedy(f"Set the reserve to {record.better_soc * 100:.0f} %{shed}{cost}", tuple(changes)),)
    return [
        Finding(
            "LIM-RESERVE",
            Verdict.WARNS if short else Verdict.PASSED,
            text,
            figure,
            record.promised_h,
            record.worst_h - record.promised_h,
            record.percentile.cite(),
            record.soft_facts,
            remedies,
            "Raise the reserve, hold less, or promise less.",
        )
    ]
