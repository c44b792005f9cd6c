"""Subcommands for the day on site: settings sheet, procedure, simulated site, rehearsal."""

import argparse
import sys
import time
from dataclasses import asdict
from datetime import datetime
from pathlib import Path
from typing import Any

from lodestaff.cli.answering import open_job, open_wiring, print_json
from lodestaff.cli.exits import BLOCKED, FINE
from lodestaff.cli.journal_lines import entries_of
from lodestaff.commissioning.expect import Conditions, Expected
from lodestaff.commissioning.reading import Judgement, Status, judge
from lodestaff.commissioning.record import last_readings, proof_of
from lodestaff.commissioning.rules import ASKED_WORDS
from lodestaff.commissioning.settings_sheet import settings_sheet
from lodestaff.commissioning.step import Step
from lodestaff.commissioning.tools import tool_of
from lodestaff.commissioning.words import bounds_words
from lodestaff.quantities import text_of
from lodestaff.quantities.errors import JobError

IDLE_S = 0.5  # between looks for a signal, while nobody says anything
MARKS = {Status.PASSED: "✓", Status.DOUBTFUL: "?", Status.FAILED: "✗", Status.OPEN: "○"}


def settings(options: argparse.Namespace) -> int:
    """The settings sheet."""
    job, wiring = open_wiring(options)
    sheet = settings_sheet(job, wiring.topology)
    if options.json:
        print_json({"job": job.id, "settings": [asdict(setting) for setting in sheet]})
        return FINE
    for setting in sheet:
        print(f"{setting.unit:10} {setting.name:22} {setting.shown:58} {setting.way}")
    return FINE


def _conditions(options: argparse.Namespace) -> Conditions:
    given = (options.irradiance, options.module_temperature)
    if (given[0] is None) != (given[1] is None):
        raise JobError(
            "one condition without the other",
            "procedure",
            "give --irradiance and --module-temperature together",
        )
    return Conditions(*given)


def _expected(step: Step, conditions: Conditions) -> Expected | None:
    if any(getattr(conditions, name) is None for name in step.rule.asks):
        return None
    return step.rule.expected(conditions)


def _step_dict(step: Step, expected: Expected | None, judgement: Judgement, reading: Any) -> dict[str, Any]:
    return {
        "id": step.id,
        "stage": step.stage,
        "text": step.text,
        "with": tool_of(step),
        "waits_for": list(step.waits_for),
        "caution": step.caution,
        "asks": list(step.rule.asks),
        "expected": None if expected is None else asdict(expected),
        "needs": step.needs,
        "over_link": step.measure.over_link,
        "status": str(judgement.status),
        "words": judgement.words,
        "deviation_pct": judgement.deviation_pct,
        "reading": None if reading is None else asdict(reading),
    }


def procedure(options: argparse.Namespace) -> int:
    """The steps as the journal leaves them, with expected readings where the conditions are given."""
    from lodestaff.commissioning.procedure import procedure as steps_of

    job, wiring = open_wiring(options)
    conditions, topology = _conditions(options), wiring.topology
    entries = entries_of(Path(options.job))
    strings = {string.id for string in job.strings}
    for name in options.without:
        if name not in strings:
            raise JobError(f"no string {name!r}", "--without", f"choose from {', '.join(sorted(strings))}")
    if options.without:
        steps = steps_of(job, topology, options.without)
        last = {name: reading for name, (_, reading) in last_readings(entries).items()}
        rows = [(step, judge(step, None, {}), last.get(step.id)) for step in steps]
    else:
        rows = [
            (result.step, result.judgement, result.reading)
            for result in proof_of(job, topology, entries).results
        ]
    if options.json:
        places = [
            _step_dict(step, _expected(step, conditions), judged, reading) for step, judged, reading in rows
        ]
        print_json({"job": job.id, "steps": places})
        return FINE
    for number, (step, judged, _) in enumerate(rows, start=1):
        print(
            f"{MARKS[judged.status]} {number:2} {step.stage:10} "
            f"{step.text}{_expected_words(step, conditions)}"
        )
        if step.caution:
            print(f"{'':15} ! {step.caution}")
    return FINE


def _expected_words(step: Step, conditions: Conditions) -> str:
    if step.needs:
        return f"  (needs: {step.needs})"
    expected = _expected(step, conditions)
    if expected is None:
        asks = ", ".join(ASKED_WORDS[name] for name in step.rule.asks)
        return f"  (expected once measured: {asks})" if asks else ""
    value = text_of(expected.value, expected.unit, 3 if abs(expected.value) < 10 else 1)
    return f"  [{value}; {bounds_words(expected)}]" if step.rule.asks else f"  [{bounds_words(expected)}]"


def _start(options: argparse.Namespace) -> Any:
    from lodestaff.plant import PlantStart
    from lodestaff.plant.faults import fault_named

    try:
        at = datetime.fromisoformat(options.at) if options.at else PlantStart().at
    except ValueError as trouble:
        raise JobError(
            f"{options.at!r} is no date and time", "--at", "write it as 2026-06-18T12:00"
        ) from trouble
    if at.tzinfo is not None:
        raise JobError("the time carries an offset", "--at", "give local standard time without one")
    faults = tuple(fault_named(name) for name in options.fault)
    timetables = getattr(options, "timetables", False)
    return PlantStart(
        at, options.clearness, soc=options.soc / 100, seed=options.seed, faults=faults, timetables=timetables
    )


