"""Steps before anything works: dead tests of the wiring, starting in the equipment's order, settings."""

from lodestaff.commissioning.rules import Between, Confirmed, SettingIs
from lodestaff.commissioning.settings_sheet import Setting, settings_sheet
from lodestaff.commissioning.step import Measure, MeasureKind, Step
from lodestaff.job import Job, Unit
from lodestaff.topology import Topology

BONDING_OHM = 0.05  # main bonding conductors, common practice
BATTERY_PCT = 12.0  # the voltage follows the state of charge
CLOCK_S = 60.0
START_WORDS = {
    "battery": "Close the battery {isolator}; the unit shows its battery.",
    "grid": "Close the unit's feed; the unit shows the grid, and waits its time.",
    "array": "Close the DC {isolator}s one after the other; the unit shows each tracker's volts.",
}


def dead_steps(job: Job, topology: Topology) -> list[Step]:
    """Continuity, bonding, polarity, torque and the electrode before anything is live."""
    cautions, pack = job.pack.cautions, job.pack
    units = ", ".join(unit.name for unit in job.units)
    runs = sorted({conductor.run for conductor in topology.conductors if conductor.run})
    wires = tuple(conductor.id for conductor in topology.conductors if conductor.run)
    before = ("prove-dead",)
    steps = [
        Step("prove-dead", "dead tests", f"Prove the feeds of {units} dead.", Confirmed(), (), cautions["prove_dead"]),
        Step("continuity", "dead tests", f"Continuity of the protective conductors of {len(runs)} runs.", Confirmed(),
             before, proves=wires),
        Step("bonding", "dead tests", "Main bonding conductors, the highest reading.",
             Between(BONDING_OHM, "ohm", None, BONDING_OHM, "common practice"), before,
             measure=Measure("bonding")),
        Step("polarity", "dead tests", "Polarity of every run, at both ends.", Confirmed(), before, proves=wires),
        Step("torque", "dead tests", "Every terminal to its torque, marked.", Confirmed(), before),
    ]  # fmt: skip
    if job.has_electrode:
        most = pack.value("island_electrode_max_ohm")
        rule = Between(most.value, "ohm", None, most.value, str(most.cite()))
        text = f"{pack.word('earth').capitalize()} electrode at the unit: resistance."
        steps.append(
            Step("electrode", "dead tests", text, rule, before, cautions["tncs"], measure=Measure("electrode"))
        )
    return steps


def start_steps(job: Job, before: tuple[str, ...]) -> list[Step]:
    """The supply's voltage, then for each unit its battery and the order in which it is started."""
    pack = job.pack
    low, high, nominal = (pack.value(name) for name in ("voltage_low_v", "voltage_high_v", "nominal_v"))
    steps = [
        Step(
            "supply-v",
            "start",
            f"Voltage at the main {pack.word('isolator')}.",
            Between(nominal.value, "V", low.value, high.value, str(high.cite())),
            before,
            measure=Measure("supply v"),
            proves=("supply", "cutout", "main-isolator"),
        )
    ]
    for unit in job.units:
        steps += _start_unit(job, unit, steps[-1].id)
    return steps


def _start_unit(job: Job, unit: Unit, previous: str) -> list[Step]:
    steps: list[Step] = []
    bank, cautions = job.bank_of(unit), job.pack.cautions
    present = {"grid": True, "battery": bank is not None, "array": bool(job.strings)}
    for source in job.sheet_of(unit).start_order:
        if not present[source]:
            continue
        if source == "battery" and bank is not None:
            sheet = job.sheets.batteries[bank.sheet]
            rule: Between | Confirmed = Confirmed()
            if sheet.v_nominal is not None:
                room = sheet.v_nominal * BATTERY_PCT / 100
                rule = Between(sheet.v_nominal, "V", sheet.v_nominal - room, sheet.v_nominal + room,
                               "battery's sheet; the voltage follows the state of charge")  # fmt: skip
            text = (
                f"{bank.modules} modules: addresses, terminator, the right port; polarity and voltage before closing."
            )
            steps.append(Step(f"battery-{bank.id}", "start", text, rule, (previous,), cautions["battery"],
                              measure=Measure("battery v", unit.id, bank.id),
                              proves=(bank.id, f"{bank.id}-isolator")))  # fmt: skip
            previous = steps[-1].id
        caution = {"battery": "battery", "array": "live_in_daylight", "grid": "prove_dead"}[source]
        text = START_WORDS[source].format(isolator=job.pack.word("isolator"))
        proves = (f"{unit.id}-feed",) if source == "grid" else ()
        steps.append(Step(f"start-{unit.id}-{source}", "start", text, Confirmed(), (previous,), cautions[caution],
                          proves=(unit.id, *proves)))  # fmt: skip
        previous = steps[-1].id
    return steps


def setting_steps(job: Job, previous: str) -> list[Step]:
    """Each line of the settings sheet, set and read back, in its order."""
    steps = []
    for setting in settings_sheet(job):
        text = f"{setting.name}: {setting.shown} ({setting.way}); read it back."
        kind: MeasureKind = "setting" if setting.way == "over the link" else "setting by hand"
        rule = setting_rule(setting)
        measure = Measure(kind, setting.unit, setting.key) if isinstance(rule, SettingIs) else Measure()
        name = f"set-{setting.unit}-{setting.key}"
        steps.append(Step(name, "settings", text, rule, (previous,), measure=measure, proves=(setting.unit,)))
        previous = name
    return steps


def setting_rule(setting: Setting) -> SettingIs | Confirmed:
    """How a setting's reading is held against the sheet: numbers as the device holds them, words as they stand."""
    by_hand = setting.way != "over the link"
    if not setting.numbers or (by_hand and (len(setting.numbers) > 1 or setting.key in ("clock", "mode"))):
        return Confirmed()
    if setting.key == "clock":
        return SettingIs("clock", (0.0,), CLOCK_S, "s")
    unit = "kW" if setting.key.endswith("_kw") else "%" if setting.key.endswith("_soc") else ""
    near = 0.0005 if unit == "kW" else 0.06 if unit == "%" else 0.01
    return SettingIs(setting.key, setting.numbers, near, unit)
