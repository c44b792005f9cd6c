"""Current in runs of cable against device and conductor: WIRE-AMP, and the battery's fuse: STO-DC."""

from lodestaff.catalogue import PackTable
from lodestaff.checks.finding import Finding, Remedy, Verdict, soft
from lodestaff.checks.runs import DC_TABLE, Run, not_in_table, resize, undecided, unreckoned
from lodestaff.electrical.conductors import Ampacity, ampacity, nec_ampacity
from lodestaff.job import Change
from lodestaff.quantities import Figure, Input, Provenance, Source, text_of
from lodestaff.quantities.errors import JobError

NO_DEVICE = "the device is unknown"


def wire_amp(run: Run) -> list[Finding]:
    """Design current, device and conductor after method, grouping, ambient and insulation."""
    if run.cable is None:
        return undecided(run, "WIRE-AMP")
    if run.unknown:
        return unreckoned(run, "WIRE-AMP", run.unknown[0], "Complete the sheet.")
    try:
        return _nec_amp(run) if run.pack.conductor_rule == "NEC" else _amp(run)
    except JobError as trouble:
        return not_in_table(run, "WIRE-AMP", trouble)


def _current(run: Run) -> tuple[float, str]:
    """The current that a conductor is chosen for, A, and how it came about."""
    if run.kind != "array":
        return run.design_a, "Ib"
    factor = run.pack.values.get("array_current_factor")
    share = factor.value if factor is not None else 1.25
    return share * run.isc_a, f"{share:g} x Isc"


def _column(run: Run) -> tuple[PackTable, str]:
    """The table and the column of current for a cable. Raises JobError where the pack has none."""
    cable, pack = run.cable, run.pack
    assert cable is not None
    if cable.table == DC_TABLE:
        return pack.table("dc_cables"), "A"
    three = f"{cable.table} 3 A"
    table = pack.table("cables")
    if run.legs < 3 or run.dc:
        return table, f"{cable.table} A"
    if three not in table.columns:
        raise JobError(
            f"{cable.table} has no column for three loaded conductors", table.source, "choose another method"
        )
    return table, three


def _factors_of(run: Run) -> tuple[float, float, float]:
    """Ambient, grouping and insulation. Raises JobError where a table has no such row."""
    cable, pack = run.cable, run.pack
    assert cable is not None
    cg = pack.table("grouping").at(cable.grouping, "factor")
    if cable.table == DC_TABLE:
        return 1.0, cg, 1.0  # rated at 60 °C of the air; cables of the model lie at 60 °C at most
    ca = pack.table("ambient").above(max(30.0, cable.ambient_c), pack.insulation_of[cable.table])
    ci = pack.table("insulation").above(cable.insulation_mm, "factor") if cable.insulation_mm else 1.0
    return ca, cg, ci


def _rated(run: Run, size: float) -> Ampacity:
    """The conductor's rating after factors at a size. Raises JobError where a table has no such row."""
    cable = run.cable
    assert cable is not None
    table, column = _column(run)
    device = cable.device_a if cable.device_a is not None else _current(run)[0]
    return ampacity(table.at(size, column), *_factors_of(run), device)


