"""The supply's voltage, and what export adds to it: SITE-VOLTAGE."""

from dataclasses import dataclass

from lodestaff.catalogue import PackValue
from lodestaff.checks.check import check
from lodestaff.checks.finding import Finding, Findings, Verdict, cure, soft
from lodestaff.checks.makers import at_most, noted
from lodestaff.checks.site import read
from lodestaff.electrical.conductors import voltage_rise
from lodestaff.job import Site
from lodestaff.quantities import Input, Provenance, Source, text_of
from lodestaff.quantities.convention import plain

OVER_THE_LOOP = Source("constant power over the loop, derived", Provenance.DERIVED)


@dataclass(frozen=True)
class Volts:
    """The measured voltage with what stands between the transformer and the busiest unit.

    `stages` are the grid profile's over-voltage stages (words, V, whether averaged); `wiring_ohm` is the loop
    of the unit's own feed, None where its cable isn't chosen.
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


@check("SITE-VOLTAGE", station="site", rests_on="pack")
def site_voltage(record: Volts) -> Findings:
    """Is the voltage in its range, and is there headroom at full export?"""
    fact, low, high = record.site.supply.voltage_v, record.low.value, record.high.value
    value = fact.value if fact.value is not None else record.nominal.value
    said = "The voltage wasn't measured" if fact.value is None else f"{text_of(value, 'V')} measured"
    outside = fact.value is not None and not low <= value <= high
    yield noted(
        verdict=Verdict.BLOCKS if outside else Verdict.PASSED,
        value=value,
        unit="V",
        limit=high if value > record.nominal.value else low,
        margin=min(high - value, value - low),
        text=f"{said}; {plain(low)} to {plain(high)} V is the range.",
        name="Measured voltage",
        formula="read at the origin",
        inputs=(
            Input("range", f"{plain(low)} to {plain(high)}", "V", record.high.source),
            Input("voltage", value, "V", fact.words()),
        ),
        source=record.high.cite(),
        because=soft(voltage=fact),
        quantity="range",
        advice="Measure it at several hours; tell the operator.",
    )
    if record.export_kw > 0:
        yield from (_headroom(record, words, stage) for words, stage in record.stages)


def _headroom(record: Volts, words: str, stage: PackValue) -> Finding:
    """Voltage at the unit at full export: the operator's loop (Ze) and the unit's own feed in series."""
    supply, unit = record.site.supply, record.unit
    grid_v = supply.voltage_v.value if supply.voltage_v.value is not None else record.nominal.value
    # a unit between legs or on all phases loads no neutral: each leg rises over its own conductor alone
    share = 0.5 if record.legs > 1 else 1.0
    loop = share * ((supply.ze_ohm.value or 0.0) + (record.wiring_ohm or 0.0))
    watts = record.export_kw * 1000 / record.legs
    unknown = (f"the cable of {unit} is unknown",) if record.wiring_ohm is None else ()
    rise = voltage_rise(watts, max(loop, 1e-9), record.nominal.value, grid_v, stage.value)
    most = max(0.0, int(rise.p_max_w * record.legs / 10) / 100)
    feed = record.wiring_ohm if record.wiring_ohm is not None else "unknown"
    return at_most(
        value=rise.terminal_v,
        limit=stage.value,
        unit="V",
        worse=Verdict.WARNS,
        quantity=words,
        text=f"At full export {unit} sees {text_of(rise.terminal_v, 'V')}; {words} is at "
        f"{plain(stage.value)} V.",
        name=f"At {unit} at full export",
        formula="V = (Vg + sqrt(Vg² + 4 P R)) / 2",
        inputs=(
            Input("export on each leg", watts / 1000, "kW"),
            Input("at the origin", grid_v, "V", supply.voltage_v.words()),
            read("Ze", supply.ze_ohm, "ohm"),
            Input("unit's feed", feed, "ohm"),
            Input(words, stage.value, "V", stage.source),
        ),
        source=OVER_THE_LOOP,
        rests_on=stage.cite(),
        note=("No current in the neutral: half of each loop. " if share < 1 else "")
        + "Ze stands for the operator's loop; neighbours' export and the transformer's tap add to it.",
        because=soft(voltage=supply.voltage_v, Ze=supply.ze_ohm) + unknown,
        cures=cure(f"Set the export limit to {text_of(most, 'kW')}", "limits/export_kw", most),
        advice="A larger feed, less export, or a lower tap by the operator.",
    )
