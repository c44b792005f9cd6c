"""Steps of what holds the installation to its limits: export, import, a lost meter, windows, surplus."""

from lodestaff.commissioning.rules import Between, Confirmed
from lodestaff.commissioning.shares import shares, site_export_kw, zero_band_kw
from lodestaff.commissioning.step import Measure, Step
from lodestaff.electrical.meter_error import export_meter_error
from lodestaff.job import Job, Role
from lodestaff.quantities import text_of
from lodestaff.topology import Topology
from lodestaff.topology.questions import Led, led

EXPORT_REACH, IMPORT_REACH = 0.8, 0.8  # of the limit, that a test must come to
WINDOW_PCT = 15.0  # of a window's power, battery against setting: converter and taper; common practice
CHARGE_LEAST = 0.5  # of a window's power: a full or cold battery takes less


def limit_steps(job: Job, topology: Topology, before: tuple[str, ...]) -> list[Step]:
    """Export, its lost meter, import, windows; nothing of them without a grid. Surplus loads anywhere."""
    steps: list[Step] = []
    if job.mains.grid:
        for group in led(topology):
            name = "export" if not steps else f"export-{group.units[0]}"
            steps.append(_export(job, topology, group, name, before))
        steps += _lost(job, topology, before)
        steps += _import(job, topology, before)
        steps += _peak(job, topology, before)
        steps += _windows(job, topology, before)
    return steps + _surplus(job, topology, before)


def _names(job: Job, group: Led) -> str:
    return ", ".join(unit.name for unit in job.units if unit.id in group.units)


def _free_units(job: Job, topology: Topology, group: Led) -> list[str]:
    """Units that keep no limit: they are off while another's is tried."""
    free = {
        name for other in led(topology) if other.ct is None and other is not group for name in other.units
    }
    return [unit.name for unit in job.units if unit.id in free and unit.id not in group.units]


def _export(job: Job, topology: Topology, group: Led, name: str, before: tuple[str, ...]) -> Step:
    names = _names(job, group)
    whose = "" if len(job.units) == len(group.units) else f" of {names}"
    limit, margin = site_export_kw(job), export_meter_error(job)
    measure = Measure("export", group.units[0], ct=group.ct.id if group.ct is not None else "")
    proves = tuple(f"{unit}-feed" for unit in group.units if f"{unit}-feed" in topology.parts)
    proves += ("meter",) if group.whole and "meter" in topology.parts else ()
    bank = any(job.bank_of(unit) for unit in job.units if unit.id in group.units)
    sun = any(topology.unit(unit).arrays for unit in group.units)
    still = "battery held, loads off" if bank else "loads off"
    free = _free_units(job, topology, group)
    still += f", {' and '.join(free)} off" if free else ""
    if group.ct is None:
        text = f"Export limit{whose}: what keeps it, and that it does."
        needs = (
            f"{names} obeys no transformer that is noted: its maker's statement of what it follows, "
            "else it feeds all it makes"
        )
        return Step(name, "function", text, Confirmed(), before, needs=needs, proves=proves)
    if not group.whole:
        text = f"Export limit{whose}: tried where it is counted."
        needs = (
            f"{group.ct.name} isn't on the supply: it proves no limit of export; a meter at the "
            "supply that does"
        )
        return Step(name, "function", text, Confirmed(), before, needs=needs, proves=proves)
    if not sun:
        text = f"Export{whose}: it has no sun of its own, its battery gives no more than the circuits take."
        band = zero_band_kw(job, group.units)
        most = band[0] if band is not None else 0.05
        source = band[1] if band is not None else "meter's class, common practice"
        rule = Between(0.0, "kW", None, max(most, limit * (1 + margin.value)), source)
        return Step(name, "function", text, rule, before, measure=measure, proves=proves)
    if limit > 0:
        text = f"Export limit{whose}: {still}; export stays at or below {text_of(limit, 'kW')}."
        rule = Between(
            limit,
            "kW",
            low=None,
            high=limit * (1 + margin.value),
            source=str(margin.cite()),
            reach=EXPORT_REACH * limit,
        )
        return Step(name, "function", text, rule, before, measure=measure, proves=proves)
    band = zero_band_kw(job, group.units)
    if band is None:
        text = f"Zero export{whose}: {still}; export stays near nothing."
        needs = "the band of a limit of zero, from the unit's sheet or the pack"
        return Step(name, "function", text, Confirmed(), before, needs=needs, proves=proves)
    kw, words = band
    text = (
        f"Zero export{whose}: {still}, more sun than they take; export stays within "
        f"{text_of(kw, 'kW')} of nothing."
    )
    return Step(
        name, "function", text, Between(0.0, "kW", None, kw, words), before, measure=measure, proves=proves
    )


