"""The supply's voltage, and what export adds to it: SITE-VOLTAGE."""

from dataclasses import dataclass

from lodestaff.catalogue import PackValue
from lodestaff.checks.finding import Finding, Remedy, Verdict, soft
from lodestaff.electrical.conductors import voltage_rise
from lodestaff.job import Change, Site
from lodestaff.quantities import Figure, Input, Provenance, Source, text_of


@dataclass(frozen=True)
class Volts:
    """The measured voltage with what stands between the transformer and the busiest unit.

    `stages` are the grid profile's over-voltage stages (words, V, whether averaged); `wiring_ohm` is the loop of the
    unit's own feed, None where its cable isn't chosen.
    """

    site: Site
    low: PackValue
    high: PackValue
    nominal: PackValue
    stages: tuple[tuple[str, PackValue], ...]
    export_kw: float
    unit: str
    wiring_ohm: float | None
    legs: int


def site_voltage(record: Volts) -> list[Finding]:
    """Measured voltage in the statutory range; headroom to the over-voltage stages at full export."""
    fact, low, high = record.site.supply.voltage_v, record.low.value, record.high.value
    nominal = record.nominal.value
    value = fact.value if fact.value is not None else nominal
    figure = Figure(
        "Measured voltage", value, "V", "read at the origin",
        (Input("range", f"{low:g} to {high:g}", "V", record.high.source), Input("voltage", value, "V", fact.words())),
        record.high.cite(),
    )  # fmt: skip
    outside = fact.value is not None and not low <= value <= high
    margin = min(high - value, value - low)
    text = f"{text_of(value, 'V')} measured; {low:g} to {high:g} V is the range." if fact.value is not None else (
        f"The voltage wasn't measured; {low:g} to {high:g} V is the range.")  # fmt: skip
    first = Finding("SITE-VOLTAGE", Verdict.BLOCKS if outside else Verdict.PASSED, text, figure, high if value > nominal else low,
                    margin, record.high.cite(), soft(voltage=fact), (), "Measure it at several hours; tell the operator.")  # fmt: skip
    return [first, *(_headroom(record, *stage) for stage in record.stages if record.export_kw > 0)]


def _headroom(record: Volts, words: str, stage: PackValue) -> Finding:
    """Voltage at the unit at full export: the operator's loop (Ze) and the unit's own feed in series."""
    supply, nominal = record.site.supply, record.nominal.value
    grid_v = supply.voltage_v.value if supply.voltage_v.value is not None else nominal
    # a unit between legs or on all phases loads no neutral: each leg rises over its own conductor alone
    share = 0.5 if record.legs > 1 else 1.0
    loop = share * ((supply.ze_ohm.value or 0.0) + (record.wiring_ohm or 0.0))
    watts = record.export_kw * 1000 / record.legs
    source = Source("constant power over the loop, derived", Provenance.DERIVED)
    because = soft(voltage=supply.voltage_v, Ze=supply.ze_ohm)
    if record.wiring_ohm is None:
        because += (f"the cable of {record.unit} is unknown",)
    rise = voltage_rise(watts, max(loop, 1e-9), nominal, grid_v, stage.value)
    figure = Figure(
        f"At {record.unit} at full export", rise.terminal_v, "V", "V = (Vg + sqrt(Vg² + 4 P R)) / 2",
        (Input("export on each leg", watts / 1000, "kW"), Input("at the origin", grid_v, "V", supply.voltage_v.words()),
         Input("Ze", supply.ze_ohm.value if supply.ze_ohm.value is not None else "unknown", "ohm", supply.ze_ohm.words()),
         Input("unit's feed", record.wiring_ohm if record.wiring_ohm is not None else "unknown", "ohm"),
         Input(words, stage.value, "V", stage.source)),
        source, ("No current in the neutral: half of each loop. " if share < 1 else "") + "Ze stands for the operator's loop; neighbours' export and the transformer's tap add to it.",
    )  # fmt: skip
    over = rise.terminal_v > stage.value
    most = max(0.0, int(rise.p_max_w * record.legs / 10) / 100)
    cure = (
        (Remedy(f"Set the export limit to {text_of(most, 'kW')}", (Change("limits/export_kw", most),)),) if over else ()
    )
    text = f"At full export {record.unit} sees {text_of(rise.terminal_v, 'V')}; {words} is at {stage.value:g} V."
    return Finding("SITE-VOLTAGE", Verdict.WARNS if over else Verdict.PASSED, text, figure, stage.value,
                   stage.value - rise.terminal_v, stage.cite(), because, cure,
                   "A larger feed, less export, or a lower tap by the operator.")  # fmt: skip