def _amp(run: Run) -> list[Finding]:
    cable = run.cable
    assert cable is not None
    found, (current, words) = _rated(run, cable.size_mm2), _current(run)
    table, column = _column(run)
    ca, cg, ci = _factors_of(run)
    # the array's conductors are protected by nothing: their own current is what they must carry
    device = cable.device_a if cable.device_a is not None or run.kind != "array" else current
    inputs = (
        Input("table", found.iz_a / found.factor, "A", f"{cable.size_mm2:g} mm², {column.removesuffix(' A') or cable.table}"),
        Input("Ca", ca, "", f"{cable.ambient_c:g} °C"),
        Input("Cg", cg, "", f"{cable.grouping} circuits"),
        Input("Ci", ci, "", f"{cable.insulation_mm:g} mm in insulation"),
        Input(words, current, "A", f"state: {run.state}" if run.state else ""),
        Input("In", device if device is not None else "unknown", "A"),
    )  # fmt: skip
    figure = Figure(f"{run.name}: rating after factors", found.iz_a, "A", "table x Ca x Cg x Ci; Ib <= In <= Iz", inputs,
                    table.cite())  # fmt: skip
    asked = device if device is not None else current
    small = found.iz_a < max(asked, current) - 1e-9
    device_small = device is not None and device < current - 1e-9
    behind = f" behind {text_of(device, 'A')}" if device is not None and run.kind != "array" else ""
    behind = behind if device is not None else " behind a device that isn't known"
    text = f"{run.name}: {text_of(current, 'A')}{behind} on {cable.size_mm2:g} mm² that carries {text_of(found.iz_a, 'A')}."
    if device_small:
        text += " The device is smaller than the current."
    verdict = Verdict.BLOCKS if small or device_small else Verdict.PASSED
    because = soft(cable=cable.known) + (() if device is not None else (NO_DEVICE,))
    return [
        Finding("WIRE-AMP", verdict, text, figure, asked, found.iz_a - asked, table.cite(), because,
                resize(run, _fitting(run, asked)) if small else (),
                "A larger conductor, another method, or fewer circuits beside it.", (run.id,))
    ]  # fmt: skip


def _fitting(run: Run, amps: float) -> float | None:
    assert run.cable is not None
    for size in run.sizes():
        try:
            if size > run.cable.size_mm2 and _rated(run, size).iz_a >= amps:
                return size
        except JobError:
            continue
    return None


# --- the North American inequality ---------------------------------------------------------------------
def _factors(run: Run) -> tuple[float, float, float, str]:
    """The conductor's current, the factor to terminals and device, and the greatest current of the source in words."""
    pack = run.pack
    continuous = pack.value("continuous_load_factor").value
    if run.kind != "array":
        return run.design_a, continuous, run.design_a, "I"
    first = pack.values.get("array_current_factor")
    both = pack.values.get("array_terminal_factor")
    if first is None or both is None:
        raise JobError("this edition of the pack has no factors for array conductors", f"pack {pack.edition}",
                       "take a newer edition")  # fmt: skip
    return first.value * run.isc_a, both.value / first.value, run.isc_a, f"{first.value:g} x Isc"


def _terminals(run: Run, amps: float) -> tuple[float, tuple[str, ...]]:
    """The terminal column's current at the cable's size, A, and why it is open. Source: NEC 110.14(C), from memory."""
    cable, tables = run.cable, run.pack.table("cables")
    assert cable is not None
    limit = run.pack.values.get("terminals_60_up_to_a")
    if limit is None or amps > limit.value or run.dc:
        return tables.at(cable.size_mm2, "Cu A"), ()
    marked = cable.terminals_c or run.terminals_c
    column = "Cu A" if marked == "75" else "Cu 60 A"
    return tables.at(cable.size_mm2, column), () if marked else (
        "the terminals' temperature isn't known, 60 °C is taken",
    )


