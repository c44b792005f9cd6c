"""Faults to earth: WIRE-FAULT, WIRE-RCD."""

from lodestaff.checks.check import check
from lodestaff.checks.finding import Finding, Findings, Verdict, soft
from lodestaff.checks.makers import Words, at_most, noted, one_of, open_, resting_on
from lodestaff.checks.runs import Run, reckoned
from lodestaff.electrical.earthing import adiabatic_mm2, fault_loop, tt_fault
from lodestaff.quantities import Input, Provenance, Source, text_of
from lodestaff.quantities.convention import plain

TRIP_BANDS = Source("IEC 60898 trip bands", Provenance.FROM_MEMORY)
LIMITED_FAULT = Source("an inverter's limited fault current trips no breaker", Provenance.COMMON_PRACTICE)
RCD_TYPES = ("AC", "A", "F", "B")  # each takes what those before it take; IEC 60755, from memory


@check("WIRE-FAULT", station="wire", rests_on="trip bands", rules=("IEC",))
def wire_fault(run: Run) -> Findings:
    """Is every fault to earth disconnected, with the grid and on the island?"""
    if not run.dc and run.use != "service":  # the service's own fuse is the operator's
        yield from reckoned(run, _faults)


def _faults(run: Run) -> Findings:
    yield _loop(run)
    if run.kind == "AC load" and run.on_island:
        ma = run.chosen.rcd_ma
        clears = (
            "nothing clears an earth fault."
            if ma is None
            else f"the {plain(ma)} mA device clears an earth fault."
        )
        yield noted(
            verdict=Verdict.BLOCKS if ma is None else Verdict.PASSED,
            text=f"{run.name}: on the island {clears}",
            value=ma or 0.0,
            unit="mA",
            name=f"{run.name}: protection on the island",
            formula="residual-current device or the maker's electronic cut-off",
            source=LIMITED_FAULT,
            because=soft(cable=run.chosen.known),
            cures=run.change("fit a 30 mA device", "rcd_ma", 30.0),
            advice="Fit a residual-current device.",
            quantity="island",
        )


def _loop(run: Run) -> Finding:
    cable, pack, ze = run.chosen, run.pack, run.site.supply.ze_ohm
    rule = pack.values.get("fault_rule")
    source, name = rule.cite() if rule is not None else TRIP_BANDS, f"{run.name}: earth fault loop"
    if cable.device_a is None or cable.curve is None or cable.cpc_mm2 is None or ze.value is None:
        return open_(
            text=f"{run.name}: device, protective conductor or Ze is missing.",
            because=("device, protective conductor or Ze is unknown",),
            unit="ohm",
            name=name,
            formula="Ze + (R1 + R2) L x 1.2",
            source=source,
            advice="Read them off, or measure.",
        )
    r20, device = pack.table("copper_r20"), f"{cable.curve}{plain(cable.device_a)}"
    metal = pack.table("aluminium_r20") if cable.table.startswith("Al") else r20
    loop = fault_loop(
        ze_ohm=ze.value,
        r1_mohm_per_m=metal.at(cable.size_mm2, "class2"),
        r2_mohm_per_m=r20.at(cable.cpc_mm2, "class2"),
        length_m=cable.length_m,
        u0_v=pack.value("nominal_v").value,
        cmin=pack.value("cmin").value,
        in_a=cable.device_a,
        curve=cable.curve,
    )
    least = adiabatic_mm2(loop.fault_a, 0.1, pack.value("k_pe").value)
    kept, covered = loop.disconnects and cable.cpc_mm2 >= least, cable.rcd_ma is not None
    text = (
        f"{run.name}: Zs {text_of(loop.zs_ohm, 'ohm')} of {text_of(loop.zs_max_ohm, 'ohm')} behind {device}."
    )
    if not kept and cable.rcd_ma is not None:
        text += f" The {plain(cable.rcd_ma)} mA device clears it."
    return at_most(
        value=loop.zs_ohm,
        limit=loop.zs_max_ohm,
        unit="ohm",
        kept=kept,
        text=text,
        name=name,
        worse=Verdict.NOTES if covered else Verdict.BLOCKS,
        formula="Ze + (R1 + R2) L x 1.2 <= U0 Cmin / Ia",
        inputs=(
            Input("Ze", ze.value, "ohm", ze.words()),
            Input("device", device),
            Input("measured cold, at most", loop.measured_limit_ohm, "ohm"),
            Input("fault current", loop.fault_a, "A"),
            Input(
                "protective conductor, at least",
                least,
                "mm²",
                f"adiabatic at 0.1 s; {plain(cable.cpc_mm2)} chosen",
            ),
        ),
        source=source,
        because=soft(Ze=ze, cable=cable.known),
        advice="A larger protective conductor, another curve, or a residual-current device.",
    )


