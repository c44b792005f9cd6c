"""Steps that let the installation work: meter, power, balance, limits, the outage and the return of the grid."""

from lodestaff.commissioning.rules import ArrayPower, Between, Confirmed, LoadSeen
from lodestaff.commissioning.step import Measure, Step
from lodestaff.commissioning.string_steps import array_part
from lodestaff.job import Circuit, Job, Role, Unit
from lodestaff.quantities import text_of
from lodestaff.topology import Topology

BOND_V = 5.0  # between neutral and earth where a bond is; common practice
LOSS_LOW_PCT, LOSS_HIGH_PCT = -3.0, 10.0  # converter losses with the meters' error; common practice
EXPORT_REACH = 0.8  # of the limit, that a test must come to
TRANSFER_FACTOR = 1.5


def known_load(job: Job) -> Circuit | None:
    """The circuit to switch on for the CT's test: on the grid only, a heater before others, the largest of them."""
    fit = [c for c in job.with_role(Role.GRID) if c.care == "none" and c.kind != "car charger"]
    return max(fit, key=lambda circuit: (circuit.kind == "heating", circuit.running_w), default=None)


def function_steps(job: Job, topology: Topology, previous: str, absent: frozenset[str]) -> list[Step]:
    steps: list[Step] = []
    circuit = known_load(job)
    load = f"{circuit.name} on ({text_of(circuit.running_w / 1000, 'kW')})" if circuit else "a known load on"
    heater_kw = circuit.running_w / 1000 if circuit is not None and circuit.kind == "heating" else None
    for unit in job.units[:1]:
        steps.append(
            Step(
                "ct",
                "function",
                f"CT: right conductor, right way. {unit.name} in standby, {load}: the meter shows import of as much.",
                LoadSeen(heater_kw, job.pack.value("nominal_v").value),
                (previous,),
                measure=Measure("ct", unit.id, circuit.id if circuit else ""),
                proves=("meter",),
            )
        )
    for unit in job.units:
        steps += _power_steps(job, unit, absent)
        steps.append(_balance(job, unit))
    last = steps[-1].id
    steps += _limit_and_outage(job, topology, last)
    return steps


def _power_steps(job: Job, unit: Unit, absent: frozenset[str]) -> list[Step]:
    steps, sheet = [], job.sheet_of(unit)
    for tracker in sheet.trackers:
        strings = [s for s in job.strings_on(unit.id, tracker.name) if job.modules_in(s.id)]
        there = [s for s in strings if s.id not in absent]
        if not strings:
            continue
        parts = [(job.sheets.modules[f.module], n) for s in there for f, n in job.modules_in(s.id)]
        watts = sum(module.pmp_w * count for module, count in parts)
        names = ", ".join(string.name for string in there)
        gamma = parts[0][0].gamma_pmp_pct_per_k if parts else 0.0
        steps.append(
            Step(
                f"power-{unit.id}-{tracker.name.lower()}",
                "function",
                f"Power of tracker {tracker.name} (string {names or 'none yet'}), the battery charging so that nothing "
                "holds the array back.",
                ArrayPower(watts, gamma, sheet.max_dc_kw),
                ("ct",),
                needs="" if there else "no string of this tracker is in yet",
                measure=Measure("tracker power", unit.id, tracker.name),
                proves=tuple(dict.fromkeys(array_part(string) for string in strings)),
            )
        )
    return steps


def _balance(job: Job, unit: Unit) -> Step:
    rule = Between(4.0, "%", LOSS_LOW_PCT, LOSS_HIGH_PCT, "converter losses and meters' error, common practice")
    text = f"{unit.name}: sun = into the battery + to the site ± losses; what is missing, of the largest flow."
    return Step(f"balance-{unit.id}", "function", text, rule, ("ct",), measure=Measure("balance", unit.id),
                proves=(unit.id,))  # fmt: skip


def _limit_and_outage(job: Job, topology: Topology, previous: str) -> list[Step]:
    limits, pack = job.limits, job.pack
    margin = pack.value("meter_error_share")
    held = [c.name for c in job.with_role(Role.HELD)]
    first, sheet = job.units[0], job.sheet_of(job.units[0])
    export = Between(limits.export_kw, "kW", None, limits.export_kw * (1 + margin.value), str(margin.cite()),
                     EXPORT_REACH * limits.export_kw)  # fmt: skip
    steps = [
        Step(
            "export",
            "function",
            f"Export limit: battery held, loads off; export stays at or below {text_of(limits.export_kw, 'kW')}.",
            export,
            (previous,),
            needs="",
            measure=Measure("export", first.id),
            proves=(f"{first.id}-feed", "meter"),
        )
    ]
    if not any(job.bank_of(unit) for unit in job.units):
        return steps
    boards = tuple(f"{unit.id}-essential" for unit in job.units)
    circuits = tuple(f"circuit-{c.id}" for c in job.with_role(Role.HELD, Role.SHED))
    steps += [
        Step(
            "outage",
            "function",
            f"Outage test by the main {pack.word('isolator')}: {len(held)} held circuits stay on, the others are dead.",
            Confirmed(),
            ("export",),
            pack.cautions["cutout"],
            proves=("main-isolator", *boards, *circuits),
        ),
        Step(
            "transfer",
            "function",
            "How long the essential board was dark.",
            Between(
                sheet.transfer_s, "s", None, TRANSFER_FACTOR * sheet.transfer_s, "unit's sheet, half as much again"
            ),
            ("outage",),
            measure=Measure("transfer", first.id),
            proves=boards,
        ),
    ]
    steps += [_bond(job, topology, unit) for unit in job.units if job.bank_of(unit)]
    bonds = tuple(step.id for step in steps if step.id.startswith("bond-"))
    text = "The grid returns: the unit waits its time, then takes it again."
    steps.append(Step("return", "function", text, Confirmed(), bonds, proves=tuple(u.id for u in job.units)))
    if job.has_bypass:
        text = "Bypass: essential board on the grid, the unit off; then back."
        proves = tuple(name for unit in job.units for name in (f"{unit.id}-bypass", f"{unit.id}-bypass-feed"))
        steps.append(Step("bypass", "function", text, Confirmed(), ("return",), pack.cautions["bypass"], proves=proves))
    steps.append(Step("explain", "function", "The customer has worked the outage and the bypass, and knows the signs.",
                      Confirmed(), ("return",), pack.cautions["not_emergency"]))  # fmt: skip
    return steps


def _bond(job: Job, topology: Topology, unit: Unit) -> Step:
    relay = next((ports.bond_relay for ports in topology.units if ports.unit == unit.id), None)
    rule = Between(0.0, "V", None, BOND_V, "a neutral with its bond stays near earth, common practice")
    return Step(
        f"bond-{unit.id}",
        "function",
        "In island mode: one neutral-earth bond; volts between neutral and earth at the essential board.",
        rule,
        ("outage",),
        job.pack.cautions["prove_dead"],
        measure=Measure("neutral-earth v", unit.id),
        proves=(relay,) if relay else (f"{unit.id}-essential",),
    )
