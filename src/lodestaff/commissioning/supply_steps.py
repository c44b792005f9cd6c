"""Steps before anything works: dead tests of the wiring, the supply, and settings read back."""

from lodestaff.commissioning.rules import Between, Confirmed, SettingIs
from lodestaff.commissioning.settings_sheet import Setting, settings_sheet
from lodestaff.commissioning.step import Measure, MeasureKind, Step
from lodestaff.job import Job
from lodestaff.link.keys import unit_of
from lodestaff.topology import Topology
from lodestaff.topology.questions import has_generator

BONDING_OHM = 0.05  # main bonding conductors, common practice
CLOCK_S = 60.0


def dead_steps(job: Job, topology: Topology) -> list[Step]:
    """Continuity, bonding, polarity, torque and the electrode before anything is live."""
    pack = job.pack
    units = ", ".join(unit.name for unit in job.units)
    runs = sorted({conductor.run for conductor in topology.conductors if conductor.run})
    wires = tuple(conductor.id for conductor in topology.conductors if conductor.run)
    before = ("prove-dead",)
    dead, text = pack.caution("prove_dead"), f"Prove the feeds of {units} dead."
    if has_generator(topology):
        dead, text = (
            f"{dead} {pack.caution('generator')}",
            f"Lock out the generator's start; prove the feeds of {units} dead.",
        )
    steps = [
        Step("prove-dead", "dead tests", text=text, rule=Confirmed(), waits_for=(), caution=dead),
        Step("continuity", "dead tests", "Continuity of the protective conductors of "
                                         f"{len(runs)} runs.", Confirmed(),
             before, proves=wires),
        Step("bonding", "dead tests", "Main bonding conductors, the highest reading.",
             Between(BONDING_OHM, "ohm", None, BONDING_OHM, "common practice"), before,
             measure=Measure("bonding")),
        Step("polarity", "dead tests", "Polarity of every run, at both "
                                       "ends.", Confirmed(), before, proves=wires),
        Step("torque", "dead tests", "Every terminal to its torque, marked.", Confirmed(), before),
    ]  # fmt: skip
    if job.has_electrode:
        most = pack.value("island_electrode_max_ohm")
        rule = Between(most.value, "ohm", None, most.value, str(most.cite()))
        supply = job.site.supply.earthing.value
        cautions = [pack.caution("tncs")] if job.mains.grid and supply in ("TN-C-S", "MEN") else []
        steps.append(
            Step(
                "electrode",
                "dead tests",
                text=f"{pack.word('earth').capitalize()} electrode: resistance.",
                rule=rule,
                waits_for=before,
                caution=" ".join([*cautions, pack.caution("electrode")]),
                measure=Measure("electrode"),
            )
        )
    return steps


def supply_steps(job: Job, before: tuple[str, ...]) -> list[Step]:
    """The supply's voltage; nothing where there is no grid."""
    if not job.mains.grid:
        return []
    pack = job.pack
    low, high, nominal = (pack.value(name) for name in ("voltage_low_v", "voltage_high_v", "nominal_v"))
    legs = (
        f", {', '.join(job.site.phases)} each to neutral, the farthest from its nominal"
        if len(job.site.phases) > 1
        else ""
    )
    return [
        Step(
            "supply-v",
            "start",
            f"Voltage at the main {pack.word('isolator')}{legs}.",
            Between(nominal.value, "V", low.value, high.value, str(high.cite())),
            before,
            measure=Measure("supply v"),
            proves=("supply", "cutout", "main-isolator"),
        )
    ]


def setting_steps(job: Job, topology: Topology, previous: str) -> list[Step]:
    """Each line of the settings sheet, set and read back, in its order."""
    steps = []
    several = len(job.units) > 1
    names = {unit.id: unit.name for unit in job.units}
    for setting in settings_sheet(job, topology):
        whose = (
            f"{names[setting.unit]}, {setting.name[0].lower()}{setting.name[1:]}" if several else setting.name
        )
        text = f"{whose}: {setting.shown} ({setting.way}); read it back."
        kind: MeasureKind = "setting" if setting.way == "over the link" else "setting by hand"
        rule = setting_rule(setting)
        measure = Measure(kind, setting.unit, setting.key) if isinstance(rule, SettingIs) else Measure()
        name = f"set-{setting.unit}-{setting.key}"
        steps.append(Step(name, "settings", text, rule, (previous,), measure=measure, proves=(setting.unit,)))
        previous = name
    return steps


def setting_rule(setting: Setting) -> SettingIs | Confirmed:
    """How a setting's reading is held against the sheet: numbers as the device holds them, words as they
    stand."""
    by_hand = setting.way != "over the link"
    if not setting.numbers or (by_hand and (len(setting.numbers) > 1 or setting.key in ("clock", "mode"))):
        return Confirmed()
    if setting.key == "clock":
        return SettingIs("clock", (0.0,), CLOCK_S, "s")
    unit = unit_of(setting.key)
    near = 0.0005 if unit == "kW" else 0.06 if unit == "%" else 0.01
    return SettingIs(setting.key, setting.numbers, near, unit)
