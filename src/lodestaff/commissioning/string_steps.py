"""Steps of the array: what can be tested dead, then volts and current in daylight, each by what stands on
the roof."""

from lodestaff.catalogue import ModuleSheet
from lodestaff.commissioning.expect import insulation_test
from lodestaff.commissioning.rules import Between, Confirmed, Rule, StringAmps, StringVolts
from lodestaff.commissioning.step import OPEN_KIND, Measure, Step
from lodestaff.job import Job, ModuleString
from lodestaff.quantities.convention import plain

NOT_IN = "this string is not in yet"
SAFE_V, SAFE_ROOM = (
    1.0,
    0.3,
)  # of an optimiser that was not released, and a third more or less; common practice


def array_part(string: ModuleString) -> str:
    """The part of the topology that a string belongs to."""
    return f"{string.unit}-array-{string.tracker.lower()}"


def voltage_step(string: str) -> str:
    """The id of the step that reads a string's voltage."""
    return f"voc-{string}"


def wired_strings(job: Job) -> tuple[ModuleString, ...]:
    return tuple(string for string in job.strings if job.modules_in(string.id))


def module_level(job: Job, string: ModuleString) -> bool:
    """Whether a converter stands behind each module: then there is no string, only one module on one unit."""
    return job.sheet_of(job.unit(string.unit)).module_level


def _modules(job: Job, string: ModuleString) -> list[tuple[ModuleSheet, int]]:
    return [(job.sheets.modules[face.module], count) for face, count in job.modules_in(string.id)]


def dead_string_steps(job: Job, absent: frozenset[str]) -> list[Step]:
    steps = []
    for string in wired_strings(job):
        if module_level(job, string):
            continue
        needs = NOT_IN if string.id in absent else ""
        cautions = f"{job.pack.caution('insulation')} {job.pack.caution('live_in_daylight')}"
        rule: Rule
        if job.optimisers_on(string) == "none":
            test = insulation_test(1, sum(module.voc_v * count for module, count in _modules(job, string)))
            text = (
                f"Insulation of string {string.name} at {plain(test.test_v)} V; electronics and surge "
                "devices disconnected, discharge after."
            )
            rule = Between(
                test.least_mohm, "Mohm", test.least_mohm, None, "IEC 62446-1 table 1 (from memory)"
            )
            measure = Measure("insulation", string.unit, string.id)
        else:
            text = (
                f"Insulation of string {string.name}: with optimisers on it, by their maker's method "
                "and volts."
            )
            rule, measure = Confirmed(), Measure("confirm", string.unit, string.id)
            needs, cautions = needs or OPEN_KIND, job.pack.caution("optimisers")
        steps.append(
            Step(
                f"insulation-{string.id}",
                "dead tests",
                text=text,
                rule=rule,
                waits_for=("prove-dead",),
                caution=cautions,
                needs=needs,
                measure=measure,
                proves=(array_part(string),),
            )
        )
    return steps


def live_string_steps(job: Job, absent: frozenset[str]) -> list[Step]:
    """Steps in daylight: of strings, of strings that rest behind optimisers, of single modules on their
    units."""
    steps = []
    for string in wired_strings(job):
        if module_level(job, string):
            steps += _on_units(job, string, absent)
        elif job.optimisers_on(string) == "none":
            steps += _plain(job, string, absent)
        else:
            steps += _resting(job, string, absent)
    return steps


def _plain(job: Job, string: ModuleString, absent: frozenset[str]) -> list[Step]:
    parts = tuple(_modules(job, string))
    needs = NOT_IN if string.id in absent else ""
    caution = job.pack.caution("live_in_daylight")
    proves = (array_part(string), f"{array_part(string)}-isolator")
    weakest = min((module for module, _ in parts), key=lambda module: module.isc_a)
    return [
        Step(
            voltage_step(string.id),
            "strings",
            text=f"String {string.name}: open-circuit voltage and polarity at the "
            f"{job.pack.word('isolator')}.",
            rule=StringVolts(parts),
            waits_for=(f"insulation-{string.id}",),
            caution=caution,
            needs=needs,
            measure=Measure("voc", string.unit, string.id),
            proves=proves,
        ),
        Step(
            f"isc-{string.id}",
            "strings",
            text=f"String {string.name}: short-circuit current.",
            rule=StringAmps(weakest),
            waits_for=(voltage_step(string.id),),
            caution=caution,
            needs=needs,
            measure=Measure("isc", string.unit, string.id),
            proves=proves,
        ),
    ]


def _resting(job: Job, string: ModuleString, absent: frozenset[str]) -> list[Step]:
    """Optimisers that were not released: about a volt each. Where only some modules have one nothing is
    reckoned."""
    count = sum(number for _, number in _modules(job, string))
    sheet = job.sheets.optimisers.get(string.optimiser)
    own = sheet.safe_v if sheet is not None else None
    volts = count * (own or SAFE_V) / (sheet.modules if sheet is not None else 1)
    needs = NOT_IN if string.id in absent else ""
    text = (
        f"String {string.name}, not released: volts at rest and polarity at the {job.pack.word('isolator')}"
    )
    if job.optimisers_on(string) == "all":
        text += f"; {count} modules, their optimisers at rest at about {plain(own or SAFE_V)} V each."
        rule: Rule = Between(
            volts,
            "V",
            (1 - SAFE_ROOM) * volts,
            (1 + SAFE_ROOM) * volts,
            "about 1 V for each optimiser at rest, common practice; its maker's sheet rules"
            if own is None
            else "safe-state voltage by the optimiser's sheet",
        )
        measure = Measure("voc", string.unit, string.id)
    else:
        text += "; some modules have an optimiser, the others lie at their full volts."
        rule, measure = Confirmed(), Measure("confirm", string.unit, string.id)
        needs = needs or OPEN_KIND
    proves = (array_part(string), f"{array_part(string)}-isolator")
    return [
        Step(
            voltage_step(string.id),
            "strings",
            text=text,
            rule=rule,
            waits_for=("prove-dead",),
            caution=job.pack.caution("optimisers"),
            needs=needs,
            measure=measure,
            proves=proves,
        )
    ]


def _on_units(job: Job, string: ModuleString, absent: frozenset[str]) -> list[Step]:
    """One module of each face, before it is plugged into its unit; and the map of what sits where."""
    steps = []
    needs = NOT_IN if string.id in absent else ""
    branch = job.unit(string.unit)
    caution = job.pack.caution("module_units")
    count = 0
    for face, number in job.modules_in(string.id):
        count += number
        steps.append(
            Step(
                f"module-{string.id}-{face.id}",
                "strings",
                text=f"{branch.name}: open-circuit voltage and polarity of one module on {face.name}, before "
                "it is plugged into its unit.",
                rule=StringVolts(((job.sheets.modules[face.module], 1),)),
                waits_for=("prove-dead",),
                caution=caution,
                needs=needs,
                measure=Measure("module voc", string.unit, string.id, face=face.id),
                proves=(array_part(string),),
            )
        )
    text = f"{branch.name}: the serial number of each of the {count} units behind its modules, on the map."
    steps.append(
        Step(
            f"map-{string.id}",
            "strings",
            text=text,
            rule=Confirmed(),
            waits_for=("prove-dead",),
            caution=caution,
            needs=needs,
            proves=(array_part(string),),
        )
    )
    return steps
