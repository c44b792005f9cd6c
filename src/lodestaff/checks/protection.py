"""Faults to earth: WIRE-FAULT, WIRE-RCD."""

from lodestaff.checks.check import check
from lodestaff.checks.finding import Finding, Findings, Verdict, soft
from lodestaff.checks.makers import Words, at_least, at_most, noted, one_of, open_, resting_on
from lodestaff.checks.runs import Run, reckoned
from lodestaff.electrical.earthing import TRIP_MULTIPLE, adiabatic_mm2, fault_loop, tt_fault
from lodestaff.quantities import Input, Provenance, Source, text_of
from lodestaff.quantities.convention import plain
from lodestaff.quantities.gauge import NEAR

TRIP_BANDS = Source("IEC 60898 trip bands", Provenance.FROM_MEMORY)
LIMITED_FAULT = Source("an inverter's limited fault current trips no breaker", Provenance.COMMON_PRACTICE)
RCD_TYPES = ("AC", "A", "F", "B")  # each takes what those before it take; IEC 60755, from memory


@check("WIRE-FAULT", station="wire", rests_on="trip bands, pack's tables")
def wire_fault(run: Run) -> Findings:
    """Is every fault to earth disconnected, with the grid and on the island?"""
    if not run.dc and run.use != "service":  # the service's own fuse is the operator's
        yield from reckoned(run, _grounding if run.pack.conductor_rule == "NEC" else _faults)


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
    cable, pack, fact = run.chosen, run.pack, run.site.supply.ze_ohm
    rule = pack.values.get("fault_rule")
    source, name = rule.cite() if rule is not None else TRIP_BANDS, f"{run.name}: earth fault loop"
    ze = fact.value if fact.value is not None else _usual_ze(run)
    missing = [
        words
        for words, value in (
            ("the device", cable.device_a),
            ("its curve", cable.curve),
            ("the protective conductor", cable.cpc_mm2),
            ("Ze", ze),
        )
        if value is None
    ]
    if cable.device_a is None or cable.curve is None or cable.cpc_mm2 is None or ze is None:
        words = f"{', '.join(missing[:-1])} and {missing[-1]}" if len(missing) > 1 else missing[0]
        yield_words = f"{run.name}: {words} {'are' if len(missing) > 1 else 'is'} missing."
        return open_(
            text=yield_words,
            because=tuple(f"{missed} is unknown" for missed in missing),
            unit="ohm",
            name=name,
            formula="Ze + (R1 + R2) L x 1.2",
            source=source,
            advice="Read them off, or measure.",
        )
    r20, device = pack.table("copper_r20"), f"{cable.curve}{plain(cable.device_a)}"
    metal = pack.table("aluminium_r20") if cable.table.startswith("Al") else r20
    trip = pack.values.get(f"trip_{cable.curve.lower()}")
    loop = fault_loop(
        ze_ohm=ze,
        r1_mohm_per_m=metal.at(cable.size_mm2, "class2"),
        r2_mohm_per_m=r20.at(cable.cpc_mm2, "class2"),
        length_m=cable.length_m,
        u0_v=pack.value("nominal_v").value,
        cmin=pack.value("cmin").value,
        in_a=cable.device_a,
        multiple=trip.value if trip is not None else TRIP_MULTIPLE[cable.curve],
    )
    least = adiabatic_mm2(loop.fault_a, 0.1, pack.value("k_pe").value)
    kept, covered = loop.disconnects and cable.cpc_mm2 >= least, bool(cable.rcd_ma) or run.guarded_ahead
    text = (
        f"{run.name}: Zs {text_of(loop.zs_ohm, 'ohm')} of {text_of(loop.zs_max_ohm, 'ohm')} behind {device}."
    )
    if not kept and covered:
        text += f" The {f'{plain(cable.rcd_ma)} mA device' if cable.rcd_ma else 'device ahead'} clears it."
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
            Input("Ze", ze, "ohm", fact.words() if fact.value is not None else "the most of such a supply"),
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
        because=soft(Ze=fact, cable=cable.known),
        advice="A larger protective conductor, another curve, or a residual-current device.",
    )


ZE_DESIGN = {"TN-C-S": "tncs_ze_design_ohm", "TN-C": "tncs_ze_design_ohm", "TN-S": "tns_ze_design_ohm"}


