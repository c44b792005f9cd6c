"""Runs of cable: WIRE-AMP, WIRE-DROP."""

from dataclasses import dataclass

from lodestaff.catalogue import Pack
from lodestaff.checks.finding import Finding, Remedy, Verdict, soft
from lodestaff.electrical.conductors import Drop, ampacity, dc_drop, longest_m, nec_ampacity, table_drop, voltage_rise
from lodestaff.job import Cable, Change, Site
from lodestaff.quantities import Figure, Input, Provenance, Source, text_of
from lodestaff.quantities.errors import JobError

UNDECIDED = Source("the run has no cable yet", Provenance.JOB)


@dataclass(frozen=True)
class Run:
    """One run: what flows in it, what it is for, and the cable chosen (None: not decided)."""

    id: str
    name: str
    kind: str  # "AC source", "AC load", "battery", "array"
    design_a: float
    voltage_v: float
    cable: Cable | None
    pack: Pack
    site: Site
    two_way: bool
    on_island: bool  # whether the unit alone may feed it


def _sizes(run: Run) -> tuple[float, ...]:
    assert run.cable is not None
    if run.cable.table == "DC class 5":
        return run.pack.table("copper_r20").row_keys()
    return tuple(size for size, *_ in run.pack.table("cables").rows if size is not None)


def _with_size(run: Run, size: float) -> Run:
    assert run.cable is not None
    return Run(
        run.id,
        run.name,
        run.kind,
        run.design_a,
        run.voltage_v,
        run.cable.model_copy(update={"size_mm2": size}),
        run.pack,
        run.site,
        run.two_way,
        run.on_island,
    )


def undecided(run: Run, code: str) -> list[Finding]:
    figure = Figure(f"{run.name}: design current", run.design_a, "A", "from the design", (), UNDECIDED)
    return [
        Finding(
            code,
            Verdict.NOTES,
            f"{run.name}: no cable chosen yet; it carries {text_of(run.design_a, 'A')}.",
            figure,
            None,
            None,
            UNDECIDED,
            ("the cable is unknown",),
            (),
            "Choose size, length and method.",
        )
    ]


def _resize(run: Run, size: float | None) -> tuple[Remedy, ...]:
    if size is None:
        return ()
    return (Remedy(f"{run.name}: take {size:g} mm²", (Change(f"cables/{run.id}/size_mm2", size),)),)


def wire_amp(run: Run) -> list[Finding]:
    """Design current, device and conductor after method, grouping, ambient and insulation (AC runs)."""
    cable, pack = run.cable, run.pack
    if cable is None:
        return undecided(run, "WIRE-AMP")
    if cable.table == "DC class 5":
        return []
    if pack.conductor_rule == "NEC":
        return _nec_amp(run)
    hot = pack.insulation_of[cable.table]
    ca = pack.table("ambient").above(max(30.0, cable.ambient_c), hot)
    cg = pack.table("grouping").at(cable.grouping, "factor")
    ci = pack.table("insulation").above(cable.insulation_mm, "factor") if cable.insulation_mm else 1.0
    device = cable.device_a if cable.device_a is not None else run.design_a
    tables = pack.table("cables")
    found = ampacity(tables.at(cable.size_mm2, f"{cable.table} A"), ca, cg, ci, device)
    figure = Figure(
        f"{run.name}: rating after factors",
        found.iz_a,
        "A",
        "table x Ca x Cg x Ci; Ib <= In <= Iz",
        (
            Input("table", found.iz_a / found.factor, "A", f"{cable.size_mm2:g} mm², {cable.table}"),
            Input("Ca", ca, "", f"{cable.ambient_c:g} °C"),
            Input("Cg", cg, "", f"{cable.grouping} circuits"),
            Input("Ci", ci, "", f"{cable.insulation_mm:g} mm in insulation"),
            Input("Ib", run.design_a, "A"),
            Input("In", device, "A"),
        ),
        tables.cite(),
    )
    small, device_small = found.iz_a < device - 1e-9, device < run.design_a - 1e-9
    fit = next(
        (s for s in _sizes(run) if s > cable.size_mm2 and tables.at(s, f"{cable.table} A") * found.factor >= device),
        None,
    )
    text = f"{run.name}: {text_of(run.design_a, 'A')} behind {text_of(device, 'A')} on {cable.size_mm2:g} mm² that carries {text_of(found.iz_a, 'A')}."
    if device_small:
        text += " The device is smaller than the current."
    verdict = Verdict.BLOCKS if small or device_small else Verdict.PASSED
    return [
        Finding(
            "WIRE-AMP",
            verdict,
            text,
            figure,
            device,
            found.iz_a - device,
            tables.cite(),
            soft(cable=cable.known),
            _resize(run, fit) if small else (),
            "A larger conductor, another method, or fewer circuits beside it.",
            (run.id,),
        )
    ]


