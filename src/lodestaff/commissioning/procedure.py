"""The procedure: steps in order with what they wait for, cautions in place, and expected readings."""

from dataclasses import dataclass

from lodestaff.commissioning.expect import Conditions, insulation_test, string_isc, string_voc
from lodestaff.commissioning.settings_sheet import settings_sheet
from lodestaff.job import Job
from lodestaff.quantities import text_of
from lodestaff.topology import Topology

TOLERANCE_PCT = 5.0  # string tests; common practice


@dataclass(frozen=True)
class Expected:
    """What a reading should be, with its tolerance in percent (None: at least this much)."""

    value: float
    unit: str
    tolerance_pct: float | None
    source: str


@dataclass(frozen=True)
class Step:
    """One step. `waits_for` names the steps that must have passed; `needs` what must be there besides."""

    id: str
    stage: str
    text: str
    waits_for: tuple[str, ...] = ()
    caution: str = ""
    expected: Expected | None = None
    needs: str = ""


def procedure(job: Job, topology: Topology, conditions: Conditions | None) -> tuple[Step, ...]:
    """The steps of a job: dead tests, array, battery, settings, function, outage.

    Expected string readings are for the given conditions; without them those steps say what is needed.
    """
    steps = [*_dead(job, topology), *_array(job, conditions)]
    dead = tuple(step.id for step in steps if step.stage == "dead tests")
    arrays = tuple(step.id for step in steps if step.stage == "array")
    steps += _battery(job, dead)
    ready = (*dead, *arrays, *(f"battery-{bank.id}" for bank in job.banks))
    steps.append(
        Step("software", "settings", "Software first, before anything is set; begun with time to spare.", ready)
    )
    previous = "software"
    for setting in settings_sheet(job):
        step = Step(
            f"set-{setting.unit}-{setting.key}",
            "settings",
            f"{setting.name}: {setting.shown} ({setting.way}); read it back.",
            (previous,),
        )
        steps.append(step)
        previous = step.id
    steps += _function(job, previous)
    return tuple(steps)


def _dead(job: Job, topology: Topology) -> list[Step]:
    """Continuity, bonding, polarity and insulation before anything is live."""
    cautions = job.pack.cautions
    units = ", ".join(unit.name for unit in job.units)
    runs = sorted({conductor.run for conductor in topology.conductors if conductor.run})
    steps = [
        Step("prove-dead", "dead tests", f"Prove the feeds of {units} dead.", (), cautions["prove_dead"]),
        Step(
            "continuity",
            "dead tests",
            f"Continuity of protective and bonding conductors of {len(runs)} runs.",
            ("prove-dead",),
        ),
        Step("polarity", "dead tests", "Polarity of every run, at both ends.", ("prove-dead",)),
        Step("torque", "dead tests", "Every terminal to its torque, marked.", ("prove-dead",)),
    ]
    for string in job.strings:
        parts = job.modules_in(string.id)
        if parts:
            test = insulation_test(sum(n for _, n in parts), job.sheets.modules[parts[0][0].module].voc_v)
            expected = Expected(test.least_mohm, "Mohm", None, "IEC 62446-1 table 1 (from memory)")
            text = f"Insulation of string {string.name} at {test.test_v:g} V; electronics and surge devices disconnected, discharge after."
            steps.append(
                Step(
                    f"insulation-{string.id}",
                    "dead tests",
                    text,
                    ("prove-dead",),
                    cautions["live_in_daylight"],
                    expected,
                )
            )
    return steps


def _array(job: Job, conditions: Conditions | None) -> list[Step]:
    """Voltage with polarity and current of each string, for the measured conditions."""
    steps = []
    source = "IEC 62446-1 string tests; 5 % common practice"
    for string in job.strings:
        parts = job.modules_in(string.id)
        if not parts:
            continue
        module, count = job.sheets.modules[parts[0][0].module], sum(n for _, n in parts)
        volts = amps = None
        needs = "" if conditions else "irradiance on the plane and module temperature, measured"
        if conditions is not None:
            volts = Expected(string_voc(module, count, conditions), "V", TOLERANCE_PCT, source)
            amps = Expected(string_isc(module, conditions), "A", TOLERANCE_PCT, source)
        before = f"insulation-{string.id}"
        caution = job.pack.cautions["live_in_daylight"]
        steps.append(
            Step(
                f"voc-{string.id}",
                "array",
                f"String {string.name}: open-circuit voltage and polarity at the isolator.",
                (before,),
                caution,
                volts,
                needs,
            )
        )
        steps.append(
            Step(
                f"isc-{string.id}",
                "array",
                f"String {string.name}: short-circuit current.",
                (f"voc-{string.id}",),
                caution,
                amps,
                needs,
            )
        )
    return steps


def _battery(job: Job, dead: tuple[str, ...]) -> list[Step]:
    steps = []
    for bank in job.banks:
        sheet = job.sheets.batteries[bank.sheet]
        expected = None
        if sheet.v_nominal is not None:
            expected = Expected(
                bank.modules * sheet.v_nominal, "V", 12.0, "sheet; the voltage follows the state of charge"
            )
        text = f"{bank.modules} modules: addresses, terminator, the right port; polarity and voltage before closing."
        steps.append(Step(f"battery-{bank.id}", "battery", text, dead, job.pack.cautions["battery"], expected))
    return steps


def _function(job: Job, previous: str) -> list[Step]:
    """Function tests, and the outage test with the customer."""
    held = [c.name for c in job.circuits if c.role == "held"]
    export = Expected(job.limits.export_kw, "kW", 2.0, "setting, meter class 1 each")
    steps = [
        Step(
            "ct",
            "function",
            "CT: right conductor, right way: import reads as import with a known load on.",
            (previous,),
        ),
        Step("balance", "function", "Sun = into the battery + into the house ± losses, by the meters.", ("ct",)),
        Step(
            "export",
            "function",
            f"Export limit: battery full or held, loads off; the meter stays at or below {text_of(job.limits.export_kw, 'kW')}.",
            ("balance",),
            "",
            export,
            "sun enough to reach the limit",
        ),
        Step(
            "outage",
            "function",
            f"Outage test by the main switch: {len(held)} held circuits stay on, the others are dead; time the transfer.",
            ("balance",),
            job.pack.cautions["cutout"],
        ),
        Step(
            "bond", "function", "In island mode: one neutral-earth bond, measured at the essential board.", ("outage",)
        ),
        Step("return", "function", "The grid returns: the unit waits its time, then takes it again.", ("outage",)),
    ]
    if job.wiring.bypass:
        steps.append(
            Step(
                "bypass",
                "function",
                "Bypass: essential board on the grid, the unit off; then back.",
                ("return",),
                job.pack.cautions["bypass"],
            )
        )
    return steps
