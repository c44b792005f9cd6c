"""All that the finder knows: commands, recent jobs, stations, findings, circuits, parts, settings, the
guide."""

from collections.abc import Callable, Iterator
from functools import partial

from lodestaff.checks import Finding
from lodestaff.desktop.actions import ACTIONS, STATIONS
from lodestaff.desktop.shell.finder import Entry
from lodestaff.desktop.shell.frame import Frame
from lodestaff.desktop.shell.menus import unlettered
from lodestaff.job import Job

SETTINGS = ("Shed level", "Charge limit", "Discharge limit")
SETTINGS_OF_A_GRID = ("Reserve", "Export limit", "Import limit", "Charge window")
Shows = Callable[[Finding], object]


def all_entries(window: Frame, shows: Shows) -> list[Entry]:
    """What can be found now; what is greyed out isn't there. `shows` goes to a finding."""
    job = window.store.job
    entries = [*_commands(window), *_recent(window)]
    if job is not None:
        entries += [*_findings(window, shows), *_things(window, job)]
    return [*entries, *_chapters(window)]


def _commands(window: Frame) -> Iterator[Entry]:
    also = {row.id: row.also for row in ACTIONS} | {f"station-{row.id}": row.also for row in STATIONS}
    for key, action in window.menus.actions.items():
        if action.isEnabled():
            yield Entry(unlettered(action.text()), action.shortcut().toString(), action.trigger, also[key])


def _recent(window: Frame) -> Iterator[Entry]:
    for path in window.files.recent():
        yield Entry(f"Open {path.name}", "recent", partial(window.files.open_path, path))


def _findings(window: Frame, shows: Shows) -> Iterator[Entry]:
    """Those that are no pass: where they stand, and their remedies."""
    for finding in window.store.results.findings if window.store.results else ():
        if finding.status == "passed":
            continue
        yield Entry(finding.text, finding.code, partial(shows, finding), finding.status)
        for remedy in finding.remedies:
            yield Entry(f"Remedy: {remedy.name}", finding.code, partial(window.apply, remedy))


def _things(window: Frame, job: Job) -> Iterator[Entry]:
    """Circuits at Loads, parts and cables at Wire, settings at Limits."""
    from lodestaff.desktop.stations.array.geometry import string_word

    for circuit in job.circuits:
        yield Entry(circuit.name, f"circuit, {circuit.role}", partial(window.go, "loads"), "load")
    for unit in job.units:
        yield Entry(unit.name, "unit", partial(window.go, "wire"), job.sheet_of(unit).name)
    for part in window.store.reckoner.wiring(job).topology.parts.values():
        yield Entry(part.name, "part", partial(window.go, "wire"), f"{part.kind} cable wiring")
    for string in job.strings:
        yield Entry(
            f"{string_word(job, string)} {string.name}", "string", partial(window.go, "array"), "modules roof"
        )
    for setting in (*SETTINGS, *(SETTINGS_OF_A_GRID if job.mains.grid else ())):
        yield Entry(setting, "setting", partial(window.go, "limits"), "battery night")


def _chapters(window: Frame) -> Iterator[Entry]:
    from lodestaff.desktop.help.chapters import chapters

    for chapter in chapters():
        yield Entry(chapter.title, "guide", partial(window.side.open_help, chapter.id), "help how")
