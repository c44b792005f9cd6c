"""Steps of the strings: insulation while dead, then voltage with polarity and current in daylight."""

from lodestaff.commissioning.expect import insulation_test
from lodestaff.commissioning.rules import Between, StringAmps, StringVolts
from lodestaff.commissioning.step import Measure, Step
from lodestaff.job import Job, ModuleString

NOT_IN = "this string is not in yet"


def array_part(string: ModuleString) -> str:
    """The part of the topology that a string belongs to."""
    return f"{string.unit}-array-{string.tracker.lower()}"


def wired_strings(job: Job) -> tuple[ModuleString, ...]:
    return tuple(string for string in job.strings if job.modules_in(string.id))


def dead_string_steps(job: Job, absent: frozenset[str]) -> list[Step]:
    steps = []
    for string in wired_strings(job):
        parts = [(job.sheets.modules[face.module], count) for face, count in job.modules_in(string.id)]
        voc = sum(module.voc_v * count for module, count in parts)
        test = insulation_test(1, voc)
        text = (
            f"Insulation of string {string.name} at {test.test_v:g} V; electronics and surge devices disconnected, "
            "discharge after."
        )
        rule = Between(test.least_mohm, "Mohm", test.least_mohm, None, "IEC 62446-1 table 1 (from memory)")
        steps.append(
            Step(
                f"insulation-{string.id}",
                "dead tests",
                text,
                rule,
                ("prove-dead",),
                job.pack.cautions["live_in_daylight"],
                NOT_IN if string.id in absent else "",
                Measure("insulation", string.unit, string.id),
                (array_part(string),),
            )
        )
    return steps


def live_string_steps(job: Job, absent: frozenset[str]) -> list[Step]:
    steps = []
    caution = job.pack.cautions["live_in_daylight"]
    for string in wired_strings(job):
        parts = tuple((job.sheets.modules[face.module], count) for face, count in job.modules_in(string.id))
        needs = NOT_IN if string.id in absent else ""
        proves = (array_part(string), f"{array_part(string)}-isolator")
        weakest = min((module for module, _ in parts), key=lambda module: module.isc_a)
        steps += [
            Step(
                f"voc-{string.id}",
                "strings",
                f"String {string.name}: open-circuit voltage and polarity at the {job.pack.word('isolator')}.",
                StringVolts(parts),
                (f"insulation-{string.id}",),
                caution,
                needs,
                Measure("voc", string.unit, string.id),
                proves,
            ),
            Step(
                f"isc-{string.id}",
                "strings",
                f"String {string.name}: short-circuit current.",
                StringAmps(weakest),
                (f"voc-{string.id}",),
                caution,
                needs,
                Measure("isc", string.unit, string.id),
                proves,
            ),
        ]
    return steps
