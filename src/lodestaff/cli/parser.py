"""Arguments, exit codes, and one line on standard error where input can't be read."""

import argparse
import os
import sys
from collections.abc import Callable, Sequence
from typing import NoReturn

from lodestaff import __version__
from lodestaff.cli.exits import FINE, UNREADABLE
from lodestaff.quantities.errors import JobError
from lodestaff.quantities.reader import NotANumberError, read_number

DESCRIPTION = """\
Lodestaff carries one solar and storage job. `lodestaff JOB` opens the window;
`lodestaff demo` opens the demo job; the commands below answer on the command line."""


class _Parser(argparse.ArgumentParser):
    """A parser whose complaint is one line and whose exit code is 2."""

    def error(self, message: str) -> NoReturn:
        self.exit(UNREADABLE, f"{self.prog}: {message} (see {self.prog} --help)\n")


def _month(text: str) -> int:
    return int(_bounded(text, "", 1, 12, "a month from 1 to 12"))


def _hour(text: str) -> float:
    if ":" in text:
        hours, minutes = text.split(":", 1)
        text = str(
            _bounded(hours, "", 0, 23, "an hour like 18:45")
            + _bounded(minutes, "", 0, 59, "an hour like 18:45") / 60
        )
    return _bounded(text, "h", 0.0, 23.999, "an hour like 18:45 or 18.75")


def _irradiance(text: str) -> float:
    return _bounded(text, "W/m²", 20.0, 1500.0, "an irradiance from 20 to 1500 W/m²")


def _temperature(text: str) -> float:
    return _bounded(text, "°C", -40.0, 100.0, "a module temperature from -40 to 100 °C")


def _share(text: str) -> float:
    return _bounded(text, "%", 0.0, 100.0, "a state of charge from 0 to 100 (percent)") / 100


def _share_pct(text: str) -> float:
    return 100 * _share(text)


def _seed(text: str) -> int:
    return int(_bounded(text, "", 0, 2**31 - 1, "a seed: a whole number from 0"))


def _clearness(text: str) -> float:
    return _bounded(text, "", 0.02, 1.2, "a clearness from 0.02 to 1.2")


def _port(text: str) -> int:
    return int(_bounded(text, "", 0, 65535, "a port from 0 to 65535"))


def _speed(text: str) -> float:
    return _bounded(text, "s", 0.0, 86_400.0, "a number from 0 to 86400")


def _bounded(text: str, unit: str, low: float, high: float, right: str) -> float:
    """A number within bounds, with its unit or without; whole where the bounds are."""
    try:
        value = read_number(text, unit)
    except NotANumberError:
        value = float("nan")
    except JobError as trouble:
        raise argparse.ArgumentTypeError(str(trouble)) from None
    if not low <= value <= high or (isinstance(low, int) and isinstance(high, int) and value != int(value)):
        raise argparse.ArgumentTypeError(f"{text!r} is not {right}")
    return value


