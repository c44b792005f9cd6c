"""Runs of cable: WIRE-AMP, WIRE-DROP, WIRE-FAULT, WIRE-RCD, WIRE-EARTH."""

from dataclasses import dataclass

from lodestaff.catalogue import Pack
from lodestaff.checks.finding import Finding, Remedy, Verdict, soft
from lodestaff.electrical.conductors import Drop, ampacity, dc_drop, table_drop, voltage_rise
from lodestaff.electrical.earthing import adiabatic_mm2, fault_loop, tt_fault
from lodestaff.job import Cable, Change, Site
from lodestaff.quantities import Figure, Input, Provenance, Source, text_of

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


def _undecided(run: Run, code: str) -> list[Finding]:
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
        return _undecided(run, "WIRE-AMP")
    if cable.table == "DC class 5":
        return []
    hot = "90" if cable.table == "4E4 C" else "70"
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
        return _undecided(run, "WIRE-DROP")
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
    note = ""
    supply = run.site.supply.voltage_v
    if run.kind == "AC source" and supply.value is not None:
        most = pack.value("voltage_high_v")
        rise = voltage_rise(run.design_a * run.voltage_v, found.r_loop_ohm, run.voltage_v, supply.value, most.value)
        inputs.append(
            Input("at the unit's terminals", rise.terminal_v, "V", f"from {supply.value:g} V, of {most.value:g} V")
        )
        note = f"At full export {text_of(rise.terminal_v, 'V')} at the terminals; this run alone would reach {most.value:g} V at {text_of(rise.p_max_w / 1000, 'kW')}. The service adds its own rise."
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


def _drop_or_none(run: Run) -> Drop | None:
    from lodestaff.quantities.errors import JobError

    try:
        return _drop(run)
    except JobError:
        return None


def wire_fault(run: Run) -> list[Finding]:
    """Disconnection: Zs against the device with the grid; on the island the unit's current won't trip a breaker."""
    cable, pack = run.cable, run.pack
    if run.kind not in ("AC source", "AC load"):
        return []
    if cable is None:
        return _undecided(run, "WIRE-FAULT")
    source = Source("BS 7671 411.4 and IEC 60898 trip bands", Provenance.FROM_MEMORY)
    ze, findings = run.site.supply.ze_ohm, []
    if cable.device_a is None or cable.curve is None or cable.cpc_mm2 is None or ze.value is None:
        figure = Figure(f"{run.name}: earth fault loop", float("nan"), "ohm", "Ze + (R1 + R2) L x 1.2", (), source)
        findings.append(
            Finding(
                "WIRE-FAULT",
                Verdict.NOTES,
                f"{run.name}: device, protective conductor or Ze is missing.",
                figure,
                None,
                None,
                source,
                ("device, protective conductor or Ze is unknown",),
            )
        )
    else:
        r20 = pack.table("copper_r20")
        loop = fault_loop(
            ze.value,
            r20.at(cable.size_mm2, "class2"),
            r20.at(cable.cpc_mm2, "class2"),
            cable.length_m,
            pack.value("nominal_v").value,
            pack.value("cmin").value,
            cable.device_a,
            cable.curve,
        )
        least = adiabatic_mm2(loop.fault_a, 0.1, pack.value("k_pe").value)
        figure = Figure(
            f"{run.name}: earth fault loop",
            loop.zs_ohm,
            "ohm",
            "Ze + (R1 + R2) L x 1.2 <= U0 Cmin / Ia",
            (
                Input("Ze", ze.value, "ohm", ze.words()),
                Input("device", f"{cable.curve}{cable.device_a:g}"),
                Input("measured cold, at most", loop.measured_limit_ohm, "ohm"),
                Input("fault current", loop.fault_a, "A"),
                Input("protective conductor, at least", least, "mm²", f"adiabatic at 0.1 s; {cable.cpc_mm2:g} chosen"),
            ),
            source,
        )
        bad = not loop.disconnects or cable.cpc_mm2 < least
        covered = cable.rcd_ma is not None
        text = f"{run.name}: Zs {text_of(loop.zs_ohm, 'ohm')} of {text_of(loop.zs_max_ohm, 'ohm')} behind {cable.curve}{cable.device_a:g}."
        if bad and covered:
            text += f" The {cable.rcd_ma:g} mA device clears it."
        findings.append(
            Finding(
                "WIRE-FAULT",
                Verdict.NOTES if bad and covered else Verdict.BLOCKS if bad else Verdict.PASSED,
                text,
                figure,
                loop.zs_max_ohm,
                loop.zs_max_ohm - loop.zs_ohm,
                source,
                soft(Ze=ze, cable=cable.known),
                (),
                "A larger protective conductor, another curve, or a residual-current device.",
                (run.id,),
            )
        )
    if run.kind == "AC load" and run.on_island:
        practice = Source("an inverter's limited fault current trips no breaker", Provenance.COMMON_PRACTICE)
        figure = Figure(
            f"{run.name}: protection on the island",
            cable.rcd_ma or 0.0,
            "mA",
            "residual-current device or the maker's electronic cut-off",
            (),
            practice,
        )
        safe = cable.rcd_ma is not None
        findings.append(
            Finding(
                "WIRE-FAULT",
                Verdict.PASSED if safe else Verdict.BLOCKS,
                f"{run.name}: on the island "
                + (
                    f"the {cable.rcd_ma:g} mA device clears an earth fault."
                    if cable.rcd_ma
                    else "nothing clears an earth fault."
                ),
                figure,
                None,
                None,
                practice,
                soft(cable=cable.known),
                ()
                if safe
                else (Remedy(f"{run.name}: fit a 30 mA device", (Change(f"cables/{run.id}/rcd_ma", 30.0),)),),
                "Fit a residual-current device.",
                (run.id,),
            )
        )
    return findings