@check("WIRE-RCD", station="wire", rests_on="pack", rules=("IEC",))
def wire_rcd(run: Run) -> Findings:
    """Is a residual-current device there where needed, and of the right kind?"""
    if not run.dc and run.use != "service":
        yield from reckoned(run, _devices)


def _devices(run: Run) -> Findings:
    cable, depth = run.chosen, run.pack.value("wall_depth_mm")
    tt = run.site.supply.earthing.value == "TT"
    shallow = cable.depth_mm is not None and cable.depth_mm < depth.value
    why = "no shallow way in a wall"
    if tt:
        why = "a TT supply"
    elif shallow:
        why = f"only {plain(cable.depth_mm or 0.0)} mm deep in the wall"
    way = cable.depth_mm if cable.depth_mm is not None else "surface or deep"
    figure = Words(
        name=f"{run.name}: residual-current device",
        formula="needed on TT, or where the way is shallow",
        inputs=(Input("because of", why), Input("depth", way, "mm", depth.source)),
        source=depth.cite(),
    )
    if cable.rcd_ma is None:
        yield noted(
            verdict=Verdict.BLOCKS if tt or shallow else Verdict.PASSED,
            value=0.0,
            unit="mA",
            **figure,
            because=soft(cable=cable.known),
            text=f"{run.name}: no residual-current device; {'needed' if tt or shallow else 'not needed'}: "
            f"{why}.",
            cures=run.change("fit a 30 mA device", "rcd_ma", 30.0),
            quantity="needed",
            advice="Fit one, or route the cable so that none is needed.",
        )
        return
    found = list(_fitted(run, cable.rcd_ma, figure, shallow, tt))
    text = f"{run.name}: {plain(cable.rcd_ma)} mA device."
    yield from found or [
        noted(
            verdict=Verdict.PASSED,
            text=text,
            value=cable.rcd_ma,
            unit="mA",
            **figure,
            because=soft(cable=cable.known),
        )
    ]


def _fitted(run: Run, ma: float, figure: Words, shallow: bool, tt: bool) -> Findings:
    """A device that is fitted: its rated current, its type, whether it bears both ways, and the touch
    voltage."""
    cable, pack, most = run.chosen, run.pack, run.pack.values.get("rcd_ma")
    if shallow and most is not None and ma > most.value:
        yield at_most(
            value=ma,
            limit=most.value,
            unit="mA",
            **resting_on(figure, most.cite()),
            quantity="rated",
            because=soft(cable=cable.known),
            text=f"{run.name}: {plain(ma)} mA protect a shallow way; at most {plain(most.value)} mA.",
            cures=run.change(f"fit a {plain(most.value)} mA device", "rcd_ma", most.value),
            advice="Fit one of a smaller rated current.",
        )
    asked, have = run.asked_rcd_type, cable.rcd_type
    if asked in RCD_TYPES:
        less = dict.fromkeys(RCD_TYPES[: RCD_TYPES.index(asked)], Verdict.BLOCKS)
        is_ = f"type {have}" if have else "not known"
        yield one_of(
            found=have,
            bad=less,
            value=ma,
            unit="mA",
            quantity="type",
            text=f"{run.name}: the unit's sheet asks for a device of type {asked}; it is {is_}.",
            **figure,
            because=() if have else ("the device's type is unknown",),
            advice="Read the type off the device that was delivered.",
        )
    if run.two_way:
        fact = cable.rcd_bidirectional
        is_ = "not bidirectional" if fact.value == "no" else "bidirectional"
        yield one_of(
            found=fact.value,
            bad={"no": Verdict.BLOCKS},
            value=ma,
            unit="mA",
            quantity="both ways",
            text=f"{run.name} can feed both ways; its {plain(ma)} mA device is {is_} ({fact.words()}).",
            **figure,
            because=soft(bidirectional_device=fact),
            advice="Fit a bidirectional device; read it off the one delivered.",
        )
    ra = run.site.supply.electrode_ohm.value
    if tt and ra is not None:
        limit = pack.value("touch_limit_v")
        fault = tt_fault(ra, ma / 1000, pack.value("nominal_v").value, limit.value)
        yield at_most(
            value=fault.touch_v,
            limit=limit.value,
            unit="V",
            quantity="touch",
            text=f"{run.name}: touch voltage {text_of(fault.touch_v, 'V', 1)} of "
            f"{text_of(limit.value, 'V')}.",
            name=f"{run.name}: touch voltage",
            formula="Ra x Idn",
            source=limit.cite(),
            inputs=(Input("Ra", ra, "ohm"), Input("most Ra", fault.ra_max_ohm, "ohm")),
        )
