"""Current in runs of cable against device and conductor: WIRE-AMP, and the battery's fuse: STO-DC."""

from lodestaff.catalogue import PackTable
from lodestaff.checks.check import check
from lodestaff.checks.finding import Findings, Verdict, soft
from lodestaff.checks.makers import Words, at_least, noted, open_
from lodestaff.checks.runs import DC_TABLE, Run, reckoned, unreckoned
from lodestaff.electrical.conductors import Ampacity, ampacity, nec_ampacity, neutral_a
from lodestaff.quantities import Input, Provenance, Source, text_of
from lodestaff.quantities.convention import plain
from lodestaff.quantities.errors import JobError

NO_DEVICE = ("the device is unknown",)
LOWEST = Source("P / (lowest voltage x efficiency) x margin", Provenance.DERIVED)


@check("WIRE-AMP", station="wire", rests_on="pack's tables")
def wire_amp(run: Run) -> Findings:
    """Does every run carry its device, and the device its current?"""
    return reckoned(run, _by_rule)


def _by_rule(run: Run) -> Findings:
    if run.unknown:
        yield unreckoned(run, run.unknown[0], "Complete the sheet.")
    elif run.pack.conductor_rule == "NEC":
        yield from _nec_amp(run)
    else:
        yield from _amp(run)


def _current(run: Run) -> tuple[float, str]:
    """The current that a conductor is chosen for, A, and how it came about."""
    if run.kind != "array":
        return run.design_a, "Ib"
    factor = run.pack.values.get("array_current_factor")
    share = factor.value if factor is not None else 1.25
    return share * run.isc_a, f"{plain(share)} x Isc"


def _column(run: Run) -> tuple[PackTable, str]:
    """The table and the column of current for a cable. Raises JobError where the pack has none."""
    cable, table = run.chosen, run.pack.table("cables")
    if cable.table == DC_TABLE:
        return run.pack.table("dc_cables"), "A"
    if run.legs < 3 or run.dc:
        return table, f"{cable.table} A"
    three = f"{cable.table} 3 A"
    if three not in table.columns:
        what = f"{cable.table} has no column for three loaded conductors"
        raise JobError(what, table.source, "choose another method")
    return table, three


def _around(run: Run) -> float:
    """The temperature around a cable, °C: its own, or the pack's for its way."""
    own = run.chosen.ambient_c
    return own if own is not None else run.pack.around(run.chosen.table).value


def _factors_of(run: Run) -> tuple[float, float, float, float]:
    """Ambient, grouping, insulation and soil. Raises JobError where a table has no such row."""
    cable, pack = run.chosen, run.pack
    cg = pack.table("grouping").at(cable.grouping, "factor")
    if cable.table == DC_TABLE:
        hot = _around(run) > 60 or "dc_ambient" in pack.tables
        return (pack.table("dc_ambient").above(_around(run), "factor") if hot else 1.0), cg, 1.0, 1.0
    ca = pack.table("ambient").above(_around(run), pack.insulation_of[cable.table])
    ci = pack.table("insulation").above(cable.insulation_mm, "factor") if cable.insulation_mm else 1.0
    cs = pack.table("soil").above(_soil(run), "factor") if pack.buried(cable.table) else 1.0
    return ca, cg, ci, cs


def _soil(run: Run) -> float:
    own = run.chosen.soil_k_m_w
    return own if own is not None else run.pack.value("soil_k_m_w").value


def _rated(run: Run) -> Ampacity:
    """The conductor's rating after factors. Raises JobError where a table has no such row."""
    table, column = _column(run)
    device = run.chosen.device_a if run.chosen.device_a is not None else _current(run)[0]
    ca, cg, ci, cs = _factors_of(run)
    return ampacity(table.at(run.chosen.size_mm2, column), ca * cs, cg, ci, device)


def _cause(run: Run) -> str:
    """In which state a run carries most, on which leg, and which way."""
    by_leg = run.load_a if run.load >= run.source else run.source_a
    if run.dc or not run.state or not by_leg:
        return ""
    leg = f" on {max(by_leg, key=lambda pair: pair[1])[0]}" if run.legs > 1 else ""
    way = "what runs, charges and passes beyond it" if run.load >= run.source else "what sources give back"
    return f"Most in the state {run.state}{leg}: {way}."


def _neutral(run: Run) -> tuple[Input, ...]:
    """What the neutral carries of a run with several legs."""
    if run.dc or run.legs < 2:
        return ()
    amps = max((run.load_a, run.source_a), key=lambda by_leg: max((a for _, a in by_leg), default=0.0))
    return (Input("neutral", neutral_a([a for _, a in amps], run.angles_deg), "A", "vector sum of the legs"),)