def _parser() -> _Parser:
    parser = _Parser(
        prog="lodestaff", description=DESCRIPTION, formatter_class=argparse.RawDescriptionHelpFormatter
    )
    parser.add_argument("--version", action="version", version=f"lodestaff {__version__}")
    commands = parser.add_subparsers(dest="command", metavar="COMMAND", required=True, parser_class=_Parser)

    def command(name: str, text: str, job: bool = True) -> argparse.ArgumentParser:
        sub = commands.add_parser(name, help=text, description=text)
        if job:
            sub.add_argument("job", help="the job file")
        sub.add_argument("--json", action="store_true", help="answer as JSON with stable keys")
        return sub

    command("check", "all findings of a job; exit code 1 where one blocks")
    command("checks", "all registered checks", job=False)
    simulate = command("simulate", "a year at 15 minutes: energies, ratios, money")
    simulate.add_argument("--csv", metavar="FILE", help="also write the series, one row per step")
    outage = command("outage", "how long an outage lasts, and why it ends")
    outage.add_argument("--month", type=_month, default=1, help="1 to 12 (1)")
    outage.add_argument("--hour", type=_hour, default=18.75, help="hour of standard time (18:45)")
    outage.add_argument("--sky", choices=("clear", "mixed", "dull"), default="mixed")
    outage.add_argument("--soc", type=_share, default=None, help="state of charge in percent (as simulated)")
    wire = command("wire", "what is live from what, fed circuits and bonds in a switching state")
    wire.add_argument("--state", metavar="NAME", help="one state (all)")
    wire.add_argument(
        "--set", action="append", default=[], metavar="PART=POSITION", help="move a switch by hand"
    )
    wire.add_argument("--moves", action="store_true", help="what each hand can do next from the first state")
    wire.add_argument(
        "--failures", action="store_true", help="what is left of an outage's supply when a unit fails"
    )
    adjust = command("adjust", "changes made by hand on the wiring: list, add, take out")
    adjust.add_argument(
        "--add", nargs="+", metavar="KIND key=value", help="insert, move ct, bypass, intercept, board"
    )
    adjust.add_argument("--remove", metavar="ID")
    adjust.add_argument("-o", "--output", metavar="FILE", help="the job to write (the same)")
    new = command("new", "a job from what stands there and what is wanted", job=False)
    new.add_argument("--kind", metavar="LETTER", help="a starting point, A to R")
    new.add_argument("--set", action="append", default=[], metavar="KEY=VALUE", help="a choice")
    new.add_argument("--choices", action="store_true", help="what can be chosen")
    new.add_argument("-o", "--output", metavar="FILE", help="the job to write")
    split = command(
        "split", "the best set of circuits to hold, what is left out and why; circuits dealt over the legs"
    )
    split.add_argument("--deal", action="store_true", help="deal each board's circuits over its legs instead")
    split.add_argument(
        "--panels", action="store_true", help="deal them between the panels of sources of their own"
    )
    split.add_argument("-o", "--output", metavar="FILE", help="write the job so changed")
    _loads_commands(command)
    command("samples", "the jobs that ship with the program", job=False)
    report = command(
        "report", "the pack that is handed over: PDF, workbook of its tables (.xlsx) or diagram (.svg)"
    )
    report.add_argument("-o", "--output", metavar="FILE", help="the file to write (a PDF beside the job)")
    report.add_argument("--register", metavar="FILE", help="firm, people and instruments (the person's own)")
    commands.add_parser("schema", help="the published schema of the design document (JSON Schema)")
    edition = command(
        "edition", "whether a newer edition of the job's rule pack is there, and what it has otherwise"
    )
    edition.add_argument("-o", "--output", metavar="FILE", help="write the job with it")
    diff = command("diff", "two versions of a job side by side, figure by figure", job=False)
    diff.add_argument("a", help="one job file")
    diff.add_argument("b", help="the other job file")
    sizes = command("sizes", "the map of battery modules by inverter sizes, a year in each cell")
    sizes.add_argument(
        "--outcome", choices=("self-sufficiency", "bill", "curtailed", "endurance"), default="bill"
    )
    _site_commands(command)
    _shelf_commands(command)
    pack = command("pack", "design, journal and attachments in one file to send")
    pack.add_argument("file", help="the file to write")
    unpack = command("unpack", "lay a packed job out", job=False)
    unpack.add_argument("file", help="the packed job")
    unpack.add_argument("job", help="the job file to write")
    demo = commands.add_parser("demo", help="open the demo job, or another sample, in the window")
    demo.add_argument("sample", nargs="?", help="the sample's name (larkmoor)")
    demo.add_argument("--look", choices=("day", "dusk"))
    shots = commands.add_parser("shots", help="pictures of each station of the demo job")
    shots.add_argument("folder")
    return parser


def _loads_commands(command: Callable[..., argparse.ArgumentParser]) -> None:
    """For circuits and the meter."""
    for name in ("strategies", "schools"):  # the second by its old name
        ways = command(name, "ways of backup side by side: what trips, how long each lasts, what it costs")
        ways.add_argument("--prices", metavar="FILE", help="another price book than the person's own")
    intervals = command(
        "intervals", "interval data of the meter: a file's shape and demand, or what the job's own explains"
    )
    intervals.add_argument("file", nargs="?", help="a CSV file to recognise (the job's own data)")
    intervals.add_argument(
        "--set", action="append", default=[], metavar="KEY=VALUE", help="a part of the shape typed over"
    )
    intervals.add_argument("--confirm", action="store_true", help="the shape is right: it may be counted on")
    intervals.add_argument("-o", "--output", metavar="FILE", help="write the job with the file attached")
    circuits = command("circuits", "the library of ordinary circuits by kind of building", job=False)
    circuits.add_argument("building", nargs="?", help="a kind of building (all kinds)")
    circuits.add_argument("--pack", default="uk", help="whose words (the job's)")
    circuits.add_argument("--job", help="a job to add circuits to")
    circuits.add_argument("--add", action="append", default=[], metavar="ID", help="a circuit of the library")
    circuits.add_argument("-o", "--output", metavar="FILE", help="the job to write")


