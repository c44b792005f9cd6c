"""Steps of the array: what can be tested dead, then volts and current in daylight, each by what stands on
the roof."""

from lodestaff.catalogue import ModuleSheet
from lodestaff.commissioning.expect import insulation_test
from lodestaff.commissioning.rules import Between, Confirmed, Rule, StringAmps, StringVolts
from lodestaff.commissioning.step import Measure, Step
from lodestaff.job import Job, ModuleString
from lodestaff.job.array import array_run
from lodestaff.quantities.convention import plain

NOT_IN = "this string is not in yet"
SAFE_V, SAFE_ROOM = (
    1.0,
    0.3,
)  # of an optimiser that was not released, and a third more or less; common practice


def array_part(string: ModuleString) -> str:
    """The part of the topology that a string belongs to."""
    return array_run(string.unit, string.tracker)


def voltage_step(string: str) -> str:
    """The id of the step that reads a string's voltage."""
    return f"voc-{string}"


def wired_strings(job: Job) -> tuple[ModuleString, ...]:
    """Strings with modules in them that were laid now: what stood there before is only looked over."""
    return tuple(
        string for string in job.strings if job.modules_in(string.id) and not job.unit(string.unit).existing
    )


def unnoted(job: Job, string: ModuleString) -> bool:
    """Whether some of a string's modules have an optimiser and nothing says which."""
    some = job.optimisers_on(string) == "some"
    return some and not any(module.optimiser for _, module in job.placed_in(string.id))


def module_level(job: Job, string: ModuleString) -> bool:
    """Whether a converter stands behind each module: then there is no string, only one module on one unit."""
    return job.sheet_of(job.unit(string.unit)).module_level


def _modules(job: Job, string: ModuleString) -> list[tuple[ModuleSheet, int]]:
    return [(job.sheets.modules[face.module], count) for face, count in job.modules_in(string.id)]


def string_hazard(job: Job, string: ModuleString) -> str:
    """What stands on a string's conductors here."""
    volts = sum(module.voc_v * count for module, count in _modules(job, string))
    return f"String {string.name}: {plain(volts, 0)} V DC at 25 °C, more in the cold."


def dead_string_steps(job: Job, absent: frozenset[str]) -> list[Step]:
    steps = []
    for string in wired_strings(job):
        if module_level(job, string):
            continue
        needs = NOT_IN if string.id in absent else ""
        cautions = f"{job.pack.caution('insulation')} {job.pack.caution('live_in_daylight')}"
        rule: Rule
        if job.optimisers_on(string) == "none":
            cautions = f"{cautions} {string_hazard(job, string)}"
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
            volts = job.sheet_of(job.unit(string.unit)).max_dc_v
            text = (
                f"Insulation of string {string.name}: its optimisers stay in, plus and minus joined, against "
                f"earth, at the volts that their maker allows and no more than "
                f"{plain(min(volts, 1000.0), 0)} V; "
                "discharge after."
            )
            rule = Between(1.0, "Mohm", 1.0, None, "least of IEC 62446-1 table 1 (from memory)")
            measure = Measure("insulation", string.unit, string.id)
            cautions = f"{cautions} {job.pack.caution('optimisers')}"
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
    caution = f"{job.pack.caution('live_in_daylight')} {string_hazard(job, string)}"
    volts, amps, others = _beside(job, string, absent)
    proves = (array_part(string), f"{array_part(string)}-isolator")
    weakest = min((module for module, _ in parts), key=lambda module: module.isc_a)
    return [
        Step(
            voltage_step(string.id),
            "strings",
            text=f"String {string.name}: open-circuit voltage and polarity at the "
            f"{job.pack.word('isolator')}.",
            rule=StringVolts(parts, volts, others),
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
            rule=StringAmps(weakest, amps),
            waits_for=(voltage_step(string.id),),
            caution=caution,
            needs=needs,
            measure=Measure("isc", string.unit, string.id),
            proves=proves,
        ),
    ]