def _lost(job: Job, topology: Topology, before: tuple[str, ...]) -> list[Step]:
    """Each transformer that proves a limit, its lead out: what obeys it lets nothing out."""
    steps = []
    for group in led(topology):
        if group.ct is None or not group.whole:
            continue
        band = zero_band_kw(job, group.units)
        most = band[0] if band is not None else 0.0
        limit = site_export_kw(job)
        text = (
            f"{group.ct.name}'s lead pulled out of what it serves, loads off: {_names(job, group)} "
            f"{'stops' if len(group.units) == 1 else 'stop'} what could go out, read at the supply by clamp "
            "meter. Then the lead is put back."
        )
        goes_on = any(
            job.sheet_of(unit).on_meter_loss == "export goes on"
            for unit in job.units
            if unit.id in group.units
        )
        high = limit if goes_on else most
        source = (
            "its sheet: export goes on when the meter is lost" if goes_on else "nothing goes out unmeasured"
        )
        steps.append(
            Step(
                f"lost-{group.units[0]}",
                "function",
                text,
                Between(0.0, "kW", None, high + 0.05, f"{source}, common practice"),
                before,
                measure=Measure("meter lost", group.units[0], ct=group.ct.id),
                proves=group.units,
            )
        )
    return steps


def _import(job: Job, topology: Topology, before: tuple[str, ...]) -> list[Step]:
    """Charging yields to the main fuse: each group by the import that it is told to keep to."""
    steps: list[Step] = []
    own, margin = shares(job, topology), export_meter_error(job)
    for group in led(topology):
        storing = [unit for unit in job.units if unit.id in group.units and job.bank_of(unit) is not None]
        limit = own[storing[0].id].import_kw if storing else None
        if group.ct is None or not group.whole or limit is None:
            continue
        text = (
            f"Import limit: {', '.join(unit.name for unit in storing)} told to charge from the grid, then "
            "one large load after the other on until both together are more: charging yields, import stays "
            f"at or below {text_of(limit, 'kW')}."
        )
        high, reach = limit * (1 + margin.value), IMPORT_REACH * limit
        rule = Between(limit, "kW", low=None, high=high, source=str(margin.cite()), reach=reach)
        measure = Measure("import", group.units[0], ct=group.ct.id)
        name = "import" if not steps else f"import-{group.units[0]}"
        steps.append(Step(name, "function", text, rule, before, measure=measure, proves=("meter",)))
    return steps


def _peak(job: Job, topology: Topology, before: tuple[str, ...]) -> list[Step]:
    """Shaving the peak: more load than it allows, the battery gives the rest."""
    peak = job.limits.peak_kw
    storing = [unit.name for unit in job.units if job.bank_of(unit) is not None]
    whole = [group for group in led(topology) if group.whole and group.ct is not None]
    if job.limits.mode != "shave the peak" or peak is None or not storing or not whole:
        return []
    text = (
        f"Peak: loads of more than {text_of(peak, 'kW')} on, no more than {', '.join(storing)} can make up: "
        f"import stays at or below {text_of(peak, 'kW')}."
    )
    margin, group = export_meter_error(job), whole[0]
    high, reach = peak * (1 + margin.value) + 0.1, EXPORT_REACH * peak
    rule = Between(peak, "kW", low=None, high=high, source=str(margin.cite()), reach=reach)
    ct = group.ct.id if group.ct is not None else ""
    measure = Measure("import", group.units[0], ct=ct, doing="peak")
    return [Step("peak", "function", text, rule, before, measure=measure, proves=("meter",))]


def _windows(job: Job, topology: Topology, before: tuple[str, ...]) -> list[Step]:
    """Each window of each battery: its clock is set into it for the test, then back."""
    if job.limits.mode != "serve circuits":
        return []  # the other modes know no windows
    steps, told = [], shares(job, topology)
    for unit in job.units:
        if job.bank_of(unit) is None:
            continue
        for window in job.limits.windows:
            many = len([u for u in job.units if job.bank_of(u) is not None]) > 1
            whose = f"{unit.name}, " if many else ""
            most = told[unit.id].charge_kw if window.kind == "charge" else told[unit.id].discharge_kw
            kw = min(window.power_kw, most)
            kind, back = {
                "charge": (f"the battery charges at about {text_of(kw, 'kW')}", "charge"),
                "hold": ("the battery neither charges from the grid nor gives", "hold"),
                "give": (f"the battery gives about {text_of(kw, 'kW')}", "give"),
            }[window.kind]
            text = (
                f"{whose}{back} window {window.id}: the unit's clock is set into it for the test; {kind}. "
                "Then its clock is set right again."
            )
            if window.kind == "hold":
                rule = Between(0.0, "kW", None, 0.15, "nothing but its own use, common practice")
            else:
                room = kw * WINDOW_PCT / 100
                source = "setting; a full, cold or hot battery takes less, common practice"
                rule = Between(kw, "kW", CHARGE_LEAST * kw, kw + room, source)
            steps.append(
                Step(
                    f"window-{unit.id}-{window.id}",
                    "function",
                    text[0].upper() + text[1:],
                    rule,
                    before,
                    measure=Measure("battery power", unit.id, window.id),
                    proves=(unit.id,),
                )
            )
    return steps


def _surplus(job: Job, topology: Topology, before: tuple[str, ...]) -> list[Step]:
    """Loads that take only what is left over: on with it, off without."""
    names = [c.name for c in job.circuits if c.role is Role.SURPLUS]
    parts = [a.part for a in topology.automatics if a.rule == "with surplus"]
    if not names or not parts:
        return []
    when = "the battery full or export flowing" if job.mains.grid else "the battery full and sun to spare"
    text = (
        f"{' and '.join(names)}: on with {when}, off again when a cloud or another load takes it, before the "
        "battery gives for it."
    )
    measure = Measure("confirm", "", parts[0], doing="surplus")
    return [Step("surplus", "function", text, Confirmed(), before, measure=measure, proves=tuple(parts))]