def _behind(run: Run, device: float | None) -> str:
    """The device that protects a run, in words; an array's is protected by nothing."""
    if run.kind == "array":
        return ""
    return f" behind {text_of(device, 'A')}" if device is not None else " behind a device that isn't known"


def _amp(run: Run) -> Findings:
    cable, rated, (current, words) = run.chosen, _rated(run), _current(run)
    (table, column), (ca, cg, ci, cs) = _column(run), _factors_of(run)
    soil = (Input("soil", cs, "", f"{plain(_soil(run))} K m/W"),) if run.pack.buried(cable.table) else ()
    # the array's conductors are protected by nothing: their own current is what they must carry
    device = cable.device_a if cable.device_a is not None or run.kind != "array" else current
    asked = device if device is not None else current
    large = rated.iz_a >= max(asked, current) - 1e-9
    text = f"{run.name}: {text_of(current, 'A')}{_behind(run, device)} on {run.size} that carries "
    text += f"{text_of(rated.iz_a, 'A')}."
    if device is not None and device < current - 1e-9:
        text += " The device is smaller than the current."
    yield at_least(
        value=rated.iz_a,
        limit=asked,
        unit="A",
        kept=large and asked >= current - 1e-9,
        text=text,
        name=f"{run.name}: rating after factors",
        formula="table x Ca x Cg x Ci; Ib <= In <= Iz",
        inputs=(
            Input(
                "table",
                rated.iz_a / rated.factor,
                "A",
                f"{run.size}, {column.removesuffix(' A') or cable.table}",
            ),
            Input("Ca", ca, "", f"{plain(_around(run))} °C"),
            Input("Cg", cg, "", f"{cable.grouping} circuits"),
            Input("Ci", ci, "", f"{plain(cable.insulation_mm)} mm in insulation"),
            *soil,
            Input(words, current, "A", f"state: {run.state}" if run.state else ""),
            *_neutral(run),
            Input("In", device if device is not None else "unknown", "A"),
        ),
        source=table.cite(),
        note=_cause(run),
        because=soft(cable=cable.known) + (NO_DEVICE if device is None else ()),
        cures=lambda: () if large else run.smallest(lambda larger: _rated(larger).iz_a >= asked),
        advice="A larger conductor, another method, or fewer circuits beside it.",
    )


# --- the North American inequality ---------------------------------------------------------------------
def _factors(run: Run) -> tuple[float, float, str]:
    """The conductor's current, the factor to terminals and device, and the current of the source in words."""
    pack = run.pack
    if run.use == "service":  # its device limits what passes, whatever runs for how long
        return run.design_a, 1.0, "I"
    if run.kind != "array":
        return run.design_a, pack.value("continuous_load_factor").value, "I"
    first, both = pack.values.get("array_current_factor"), pack.values.get("array_terminal_factor")
    if first is None or both is None:
        what = "this edition of the pack has no factors for array conductors"
        raise JobError(what, f"pack {pack.edition}", "take a newer edition")
    return first.value * run.isc_a, both.value / first.value, f"{plain(first.value)} x Isc"


def _terminals(run: Run, amps: float) -> tuple[float, tuple[str, ...]]:
    """The terminal column's current at the cable's size, A, and why it is open. Source: NEC 110.14(C), from
    memory."""
    cable, tables = run.chosen, run.pack.table("cables")
    limit = run.pack.values.get("terminals_60_up_to_a")
    if limit is None or amps > limit.value or run.dc:
        return tables.at(cable.size_mm2, f"{cable.table} A"), ()
    marked = cable.terminals_c or run.terminals_c
    column = f"{cable.table} A" if marked == "75" else f"{cable.table} 60 A"
    unknown = () if marked else ("the terminals' temperature isn't known, 60 °C is taken",)
    return tables.at(cable.size_mm2, column), unknown


