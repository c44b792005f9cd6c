"""Voltage drop of loads, voltage rise of sources, by run: WIRE-DROP."""

from lodestaff.checks.finding import Finding, Verdict, soft
from lodestaff.checks.runs import DC_TABLE, Run, not_in_table, resize, undecided, unreckoned
from lodestaff.electrical.conductors import Drop, dc_drop, legs_drop, longest_m, table_drop
from lodestaff.quantities import Figure, Input, text_of
from lodestaff.quantities.errors import JobError

LIMITS = {"rise": "generation_drop_pct", "drop": "load_drop_pct"}


def wire_drop(run: Run) -> list[Finding]:
    """Drop of what flows to the circuits, rise of what sources feed back, in V and %."""
    if run.cable is None:
        return undecided(run, "WIRE-DROP")
    if run.unknown or not run.voltage_v:
        return unreckoned(run, "WIRE-DROP", (*run.unknown, "its voltage isn't known")[0], "Complete the sheet.")
    ways = [("drop", run.load_a)] if run.load > 0 or run.dc else []
    ways += [("rise", run.source_a)] if run.source > 0 and not run.dc else []
    found: list[Finding] = []
    for way, by_leg in ways:
        try:
            found += _one(run, way, by_leg)
        except JobError as trouble:
            return not_in_table(run, "WIRE-DROP", trouble)
    return found


def _drop(run: Run, by_leg: tuple[tuple[str, float], ...]) -> Drop:
    """Raises JobError where no table has the cable."""
    cable, pack = run.cable, run.pack
    assert cable is not None
    assert run.voltage_v is not None
    amps = [value for _, value in by_leg]
    if cable.table == DC_TABLE:
        r20 = pack.table("copper_r20").at(cable.size_mm2, "class5_tinned")
        return dc_drop(cable.length_m, r20, 70.0, max(amps), run.voltage_v)
    mv = pack.table("cables").at(cable.size_mm2, f"{cable.table} mV/A/m")
    if run.dc or run.legs < 2:
        return table_drop(mv, max(amps), cable.length_m, run.voltage_v)
    return legs_drop(mv, amps, cable.length_m, run.voltage_v)


def _one(run: Run, way: str, by_leg: tuple[tuple[str, float], ...]) -> list[Finding]:
    cable, pack = run.cable, run.pack
    assert cable is not None
    limit = pack.value("dc_drop_pct" if run.dc else LIMITS[way])
    found = _drop(run, by_leg)
    table = pack.table("copper_r20" if cable.table == DC_TABLE else "cables")
    inputs = [
        *(Input(f"current{f' on {leg}' if leg else ''}", amps, "A") for leg, amps in by_leg),
        Input("length, one way", cable.length_m, "m"),
        Input("loop resistance", found.r_loop_ohm * 1000, "mohm"),
        Input(way, found.drop_v, "V"),
        Input("loss", found.loss_w, "W"),
        Input("of", run.voltage_v or 0.0, "V", "line to neutral" if not run.dc else ""),
    ]
    if cable.table == DC_TABLE and run.voltage_v:
        r20 = table.at(cable.size_mm2, "class5_tinned")
        most = longest_m(limit.value, r20, 70.0, max(amps for _, amps in by_leg), run.voltage_v)
        inputs.append(Input("longest way at the limit", most, "m"))
    formula = "I x loop resistance / voltage" if run.legs < 2 or run.dc else (
        "what the legs share over one conductor, what one leg has more over the loop")  # fmt: skip
    note = "The unit's terminals at full export: SITE-VOLTAGE." if way == "rise" else ""
    figure = Figure(f"{run.name}: voltage {way}", found.drop_pct, "%", formula, tuple(inputs), table.cite(), note)
    over = found.drop_pct > limit.value
    text = f"{run.name}: {way} {text_of(found.drop_v, 'V', 1)}, {found.drop_pct:.2f} % of {limit.value:g} %."
    return [
        Finding("WIRE-DROP", Verdict.WARNS if over else Verdict.PASSED, text, figure, limit.value,
                limit.value - found.drop_pct, limit.cite(), soft(cable=cable.known),
                resize(run, _fitting(run, by_leg, limit.value)) if over else (),
                "A larger conductor or a shorter way.", (run.id,))
    ]  # fmt: skip


def _fitting(run: Run, by_leg: tuple[tuple[str, float], ...], limit_pct: float) -> float | None:
    assert run.cable is not None
    for size in run.sizes():
        if size <= run.cable.size_mm2:
            continue
        try:
            if _drop(run.with_size(size), by_leg).drop_pct <= limit_pct:
                return size
        except JobError:
            continue
    return None


def loop_ohm(run: Run) -> float | None:
    """Loop resistance of a run; None where no table has its cable."""
    if run.cable is None or not run.voltage_v:
        return None
    try:
        return _drop(run, (("", 1.0),)).r_loop_ohm
    except JobError:
        return None