def _usual_ze(run: Run) -> float | None:
    """What operators declare at most of a supply of this kind, until it is measured; of TT its electrode."""
    supply = run.site.supply
    if supply.earthing.value == "TT":
        return supply.electrode_ohm.value
    value = run.pack.values.get(ZE_DESIGN.get(supply.earthing.value or "", ""))
    return value.value if value is not None else None


def _grounding(run: Run) -> Findings:
    cable, tables = (
        run.chosen,
        run.pack.tables if "protective" in run.pack.tables else run.pack.shipped.tables,
    )
    table, device, own = tables["protective"], cable.device_a, cable.cpc_mm2
    least = table.above(device, "mm2") if device is not None else None
    asked = run.pack.size_words(least) if least is not None else "by its device, which isn't known"
    has = run.pack.size_words(own) if own is not None else "not known"
    yield at_least(
        value=own,
        limit=least,
        kept=own is not None and least is not None and own >= least * (1 - NEAR),
        unit="mm²",
        text=f"{run.name}: equipment grounding conductor {has}; at least {asked}.",
        name=f"{run.name}: equipment grounding conductor",
        formula="by the device ahead",
        inputs=(Input("device", device if device is not None else "unknown", "A"),),
        source=table.cite(),
        because=soft(cable=cable.known) if own is not None and least is not None else (),
        cures=run.change(f"take {asked} of grounding conductor", "cpc_mm2", least)
        if least is not None
        else (),
        advice="A larger one; larger still where the conductors were enlarged for drop.",
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
        why = "a TT supply, guarded ahead" if run.guarded_ahead else "a TT supply"
    elif shallow:
        why = f"only {plain(cable.depth_mm or 0.0)} mm deep in the wall"
    elif run.outlet:
        why = "sockets that the unit feeds"
    needed = (tt and not run.guarded_ahead) or shallow or run.outlet
    way = cable.depth_mm if cable.depth_mm is not None else "surface or deep"
    figure = Words(
        name=f"{run.name}: residual-current device",
        formula="needed on TT, where the way is shallow, and for sockets",
        inputs=(Input("because of", why), Input("depth", way, "mm", depth.source)),
        source=depth.cite(),
    )
    if cable.rcd_ma is None:
        yield noted(
            verdict=Verdict.BLOCKS if needed else Verdict.PASSED,
            value=0.0,
            unit="mA",
            **figure,
            because=soft(cable=cable.known),
            text=f"{run.name}: no residual-current device; {'needed' if needed else 'not needed'}: {why}.",
            cures=run.change("fit a 30 mA device", "rcd_ma", 30.0),
            quantity="needed",
            advice="Fit one, or route the cable so that none is needed.",
        )
        return
    findings = list(_fitted(run, cable.rcd_ma, figure, shallow or run.outlet, tt))
    text = f"{run.name}: {plain(cable.rcd_ma)} mA device."
    yield from findings or [
        noted(
            verdict=Verdict.PASSED,
            text=text,
            value=cable.rcd_ma,
            unit="mA",
            **figure,
            because=soft(cable=cable.known),
        )
    ]


def _fitted(run: Run, ma: float, figure: Words, for_people: bool, tt: bool) -> Findings:
    """A device that is fitted: its rated current, its type, whether it bears both ways, and the touch
    voltage."""
    cable, pack, most = run.chosen, run.pack, run.pack.values.get("rcd_ma")
    what = "sockets" if run.outlet else "a shallow way"
    if for_people and most is not None and ma > most.value:
        yield at_most(
            value=ma,
            limit=most.value,
            unit="mA",
            **resting_on(figure, most.cite()),
            quantity="rated",
            because=soft(cable=cable.known),
            text=f"{run.name}: {plain(ma)} mA protect {what}; at most {plain(most.value)} mA.",
            cures=run.change(f"fit a {plain(most.value)} mA device", "rcd_ma", most.value),
            advice="Fit one of a smaller rated current.",
        )
    asked, have = run.asked_rcd_type, cable.rcd_type
    if asked in RCD_TYPES:
        less = dict.fromkeys(RCD_TYPES[: RCD_TYPES.index(asked)], Verdict.BLOCKS)
        is_ = f"type {have}" if have else "not known"
        yield one_of(
            word=have,
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
            word=fact.value,
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