def _site_commands(command: Callable[..., argparse.ArgumentParser]) -> None:
    """For the day on site."""
    command("settings", "the settings sheet: every value as the device shows it, and how it gets there")
    steps = command(
        "procedure", "the commissioning steps in order, as the journal leaves them, with expected readings"
    )
    steps.add_argument("--irradiance", type=_irradiance, metavar="W/m²", help="measured on the plane")
    steps.add_argument(
        "--module-temperature", type=_temperature, metavar="°C", help="measured at the module's back"
    )
    steps.add_argument(
        "--without", action="append", default=[], metavar="STRING", help="a string that is not in yet"
    )
    for name, text in (
        ("plant", "the simulated site, served as SunSpec over Modbus TCP on loopback"),
        (
            "rehearse",
            "the procedure gone through at the simulated site; exit code 1 where a step doesn't pass",
        ),
    ):
        site = command(name, text)
        site.add_argument(
            "--fault", action="append", default=[], metavar="NAME", help="a fault in it, by name"
        )
        site.add_argument("--seed", type=_seed, default=1, help="of sky, meter and instruments (1)")
        site.add_argument("--at", default="", metavar="TIME", help="local standard time (2026-06-18T12:00)")
        site.add_argument(
            "--clearness", type=_clearness, default=0.95, help="1 clear, 0.3 heavy cloud (0.95)"
        )
        site.add_argument("--soc", type=_share_pct, default=55.0, help="state of charge in percent (55)")
        if name == "plant":
            site.add_argument("--timetables", action="store_true", help="circuits run by their timetables")
            site.add_argument("--port", type=_port, default=0, help="to serve on (a free one)")
            site.add_argument(
                "--speed", type=_speed, default=1.0, help="its seconds for one of ours; 0 stands (1)"
            )
            site.add_argument("--seconds", type=_speed, default=None, help="end by itself after so long")


def _shelf_commands(command: Callable[..., argparse.ArgumentParser]) -> None:
    """For equipment and money."""
    shelf = command("shelf", "the person's own equipment, outside the jobs", job=False)
    doing = ("list", "show", "fields", "check", "import", "export", "set", "remove", "offers")
    shelf.add_argument("what", nargs="?", default="list", choices=doing)
    shelf.add_argument("words", nargs="*", help="kinds, an id, a file, or KIND ID key=value ...")
    shelf.add_argument("--shelf", metavar="FILE", help="another shelf than the person's own")
    shelf.add_argument("--row", type=_seed, action="append", default=[], help="of a module table, from 0")
    shelf.add_argument(
        "--page", action="store_true", help="with `fields`: the whole reference page as Markdown"
    )
    known = ("data sheet", "read on site", "measured", "told", "assumed")
    shelf.add_argument("--known", choices=known, default="data sheet", help="how the values are known")
    replace = command("replace", "a part of the job replaced by one of the shelf: what changes")
    replace.add_argument("old", help="the sheet that the job uses")
    replace.add_argument("new", help="the shelf's id")
    replace.add_argument("-o", "--output", metavar="FILE", help="write the job so changed")
    replace.add_argument("--shelf", metavar="FILE", help="another shelf than the person's own")
    own = command(
        "pack-check", "a rule pack of one's own: whether it is sound; may be laid over a job's", job=False
    )
    own.add_argument("file", help="the pack's file")
    own.add_argument("--job", help="lay it over this job's pack")
    own.add_argument("-o", "--output", metavar="FILE", help="the job to write (the same)")
    cost = command("cost", "what the design costs; missing prices are open")
    cost.add_argument("--prices", metavar="FILE", help="another price book than the person's own")


NAMES = (
    "check checks simulate outage wire report schema pack unpack diff sizes settings procedure plant "
    "rehearse shelf replace cost pack-check adjust new samples split strategies schools intervals circuits "
    "edition"
)


def command_names() -> frozenset[str]:
    """Subcommands that the command line itself answers."""
    return frozenset(NAMES.split())


def run(arguments: Sequence[str]) -> int:
    """Run one subcommand; returns its exit code."""
    from lodestaff.cli import (
        commands,
        loads_commands,
        shelf_commands,
        site_commands,
        split_commands,
        wiring_commands,
    )

    try:
        options = _parser().parse_args(arguments)
    except SystemExit as stop:
        return int(stop.code or 0)
    answer: dict[str, Callable[[argparse.Namespace], int]] = {
        "check": commands.check,
        "checks": commands.checks,
        "simulate": commands.simulate,
        "outage": commands.outage,
        "wire": wiring_commands.wire,
        "adjust": wiring_commands.adjust,
        "new": wiring_commands.new,
        "samples": wiring_commands.samples,
        "edition": wiring_commands.edition,
        "split": split_commands.split,
        "strategies": loads_commands.strategies,
        "schools": loads_commands.strategies,
        "intervals": loads_commands.intervals,
        "circuits": loads_commands.circuits,
        "report": commands.report,
        "schema": commands.schema,
        "pack": commands.pack,
        "unpack": commands.unpack,
        "diff": commands.diff,
        "sizes": commands.sizes,
        "settings": site_commands.settings,
        "procedure": site_commands.procedure,
        "plant": site_commands.plant,
        "rehearse": site_commands.rehearse,
        "shelf": shelf_commands.shelf,
        "replace": shelf_commands.replace,
        "cost": shelf_commands.cost,
        "pack-check": shelf_commands.pack_check,
    }
    try:
        code = answer[options.command](options)
        sys.stdout.flush()
        return code
    except JobError as trouble:
        print(f"lodestaff: {' '.join(str(trouble).split())}", file=sys.stderr)
        return UNREADABLE
    except BrokenPipeError:
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return FINE
