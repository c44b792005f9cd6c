"""Steps of the meters that count what a unit makes: their registers against what the unit says of its day."""

from dataclasses import dataclass

from lodestaff.commissioning.expect import (
    Conditions,
    Expected,
    MeterDay,
    hybrid_meter_day,
    net_generation_kwh,
    register_kwh,
)
from lodestaff.commissioning.rules import Asked, Confirmed
from lodestaff.commissioning.step import Measure, Step
from lodestaff.job import Job, Unit
from lodestaff.job.plan import Insert
from lodestaff.quantities import text_of
from lodestaff.quantities.convention import plain
from lodestaff.topology import Topology
from lodestaff.topology.questions import asked

REGISTER_KWH = 100_000.0  # five digits, then it begins again; common practice
METER_PCT, LEAST_KWH = 6.0, 0.1  # meter's class and the unit's own counting; common practice
PROVES_KWH = 1.0
ONE_WAY: tuple[Asked, ...] = ("out_from_kwh", "sun_kwh")
TWO_WAY: tuple[Asked, ...] = ("out_from_kwh", "in_from_kwh", "in_to_kwh", "sun_kwh")
STORING: tuple[Asked, ...] = ("sun_stored_kwh", "stored_kwh")
ALONG = ("meter", "isolator", "breaker", "rcd")  # what a unit's feed passes on its way to a board


@dataclass(frozen=True)
class MeterRegisters:
    """The meter's register of what came out, after a time in which the battery took and gave back the same.

    Efficiencies are the sheets'; `rate` is paid for each kWh of net generation. Source: derived; common
    practice.
    """

    eta_dcdc: float
    eta_battery: float
    eta_inverter: float
    rate: float | None
    asks: tuple[Asked, ...]
    unit: str = "kWh"

    def day(self, conditions: Conditions) -> MeterDay:
        """What the meter ought to count of what the unit says of the time."""
        c = conditions
        into = register_kwh(c.in_from_kwh or 0.0, c.in_to_kwh or 0.0, REGISTER_KWH)
        sun_stored, stored = c.sun_stored_kwh or 0.0, c.stored_kwh or 0.0
        by_grid = max(0.0, stored - sun_stored * self.eta_dcdc)
        return hybrid_meter_day(
            c.sun_kwh or 0.0,
            sun_stored,
            eta_dcdc=self.eta_dcdc,
            grid_in_kwh=into,
            eta_grid_charge=by_grid / into if into > 0 else 0.0,
            eta_battery=self.eta_battery,
            eta_inverter=self.eta_inverter,
        )

    def expected(self, conditions: Conditions) -> Expected:
        out = self.day(conditions).out_kwh
        value = ((conditions.out_from_kwh or 0.0) + out) % REGISTER_KWH
        room = max(LEAST_KWH, out * METER_PCT / 100)
        below = out if out < PROVES_KWH else room  # in little light a unit's own use is much of it
        source = f"what the unit counted, by its sheets; {plain(METER_PCT)} % of it, common practice"
        return Expected(value, "kWh", value - below, value + room, source)

    def weak(self, value: float, conditions: Conditions) -> str:
        out = register_kwh(conditions.out_from_kwh or 0.0, value, REGISTER_KWH)
        return f"only {text_of(out, 'kWh')} came out meanwhile" if out < PROVES_KWH else ""

    def tells(self, value: float, conditions: Conditions) -> str:
        """What the registers say: out, in, what was generated, and what is paid for it."""
        c, lost = conditions, self.day(conditions).grid_cycle_loss_kwh
        starts = c.out_from_kwh or 0.0, c.in_from_kwh or 0.0
        out, into, net = net_generation_kwh(
            starts[0], value, starts[1], in_end=c.in_to_kwh or 0.0, rollover=REGISTER_KWH
        )
        words = f"out {text_of(out, 'kWh')}"
        if "in_to_kwh" in self.asks:
            words += f", in {text_of(into, 'kWh')}, generated {text_of(net, 'kWh')}"
        if self.rate is not None:
            words += f", paid {plain(self.rate * net, 2)}"
        if lost > 0.005:
            words += f"; charging from the grid took {text_of(lost, 'kWh')} off it"
        return words


def meter_steps(job: Job, topology: Topology, before: tuple[str, ...]) -> list[Step]:
    """Each meter on a new unit's feed, after some hours of work."""
    if not job.mains.grid:
        return []
    steps = []
    for insert in job.adjustments:
        if not isinstance(insert, Insert) or insert.what != "meter" or insert.id not in topology.parts:
            continue
        unit = next((u for u in job.units if insert.id in _along(topology, u)), None)
        if unit is None or unit.existing or not topology.unit(unit.id).arrays:
            continue
        by_its_port = any(unit.id in island.forming for island in asked(topology).islands)
        make = _beside_its_port if by_its_port and topology.unit(unit.id).transfer else _step
        steps.append(make(job, insert, unit, before))
    return steps


def _step(job: Job, insert: Insert, unit: Unit, before: tuple[str, ...]) -> Step:
    sheet, bank = job.sheet_of(unit), job.bank_of(unit)
    asks = TWO_WAY if insert.two_way else ONE_WAY
    whose = f" of {unit.name}" if len(job.units) > 1 else ""
    text = f"{insert.name}{whose}: its registers written down, and again after some hours of sun"
    if bank is not None:
        asks = (*asks, *STORING)
        text += ", the battery as full as before"
    text += "; the one for what comes out, against what the unit counted."
    if insert.two_way:
        text += " What is generated is out less in."
    rule = MeterRegisters(
        sheet.eta_dcdc,
        eta_battery=job.sheets.batteries[bank.sheet].eta_round_trip if bank is not None else 1.0,
        eta_inverter=max(eta for _, eta in sheet.efficiency),
        rate=insert.rate,
        asks=asks,
    )
    measure = Measure("registers", unit.id, insert.id)
    return Step(f"meter-{insert.id}", "function", text, rule, before, measure=measure, proves=(insert.id,))


def _beside_its_port(job: Job, insert: Insert, unit: Unit, before: tuple[str, ...]) -> Step:
    """What a unit feeds by its own port never passes a meter on its grid side."""
    text = (
        f"{insert.name}: it counts only what passes between {unit.name} and the supply, not what hangs on "
        f"{unit.name}'s own port. Its registers written down; the one for what comes out moves with surplus "
        "sun"
    )
    text += ", the other while more is taken than the sun gives." if insert.two_way else "."
    name = f"meter-{insert.id}"
    return Step(
        name,
        "function",
        text,
        Confirmed(),
        before,
        measure=Measure("confirm", unit.id, insert.id),
        proves=(insert.id,),
    )


def _along(topology: Topology, unit: Unit) -> set[str]:
    """What a unit's feed passes on its way to a board."""
    port = topology.unit(unit.id)
    seen, ends = set[str](), [port.grid]
    while ends:
        end = ends.pop()
        for conductor in topology.conductors:
            for here, there in ((conductor.a, conductor.b), (conductor.b, conductor.a)):
                name = there[0]
                near = here == end or (here[0] == end[0] and end[0] in seen)
                if near and name not in seen and topology.parts[name].kind in ALONG:
                    seen.add(name)
                    ends.append(there)
    return seen
