"""Faults to earth: WIRE-FAULT, WIRE-RCD."""

from lodestaff.checks.finding import Finding, Remedy, Verdict, soft
from lodestaff.checks.runs import Run, not_in_table, undecided
from lodestaff.electrical.earthing import adiabatic_mm2, fault_loop, tt_fault
from lodestaff.job import Change
from lodestaff.quantities import Figure, Input, Provenance, Source, text_of
from lodestaff.quantities.errors import JobError


def wire_fault(run: Run) -> list[Finding]:
    """Disconnection: Zs against the device with the grid; on the island the unit's current won't trip a breaker."""
    if run.dc:
        return []
    if run.cable is None:
        return undecided(run, "WIRE-FAULT")
    try:
        return _faults(run)
    except JobError as trouble:
        return not_in_table(run, "WIRE-FAULT", trouble)


def _faults(run: Run) -> list[Finding]:
    cable, pack = run.cable, run.pack
    assert cable is not None
    rule = pack.values.get("fault_rule")
    source = rule.cite() if rule is not None else Source("IEC 60898 trip bands", Provenance.FROM_MEMORY)
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
                (),
                "Read them off, or measure.",
                (run.id,),
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
    if run.dc:
        return []
    if cable is None:
        return undecided(run, "WIRE-RCD")
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
    findings = _rated(run, shallow, figure, depth.cite())
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


RCD_TYPES = ("AC", "A", "F", "B")  # each takes what those before it take; IEC 60755, from memory


def _rated(run: Run, shallow: bool, figure: Figure, source: Source) -> list[Finding]:
    """The device's rated mA against what a shallow way asks, and its type against what the unit's sheet asks."""
    cable = run.cable
    assert cable is not None
    assert cable.rcd_ma is not None
    found = []
    most = run.pack.values.get("rcd_ma")
    if shallow and most is not None and cable.rcd_ma > most.value:
        found.append(Finding(
            "WIRE-RCD", Verdict.BLOCKS, f"{run.name}: {cable.rcd_ma:g} mA protect a shallow way; at most {most.value:g} mA.",
            figure, most.value, most.value - cable.rcd_ma, most.cite(), soft(cable=cable.known),
            (Remedy(f"{run.name}: fit a {most.value:g} mA device", (Change(f"cables/{run.id}/rcd_ma", most.value),)),),
            "Fit one of a smaller rated current.", (run.id,)))  # fmt: skip
    asked = run.asked_rcd_type
    if asked in RCD_TYPES:
        have = cable.rcd_type
        less = have is not None and RCD_TYPES.index(have) < RCD_TYPES.index(asked)
        text = f"{run.name}: the unit's sheet asks for a device of type {asked}; it is {f'type {have}' if have else 'not known'}."
        found.append(Finding(
            "WIRE-RCD", Verdict.BLOCKS if less else Verdict.PASSED, text, figure, None, None, source,
            () if have else ("the device's type is unknown",), (), "Read the type off the device that was delivered.",
            (run.id,)))  # fmt: skip
    return found
