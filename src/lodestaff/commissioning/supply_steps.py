"""Steps before anything works: dead tests of the wiring, the supply, and settings read back."""

from lodestaff.commissioning.rules import Between, Confirmed, SettingIs
from lodestaff.commissioning.settings_sheet import Setting, settings_sheet
from lodestaff.commissioning.step import Measure, MeasureKind, Step
from lodestaff.commissioning.wiring_steps import insulation_step
from lodestaff.job import Job
from lodestaff.link.keys import unit_of
from lodestaff.quantities.convention import plain
from lodestaff.topology import Topology
from lodestaff.topology.questions import has_generator
from lodestaff.wiring.terminations import terminal_nm

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
        Step("torque", "dead tests", _torque_words(job), Confirmed(), before),
    ]  # fmt: skip
    steps += insulation_step(job, topology)
    return steps + _electrodes(job, topology)


def _torque_words(job: Job) -> str:
    """Every terminal, with the value where a sheet gives it."""
    given = [
        f"{unit.name} {plain(torque)} Nm"
        for unit in job.units
        if (torque := terminal_nm(job, unit.id)) is not None and not unit.existing
    ]
    values = f" ({', '.join(given)}; others as read on the device)" if given else " as read on the device"
    return f"Every terminal to its torque{values}, marked."


def _electrodes(job: Job, topology: Topology) -> list[Step]:
    """Each electrode by itself, by building."""
    pack = job.pack
    if not job.has_electrode:
        return []
    most = pack.value("island_electrode_max_ohm")
    rule = Between(most.value, "ohm", None, most.value, str(most.cite()))
    supply = job.site.supply.earthing.value
    cautions = [pack.caution("tncs")] if job.mains.grid and supply in ("TN-C-S", "MEN") else []
    parts = [part for part in topology.parts.values() if part.kind == "electrode"]
    word, steps = pack.word("earth").capitalize(), []
    for number, part in enumerate(parts):
        where = f", {part.name}" if len(parts) > 1 else ""
        where += f" ({part.building})" if part.building and part.building not in where else ""
        steps.append(
            Step(
                "electrode" if not number else f"electrode-{part.id}",
                "dead tests",
                text=f"{word} electrode{where}: resistance.",
                rule=rule,
                waits_for=("prove-dead",),
                caution=" ".join([*cautions, pack.caution("electrode")]),
                measure=Measure("electrode", subject=part.id),
                proves=(part.id,),
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
    there = {unit.id for unit in job.units if unit.existing}
    for setting in settings_sheet(job, topology):
        if setting.unit in there:
            continue  # what stood there before is checked, not set
        whose = (
            f"{names[setting.unit]}, {setting.name[0].lower()}{setting.name[1:]}" if several else setting.name
        )
        text = f"{whose}: {setting.shown} ({setting.way}); read it back."
        if setting.key == "clock" and setting.way != "over the link":
            text = f"{whose}: {setting.shown} ({setting.way}); by how much it is off, with its day."
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
    if setting.key == "clock":
        return SettingIs("clock", (0.0,), CLOCK_S, "s")
    if not setting.numbers or (by_hand and (len(setting.numbers) > 1 or setting.key == "mode")):
        return Confirmed()
    unit = unit_of(setting.key)
    near = 0.0005 if unit == "kW" else 0.06 if unit == "%" else 0.01
    return SettingIs(setting.key, setting.numbers, near, unit)