def plant(options: argparse.Namespace) -> int:
    """Serve the simulated site until it is told to stop; hands are read from standard input, a line each."""
    from lodestaff.link.server import HOST, PlantServer
    from lodestaff.plant import Plant

    job, _ = open_job(options)
    site = Plant(job, _start(options))
    with PlantServer(site, options.port, options.speed) as server:
        where = {
            "job": job.id,
            "host": HOST,
            "port": server.port,
            "units": {u.id: n for n, u in enumerate(job.units, 1)},
        }
        if options.json:
            print_json(where)
        else:
            print(
                f"{job.title}: simulated site at {HOST} port {server.port}, units from 1; lines: switch PART "
                "POSITION, run CIRCUIT on|off, grid on|off, show, quit"
            )
        sys.stdout.flush()
        if options.seconds is not None:
            time.sleep(options.seconds)
            return FINE
        _listen(site)
    return FINE


def _listen(site: Any) -> None:
    """Take hands from standard input until it says quit or ends. An input that is empty from the start, or
    none, doesn't end the site: it is served until a signal comes."""
    given = False
    for line in sys.stdin if sys.stdin is not None else ():
        given = True
        if not _hand(site, line.split()):
            return
        sys.stdout.flush()
    while not given:
        time.sleep(IDLE_S)


def _hand(site: Any, words: list[str]) -> bool:
    """Do what a line says. False where it ends the site."""
    try:
        match words:
            case ["quit"]:
                return False
            case ["switch", part, position]:
                site.switch(part, position)
            case ["run", circuit, ("on" | "off") as how]:
                site.run_circuit(circuit, how == "on")
            case ["grid", ("on" | "off") as how]:
                site.set_grid(how == "on")
            case ["show"]:
                for unit in site.units.values():
                    battery = f"{unit.battery.soc * 100:.1f} %" if unit.battery else "no battery"
                    print(
                        f"{site.now:%Y-%m-%d %H:%M:%S} {unit.id}: {unit.mode}, {unit.ac_kw:.2f} kW AC, sun "
                        f"{unit.pv_used_kw:.2f} of {unit.pv_there_kw:.2f} kW, {battery}; site "
                        f"{site.site_kw:.2f} kW"
                    )
            case []:
                pass
            case _:
                print(f"not understood: {' '.join(words)}")
    except JobError as trouble:
        print(trouble)
    return True


def faults(options: argparse.Namespace) -> int:
    """What can be wrong at this job's site when it is rehearsed, and which steps are meant to find it."""
    from lodestaff.commissioning.procedure import procedure as steps_of
    from lodestaff.plant.faults import faults_of
    from lodestaff.topology import build

    job, _ = open_job(options)
    topology = build(job)
    steps = [step.id for step in steps_of(job, topology)]
    rows = [
        {
            "fault": fault.name,
            "words": fault.words,
            "caught_by": [step for step in steps if fault.is_caught_by(step)],
        }
        for fault in faults_of(job, topology)
    ]
    if options.json:
        print_json({"job": job.id, "faults": rows})
        return FINE
    for row in rows:
        print(f"{row['fault']:24} {row['words']}; found by {', '.join(row['caught_by'])}")
    return FINE


def rehearse(options: argparse.Namespace) -> int:
    """The procedure gone through at a simulated site; 1 where a step doesn't pass."""
    from lodestaff.measuring.rehearsal import rehearse as go_through

    job, _ = open_job(options)

    def told(step: str, status: Status) -> None:
        if not options.json:
            print(f"{MARKS[status]} {step}")

    rehearsal = go_through(job, _start(options), told, permitted=not options.as_it_stands)
    last = rehearsal.proof.result(rehearsal.stopped_at) if rehearsal.stopped_at else None
    if options.json:
        rows = []
        for result in rehearsal.proof.results:
            conditions = result.reading.conditions if result.reading else Conditions()
            rows.append(
                _step_dict(result.step, _expected(result.step, conditions), result.judgement, result.reading)
            )
        print_json(
            {
                "job": job.id,
                "seed": options.seed,
                "faults": options.fault,
                "passed": rehearsal.passed,
                "stopped_at": rehearsal.stopped_at,
                "steps": rows,
            }
        )
    elif last is None:
        left = [result for result in rehearsal.proof.results if result.status is Status.OPEN]
        for other in left:
            print(f"open: {other.step.id}: {other.judgement.words}")
        print(
            f"every step that can be rehearsed passed: {rehearsal.proof.count(Status.PASSED)}, doubtful "
            f"{rehearsal.proof.count(Status.DOUBTFUL)}, open {len(left)}"
        )
    else:
        value = ", ".join(f"{number:.5g}" for number in last.reading.numbers) if last.reading else ""
        expected = f"; expected {bounds_words(last.judgement.expected)}" if last.judgement.expected else ""
        print(
            f"stopped at {last.step.id}: {last.step.text} read {value or 'no'}{expected}: "
            f"{last.judgement.words}"
        )
    return FINE if rehearsal.passed else BLOCKED