def _nec_amp(run: Run) -> Findings:
    """Terminals, adjusted rating, next standard device, small conductors."""
    cable, pack = run.chosen, run.pack
    if cable.table == DC_TABLE:
        why = "the pack has no current table for metric DC cable"
        yield unreckoned(run, why, "Its maker's rating rules.")
        return
    tables, device, (current, factor, words) = pack.table("cables"), cable.device_a, _factors(run)
    small = {row[0]: row[1] for row in pack.table("small_conductors").rows}
    terminal, because = _terminals(run, device or factor * current)
    rated = nec_ampacity(
        column_75_a=terminal,
        column_90_a=tables.at(cable.size_mm2, f"{cable.table} 90 A"),
        ambient=pack.table("ambient").above(_around(run), pack.insulation_of[cable.table]),
        bundling=pack.table("bundling").above(max(3, 2 * cable.grouping), "factor"),
        current_a=current,
        continuous_factor=factor,
        device_sizes_a=pack.table("device_sizes").row_keys(),
        small_conductor_a=small.get(cable.size_mm2),
    )
    asked = rated.continuous_a
    rows = [
        (rated.terminal_a - asked, asked, f"the terminals' column is below {plain(factor)} x {words}"),
        (rated.adjusted_a - current, current, "the adjusted rating is below the current"),
    ]
    if device is not None:
        rows += [
            (rated.device_a - device, device, "the device is larger than the conductor allows"),
            (device - asked, asked, f"the device is smaller than {plain(factor)} x {words}"),
        ]
    elif run.kind != "array":
        because += NO_DEVICE
    margin, limit, why = min(rows)
    blocked = margin < -1e-9
    yield noted(
        verdict=Verdict.BLOCKS if blocked else Verdict.PASSED,
        value=rated.adjusted_a,
        unit="A",
        limit=limit,
        text=f"{run.name}: {text_of(current, 'A')}{_behind(run, device)} on {run.size} that "
        f"carries {text_of(rated.adjusted_a, 'A')}.{f' {why[0].upper()}{why[1:]}.' if blocked else ''}",
        margin=margin,
        name=f"{run.name}: rating after adjustment",
        formula="terminal column >= factor x I; 90 °C column x ambient x bundling >= I; "
        "device <= next standard size above the smaller",
        inputs=(
            Input("terminal column", rated.terminal_a, "A"),
            Input("for terminals and device", asked, "A", f"{plain(factor)} x"),
            Input(words, current, "A", f"state: {run.state}" if run.state else ""),
            *_neutral(run),
            Input("device", device if device is not None else "unknown", "A"),
            Input("largest device", rated.device_a, "A"),
        ),
        source=tables.cite(),
        note=_cause(run),
        because=soft(cable=cable.known) + because,
        advice="A larger conductor, or another device.",
    )


# --- the battery's fuse --------------------------------------------------------------------------------
@check("STO-DC", station="wire", rests_on="battery's sheet, pack")
def sto_dc(run: Run) -> Findings:
    """Does the battery's fuse bear its current at the lowest voltage?"""
    # I = P / (Vmin x efficiency), x the pack's margin
    if run.kind != "battery":
        return
    if run.unknown or run.voltage_v is None:
        why = (*run.unknown, "the bank's lowest voltage isn't known")[0]
        yield unreckoned(run, why, "Complete the battery's sheet.")
        return
    margin, volts = run.pack.value("battery_current_margin"), text_of(run.voltage_v, "V")
    wanted = margin.value * run.design_a
    fuse = next((size for size in run.pack.table("battery_fuses").row_keys() if size >= wanted - 1e-9), None)
    device = run.cable.device_a if run.cable is not None else None
    figure = Words(
        name=f"{run.name}: design current of the fuse",
        formula="P / (Vmin x efficiency) x margin",
        source=LOWEST,
        inputs=(
            Input("at the bank's lowest voltage", run.voltage_v, "V"),
            Input("current", run.design_a, "A"),
            Input("margin", margin.value, "", margin.source),
            Input("next fuse", fuse or "none so large", "A"),
        ),
    )
    if device is None:
        text = f"{run.name}: {text_of(run.design_a, 'A')} at {volts}; its fuse isn't known"
        cures = (
            run.change(f"a fuse of {plain(fuse)} A", "device_a", fuse)
            if fuse and run.cable is not None
            else ()
        )
        yield open_(
            text=text + (f", {plain(fuse)} A would do." if fuse else "."),
            because=("the fuse is unknown",),
            value=wanted,
            unit="A",
            **figure,
            cures=cures,
            advice="Read it off the stack, or choose it with its breaking capacity.",
        )
        return
    yield noted(
        verdict=Verdict.BLOCKS if device < wanted - 1e-9 else Verdict.PASSED,
        value=wanted,
        unit="A",
        limit=wanted,
        margin=device - wanted,
        **figure,
        text=f"{run.name}: {text_of(wanted, 'A')} are asked of the fuse at {volts}; it is "
        f"{text_of(device, 'A')}.",
        advice="A larger fuse on a larger conductor, or a smaller discharge limit.",
    )