def _beside(
    job: Job, string: ModuleString, absent: frozenset[str]
) -> tuple[
    tuple[tuple[str, float, str], ...],
    tuple[tuple[str, float, str], ...],
    tuple[tuple[str, tuple[tuple[ModuleSheet, int], ...]], ...],
]:
    """The other strings of the day: their volts, the currents of those on the same face, what they would
    show."""
    volts, amps, others = [], [], []
    faces = {face.id for face, _ in job.modules_in(string.id)}
    for other in wired_strings(job):
        plain_one = not module_level(job, other) and job.optimisers_on(other) == "none"
        if other.id == string.id or other.id in absent or not plain_one:
            continue
        parts = tuple(_modules(job, other))
        others.append((other.name, parts))
        name = f"string {other.name}"
        volts.append((voltage_step(other.id), sum(m.voc_v * count for m, count in parts), name))
        if {face.id for face, _ in job.modules_in(other.id)} == faces:
            amps.append((f"isc-{other.id}", min(module.isc_a for module, _ in parts), name))
    return tuple(volts), tuple(amps), tuple(others)


def _resting(job: Job, string: ModuleString, absent: frozenset[str]) -> list[Step]:
    """Optimisers that were not released: about a volt each, the modules without one at their full volts."""
    needs = NOT_IN if string.id in absent else ""
    place = f"volts at rest and polarity at the {job.pack.word('isolator')}"
    sheet = job.sheets.optimisers.get(string.optimiser)
    own = sheet.safe_v if sheet is not None else None
    count, bare = _resting_count(job, string)
    if unnoted(job, string):
        needs = needs or "which of its modules have an optimiser, noted on the roof"
    volts = count * (own or SAFE_V) / (sheet.modules if sheet is not None else 1)
    caution = job.pack.caution("optimisers")
    source = (
        "about 1 V for each optimiser at rest, common practice; its maker's sheet rules"
        if own is None
        else "safe-state voltage by the optimiser's sheet"
    )
    rule: Rule
    if not bare:
        text = (
            f"String {string.name}, not released: {place}; {count} modules, their optimisers at rest at "
            f"about "
            f"{plain(own or SAFE_V)} V each."
        )
        rule = Between(volts, "V", (1 - SAFE_ROOM) * volts, (1 + SAFE_ROOM) * volts, source)
    elif own is None:
        text = (
            f"String {string.name}: open-circuit voltage and polarity at the {job.pack.word('isolator')}; "
            f"its "
            f"{count} optimisers name no safe state, so that all {count + sum(n for _, n in bare)} modules "
            f"lie at "
            "their full volts."
        )
        rule = StringVolts(tuple(_modules(job, string)))
        caution = f"{caution} {job.pack.caution('live_in_daylight')}"
    else:
        text = (
            f"String {string.name}, not released: {place}; {count} modules rest behind optimisers at "
            f"{plain(own)} V each, {sum(n for _, n in bare)} lie at their full volts."
        )
        rule = StringVolts(tuple(bare), at_rest_v=volts)
        caution = f"{caution} {job.pack.caution('live_in_daylight')}"
    return [
        Step(
            voltage_step(string.id),
            "strings",
            text=text,
            rule=rule,
            waits_for=("prove-dead",),
            caution=caution,
            needs=needs,
            measure=Measure("voc", string.unit, string.id),
            proves=(array_part(string), f"{array_part(string)}-isolator"),
        )
    ]


def _resting_count(job: Job, string: ModuleString) -> tuple[int, list[tuple[ModuleSheet, int]]]:
    """How many modules of a string rest behind an optimiser, and those without one."""
    if job.optimisers_on(string) == "all":
        return sum(number for _, number in _modules(job, string)), []
    bare: dict[str, int] = {}
    resting = 0
    for face, module in job.placed_in(string.id):
        if module.optimiser:
            resting += 1
        else:
            bare[face.module] = bare.get(face.module, 0) + 1
    return resting, [(job.sheets.modules[name], count) for name, count in bare.items()]


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