def _nec_amp(run: Run) -> list[Finding]:
    """Terminals, adjusted rating, next standard device, small conductors."""
    cable, pack = run.cable, run.pack
    assert cable is not None
    if cable.table == DC_TABLE:
        return unreckoned(
            run, "WIRE-AMP", "the pack has no current table for metric DC cable", "Its maker's rating rules."
        )
    tables = pack.table("cables")
    current, factor, _, words = _factors(run)
    conductors = max(3, 2 * cable.grouping)
    small = {row[0]: row[1] for row in pack.table("small_conductors").rows}
    asked = factor * current
    terminal, because = _terminals(run, cable.device_a or asked)
    found = nec_ampacity(
        terminal, tables.at(cable.size_mm2, "Cu 90 A"),
        pack.table("ambient").above(max(30.0, cable.ambient_c), "90"), pack.table("bundling").above(conductors, "factor"),
        current, factor, pack.table("device_sizes").row_keys(), small.get(cable.size_mm2),
    )  # fmt: skip
    device = cable.device_a
    rows = [
        (
            found.terminal_a - found.continuous_a,
            found.continuous_a,
            f"the terminals' column is below {factor:g} x {words}",
        ),
        (found.adjusted_a - current, current, "the adjusted rating is below the current"),
    ]
    if device is not None:
        rows += [(found.device_a - device, device, "the device is larger than the conductor allows"),
                 (device - found.continuous_a, found.continuous_a, f"the device is smaller than {factor:g} x {words}")]  # fmt: skip
    elif run.kind != "array":
        because += (NO_DEVICE,)
    margin, limit, why = min(rows)
    figure = Figure(
        f"{run.name}: rating after adjustment", found.adjusted_a, "A",
        "terminal column >= factor x I; 90 °C column x ambient x bundling >= I; device <= next standard size above the smaller",
        (Input("terminal column", found.terminal_a, "A"), Input("for terminals and device", found.continuous_a, "A", f"{factor:g} x"),
         Input(words, current, "A", f"state: {run.state}" if run.state else ""),
         Input("device", device if device is not None else "unknown", "A"), Input("largest device", found.device_a, "A")),
        tables.cite(),
    )  # fmt: skip
    behind = f" behind {text_of(device, 'A')}" if device is not None else (
        "" if run.kind == "array" else " behind a device that isn't known")  # fmt: skip
    text = f"{run.name}: {text_of(current, 'A')}{behind} on {cable.size_mm2:g} mm² that carries {text_of(found.adjusted_a, 'A')}."
    blocked = margin < -1e-9
    if blocked:
        text += f" {why[0].upper()}{why[1:]}."
    return [Finding("WIRE-AMP", Verdict.BLOCKS if blocked else Verdict.PASSED, text, figure, limit, margin, tables.cite(),
                    soft(cable=cable.known) + because, (), "A larger conductor, or another device.", (run.id,))]  # fmt: skip


# --- the battery's fuse --------------------------------------------------------------------------------
def sto_dc(run: Run) -> list[Finding]:
    """The battery's current at its lowest voltage, and the fuse: I = P / (Vmin x efficiency), x the pack's margin."""
    if run.kind != "battery":
        return []
    if run.unknown or run.voltage_v is None:
        return unreckoned(
            run, "STO-DC", (*run.unknown, "the bank's lowest voltage isn't known")[0], "Complete the battery's sheet."
        )
    margin = run.pack.value("battery_current_margin")
    wanted = margin.value * run.design_a
    sizes = run.pack.table("battery_fuses").row_keys()
    fuse = next((size for size in sizes if size >= wanted - 1e-9), None)
    device = run.cable.device_a if run.cable is not None else None
    source = Source("P / (lowest voltage x efficiency) x margin", Provenance.DERIVED)
    figure = Figure(
        f"{run.name}: design current of the fuse", wanted, "A", "P / (Vmin x efficiency) x margin",
        (Input("at the bank's lowest voltage", run.voltage_v, "V"), Input("current", run.design_a, "A"),
         Input("margin", margin.value, "", margin.source), Input("next fuse", fuse or "none so large", "A")), source,
    )  # fmt: skip
    if device is None:
        text = f"{run.name}: {text_of(run.design_a, 'A')} at {text_of(run.voltage_v, 'V')}; its fuse isn't known"
        text += f", {fuse:g} A would do." if fuse else "."
        cure = (Remedy(f"{run.name}: a fuse of {fuse:g} A", (Change(f"cables/{run.id}/device_a", fuse),)),) if (
            fuse and run.cable is not None) else ()  # fmt: skip
        return [Finding("STO-DC", Verdict.NOTES, text, figure, None, None, source, ("the fuse is unknown",), cure,
                        "Read it off the stack, or choose it with its breaking capacity.", (run.id,))]  # fmt: skip
    short = device < wanted - 1e-9
    text = f"{run.name}: {text_of(wanted, 'A')} are asked of the fuse at {text_of(run.voltage_v, 'V')}; it is {text_of(device, 'A')}."
    return [Finding("STO-DC", Verdict.BLOCKS if short else Verdict.PASSED, text, figure, wanted, device - wanted, source,
                    (), (), "A larger fuse on a larger conductor, or a smaller discharge limit.", (run.id,))]  # fmt: skip
