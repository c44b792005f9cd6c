"""Subcommands for the day on site: the settings sheet and the procedure."""

import argparse
from dataclasses import asdict

from lodestaff.cli.commands import open_job, print_json
from lodestaff.cli.parser import FINE
from lodestaff.commissioning.expect import Conditions
from lodestaff.commissioning.procedure import procedure as steps_of
from lodestaff.commissioning.settings_sheet import settings_sheet
from lodestaff.quantities import text_of
from lodestaff.quantities.errors import JobError


def settings(options: argparse.Namespace) -> int:
    """The settings sheet."""
    job, _ = open_job(options)
    sheet = settings_sheet(job)
    if options.json:
        print_json({"job": job.id, "settings": [asdict(one) for one in sheet]})
        return FINE
    for one in sheet:
        print(f"{one.unit:10} {one.name:22} {one.shown:58} {one.way}")
    return FINE


def procedure(options: argparse.Namespace) -> int:
    """The steps, with expected readings where the conditions are given."""
    job, reckoner = open_job(options)
    given = (options.irradiance, options.module_temperature)
    if (given[0] is None) != (given[1] is None):
        raise JobError(
            "one condition without the other", "procedure", "give --irradiance and --module-temperature together"
        )
    conditions = Conditions(*given) if given[0] is not None else None
    steps = steps_of(job, reckoner.wiring(job).topology, conditions)
    if options.json:
        print_json({"job": job.id, "steps": [asdict(step) for step in steps]})
        return FINE
    for number, step in enumerate(steps, start=1):
        expected = ""
        if step.expected is not None:
            tolerance = step.expected.tolerance_pct
            spread = "at least" if tolerance is None else f"within {tolerance:g} %:"
            expected = f"  [{spread} {text_of(step.expected.value, step.expected.unit, 1)}]"
        needs = f"  (needs {step.needs})" if step.needs else ""
        print(f"{number:3} {step.stage:11} {step.text}{expected}{needs}")
        if step.caution:
            print(f"{'':15} ! {step.caution}")
    return FINE