def _nec_amp(run: Run) -> list[Finding]:
    """The North American inequality: terminals, adjusted rating, next standard device, small conductors."""
    cable, pack = run.cable, run.pack
    assert cable is not None
    tables, factor = pack.table("cables"), pack.value("continuous_load_factor")
    conductors = max(3, 2 * cable.grouping)
    small = {row[0]: row[1] for row in pack.table("small_conductors").rows}
    found = nec_ampacity(
        tables.at(cable.size_mm2, "Cu A"), tables.at(cable.size_mm2, "Cu 90 A"),
        pack.table("ambient").above(max(30.0, cable.ambient_c), "90"), pack.table("bundling").above(conductors, "factor"),
        run.design_a, factor.value, pack.table("device_sizes").row_keys(), small.get(cable.size_mm2),
    )  # fmt: skip
    device = cable.device_a if cable.device_a is not None else found.continuous_a
    rows = (
        (
            found.terminal_a - found.continuous_a,
            found.continuous_a,
            "the terminals' column is below 1.25 x the current",
        ),
        (found.adjusted_a - run.design_a, run.design_a, "the adjusted rating is below the current"),
        (found.device_a - device, device, "the device is larger than the conductor allows"),
        (device - found.continuous_a, found.continuous_a, "the device is smaller than 1.25 x the current"),
    )
    margin, limit, words = min(rows)
    figure = Figure(f"{run.name}: rating after adjustment", found.adjusted_a, "A",
                    "75 °C column >= 1.25 I; 90 °C column x ambient x bundling >= I; device <= next standard size",
                    (Input("75 °C column", found.terminal_a, "A"), Input("1.25 I", found.continuous_a, "A"),
                     Input("I", run.design_a, "A"), Input("device", device, "A"),
                     Input("largest device", found.device_a, "A")), tables.cite())  # fmt: skip
    text = (f"{run.name}: {text_of(run.design_a, 'A')} behind {text_of(device, 'A')} on {cable.size_mm2:g} mm² "
            f"that carries {text_of(found.adjusted_a, 'A')}.")  # fmt: skip
    blocked = margin < -1e-9
    if blocked:
        text += f" {words[0].upper()}{words[1:]}."
    return [Finding("WIRE-AMP", Verdict.BLOCKS if blocked else Verdict.PASSED, text, figure, limit, margin, tables.cite(),
                    soft(cable=cable.known), (), "A larger conductor, or another device.", (run.id,))]  # fmt: skip


def _drop(run: Run) -> Drop:
    cable, pack = run.cable, run.pack
    assert cable is not None
    if cable.table == "DC class 5":
        r20 = pack.table("copper_r20").at(cable.size_mm2, "class5_tinned")
        return dc_drop(cable.length_m, r20, 70.0, run.design_a, run.voltage_v)
    mv = pack.table("cables").at(cable.size_mm2, f"{cable.table} mV/A/m")
    return table_drop(mv, run.design_a, cable.length_m, run.voltage_v)


def wire_drop(run: Run) -> list[Finding]:
    """Voltage drop of loads and array runs, voltage rise of sources, per run in V and %."""
    cable, pack = run.cable, run.pack
    if cable is None:
        return undecided(run, "WIRE-DROP")
    limit = pack.value({"AC source": "generation_drop_pct", "AC load": "load_drop_pct"}.get(run.kind, "dc_drop_pct"))
    found = _drop(run)
    table = pack.table("copper_r20" if cable.table == "DC class 5" else "cables")
    word = "rise" if run.kind == "AC source" else "drop"
    inputs = [
        Input("current", run.design_a, "A"),
        Input("length, one way", cable.length_m, "m"),
        Input("loop resistance", found.r_loop_ohm * 1000, "mohm"),
        Input(word, found.drop_v, "V"),
        Input("loss", found.loss_w, "W"),
        Input("of", run.voltage_v, "V"),
    ]
    if cable.table == "DC class 5":
        r20 = table.at(cable.size_mm2, "class5_tinned")
        most = longest_m(limit.value, r20, 70.0, run.design_a, run.voltage_v)
        inputs.append(Input("longest way at the limit", most, "m"))
    note = ""
    supply = run.site.supply.voltage_v
    if run.kind == "AC source" and supply.value is not None:
        top = pack.value("voltage_high_v")
        rise = voltage_rise(run.design_a * run.voltage_v, found.r_loop_ohm, run.voltage_v, supply.value, top.value)
        inputs.append(
            Input("at the unit's terminals", rise.terminal_v, "V", f"from {supply.value:g} V, of {top.value:g} V")
        )
        note = f"At full export {text_of(rise.terminal_v, 'V')} at the terminals; this run alone would reach {top.value:g} V at {text_of(rise.p_max_w / 1000, 'kW')}. The service adds its own rise."
    figure = Figure(
        f"{run.name}: voltage {word}",
        found.drop_pct,
        "%",
        "I x loop resistance / voltage",
        tuple(inputs),
        table.cite(),
        note,
    )
    over = found.drop_pct > limit.value
    fit = next(
        (
            s
            for s in _sizes(run)
            if s > cable.size_mm2
            and _drop_or_none(_with_size(run, s)) is not None
            and _drop(_with_size(run, s)).drop_pct <= limit.value
        ),
        None,
    )
    text = f"{run.name}: {word} {text_of(found.drop_v, 'V', 1)}, {found.drop_pct:.2f} % of {limit.value:g} %."
    return [
        Finding(
            "WIRE-DROP",
            Verdict.WARNS if over else Verdict.PASSED,
            text,
            figure,
            limit.value,
            limit.value - found.drop_pct,
            limit.cite(),
            soft(cable=cable.known),
            _resize(run, fit) if over else (),
            "A larger conductor or a shorter way.",
            (run.id,),
        )
    ]


def loop_ohm(run: Run) -> float | None:
    """Loop resistance of a run; None where no table has its cable."""
    found = _drop_or_none(run)
    return None if found is None else found.r_loop_ohm


def _drop_or_none(run: Run) -> Drop | None:
    try:
        return _drop(run)
    except JobError:
        return None