def wire_rcd(run: Run) -> list[Finding]:
    """Residual-current device where needed; bidirectional where power flows both ways."""
    cable, pack = run.cable, run.pack
    if run.kind not in ("AC source", "AC load"):
        return []
    if cable is None:
        return _undecided(run, "WIRE-RCD")
    depth = pack.value("wall_depth_mm")
    tt = run.site.supply.earthing.value == "TT"
    shallow = cable.depth_mm is not None and cable.depth_mm < depth.value
    needed = tt or shallow
    why = (
        "a TT supply"
        if tt
        else f"only {cable.depth_mm:g} mm deep in the wall"
        if shallow
        else "no shallow way in a wall"
    )
    figure = Figure(
        f"{run.name}: residual-current device",
        cable.rcd_ma or 0.0,
        "mA",
        "needed on TT, or where the way is shallow",
        (
            Input("because of", why),
            Input("depth", cable.depth_mm if cable.depth_mm is not None else "surface or deep", "mm", depth.source),
        ),
        depth.cite(),
    )
    if cable.rcd_ma is None:
        words = "needed: " + why if needed else "not needed: " + why
        remedies = (
            (Remedy(f"{run.name}: fit a 30 mA device", (Change(f"cables/{run.id}/rcd_ma", 30.0),)),) if needed else ()
        )
        return [
            Finding(
                "WIRE-RCD",
                Verdict.BLOCKS if needed else Verdict.PASSED,
                f"{run.name}: no residual-current device; {words}.",
                figure,
                None,
                None,
                depth.cite(),
                soft(cable=cable.known),
                remedies,
                "Fit one, or route the cable so that none is needed.",
                (run.id,),
            )
        ]
    findings = []
    if run.two_way:
        fact = cable.rcd_bidirectional
        wrong = fact.value == "no"
        findings.append(
            Finding(
                "WIRE-RCD",
                Verdict.BLOCKS if wrong else Verdict.PASSED,
                f"{run.name} can feed both ways; its {cable.rcd_ma:g} mA device is {'not ' if wrong else ''}bidirectional ({fact.words()}).",
                figure,
                None,
                None,
                depth.cite(),
                soft(bidirectional_device=fact),
                (),
                "Fit a bidirectional device; read it off the one delivered.",
                (run.id,),
            )
        )
    if tt and run.site.supply.electrode_ohm.value is not None:
        limit = pack.value("touch_limit_v")
        fault = tt_fault(
            run.site.supply.electrode_ohm.value, cable.rcd_ma / 1000, pack.value("nominal_v").value, limit.value
        )
        touch = Figure(
            f"{run.name}: touch voltage",
            fault.touch_v,
            "V",
            "Ra x Idn",
            (Input("Ra", run.site.supply.electrode_ohm.value, "ohm"), Input("most Ra", fault.ra_max_ohm, "ohm")),
            limit.cite(),
        )
        findings.append(
            Finding(
                "WIRE-RCD",
                Verdict.PASSED if fault.touch_v <= limit.value else Verdict.BLOCKS,
                f"{run.name}: touch voltage {text_of(fault.touch_v, 'V', 1)} of {text_of(limit.value, 'V')}.",
                touch,
                limit.value,
                limit.value - fault.touch_v,
                limit.cite(),
            )
        )
    return findings or [
        Finding(
            "WIRE-RCD",
            Verdict.PASSED,
            f"{run.name}: {cable.rcd_ma:g} mA device.",
            figure,
            None,
            None,
            depth.cite(),
            soft(cable=cable.known),
            (),
            "",
            (run.id,),
        )
    ]


@dataclass(frozen=True)
class Electrode:
    """The electrode that the island needs where the transfer opens the neutral."""

    site: Site
    planned: bool
    needed: bool
    limit_name: str
    pack: Pack


def wire_earth(record: Electrode) -> list[Finding]:
    """Earth electrode where the transfer opens the neutral: resistance against the pack's limit."""
    fact, limit = record.site.supply.electrode_ohm, record.pack.value(record.limit_name)
    if not record.needed:
        figure = Figure(
            "Electrode for the island", 0.0, "ohm", "not needed: the neutral isn't switched", (), limit.cite()
        )
        return [
            Finding(
                "WIRE-EARTH", Verdict.PASSED, "The neutral isn't switched: the supply's earth and bond stay.", figure
            )
        ]
    value = fact.value if fact.value is not None else float("nan")
    figure = Figure(
        "Electrode for the island",
        value,
        "ohm",
        "measured, or the rod formula of BS 7430",
        (Input("electrode", fact.value if fact.value is not None else "unknown", "ohm", fact.words()),),
        limit.cite(),
        record.pack.cautions.get("tncs", ""),
    )
    if not record.planned:
        return [
            Finding(
                "WIRE-EARTH",
                Verdict.BLOCKS,
                "The transfer opens the neutral and no electrode is planned: the island has no earth of its own.",
                figure,
                limit.value,
                None,
                limit.cite(),
                (),
                (Remedy("Plan an electrode at the changeover", (Change("wiring/electrode", True),)),),
                "Locate gas, cable and water first.",
            )
        ]
    over = fact.value is not None and fact.value > limit.value
    return [
        Finding(
            "WIRE-EARTH",
            Verdict.WARNS if over else Verdict.PASSED,
            f"The electrode has {text_of(value, 'ohm')} of at most {text_of(limit.value, 'ohm')}.",
            figure,
            limit.value,
            None if fact.value is None else limit.value - fact.value,
            limit.cite(),
            soft(electrode=fact),
            (),
            "Drive a further rod; locate gas, cable and water first.",
        )
    ]
