"""The arguments of every command."""

import argparse
from collections.abc import Callable, Sequence
from typing import Any, NoReturn

from lodestaff import __version__
from lodestaff.cli.exits import UNREADABLE
from lodestaff.cli.values import (
    clearness,
    hour,
    irradiance,
    month,
    port,
    seed,
    share,
    share_pct,
    speed,
    temperature,
    worked,
)
from lodestaff.quantities.errors import MOST_SIGNS, shortened

DESCRIPTION = """\
Lodestaff carries one solar and storage job. `lodestaff JOB` opens the window;
`lodestaff demo` opens the demo job; the commands below answer on the command line."""
EXAMPLES = """\
examples:
  lodestaff new --kind A -o job.json      a job to start from
  lodestaff check job.json                what stands in its way; 1 where something blocks
  lodestaff simulate job.json --json      a year, for a script
  lodestaff report job.json -o pack.pdf   what is handed over
  lodestaff help check                    all that a command takes

exit codes: 0 fine, 1 findings that block, 2 input that can't be read, 3 a fault of the program"""


class _Parser(argparse.ArgumentParser):
    """A parser whose complaint is one line and whose exit code is 2."""

    def print_help(self, file: Any = None) -> None:
        """The help, told with the errors of the stream, which argparse passes over."""
        print(self.format_help(), end="", file=file)

    def error(self, message: str) -> NoReturn:
        hint = f" (see {self.prog} --help)"
        said = shortened(f"{self.prog}: {message}", MOST_SIGNS - len(hint))
        self.exit(UNREADABLE, f"{said}{hint}\n")


def whole_parser() -> argparse.ArgumentParser:
    """The parser of all commands."""
    raw = argparse.RawDescriptionHelpFormatter
    parser = _Parser(prog="lodestaff", description=DESCRIPTION, epilog=EXAMPLES, formatter_class=raw)
    parser.add_argument("--version", action="version", version=f"lodestaff {__version__}")
    commands = parser.add_subparsers(dest="command", metavar="COMMAND", required=True, parser_class=_Parser)

    def command(name: str, text: str, job: bool = True) -> argparse.ArgumentParser:
        sub = commands.add_parser(name, help=text, description=text)
        if job:
            sub.add_argument("job", help="the job file")
        sub.add_argument("--json", action="store_true", help="answer as JSON with stable keys")
        return sub

    command("check", "all findings of a job; exit code 1 where one blocks")
    checks = command("checks", "all registered checks, or what one of them is", job=False)
    checks.add_argument("code", nargs="?", help="a check's code")
    simulate = command("simulate", "a year at 15 minutes: energies, ratios, money")
    simulate.add_argument("--csv", metavar="FILE", help="also write the series, one row per step")
    simulate.add_argument("--spread", action="store_true", help="also the ranges of ten seeded years")
    _force(simulate)
    outage = command("outage", "how long an outage lasts, and why it ends")
    outage.add_argument("--month", type=month, default=1, help="1 to 12 (1)")
    outage.add_argument("--hour", type=hour, default=18.75, help="hour of standard time (18:45)")
    outage.add_argument("--sky", choices=("clear", "mixed", "dull"), default="mixed")
    outage.add_argument("--soc", type=share, default=None, help="state of charge in percent (as simulated)")
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
    adjust.add_argument("--step", metavar="PART", help="a step of shutting down, by the part that it works")
    adjust.add_argument("--to", type=int, metavar="N", help="its place from 1; without one its own")
    adjust.add_argument("--why", metavar="TEXT", help="why it goes there: it is printed")
    _output(adjust, "the job to write (the same)")
    cables = command("cables", "every run of cable with what flows in it; proposals for those without one")
    cables.add_argument("--propose", action="store_true", help="size every run that has no cable yet")
    cables.add_argument("--anew", action="store_true", help="size all runs anew, from their known ways")
    cables.add_argument("--run", metavar="ID", default="", help="one run only")
    _output(cables, "write the job with the proposals")
    place = command("place", "what stands where, what may not stand so, the ways of the cables between")
    place.add_argument("--lengths", action="store_true", help="give assumed cables the lengths of their ways")
    place.add_argument("--containments", action="store_true", help="conduits and trunkings of the ways")
    place.add_argument("--way", metavar="RUN", help="lay a run by the points of --by; without any, by none")
    place.add_argument("--by", metavar="WALL:X,Y", nargs="*", help="points in their order, metres")
    place.add_argument("--keep", metavar="NAME", help="keep how it stands now as an arrangement")
    place.add_argument("--compare", action="store_true", help="all arrangements that were kept, side by side")
    place.add_argument("--prices", metavar="FILE", help="a price book (your own)")
    place.add_argument("--choose", metavar="NAME", help="stand all so, and put the choice on record")
    place.add_argument("--why", metavar="TEXT", help="why it was chosen")
    place.add_argument("--who", metavar="NAME", help="who chose it")
    place.add_argument("--template", metavar="PARTS", help="what is drilled for these, with commas between")
    place.add_argument("--sheets", metavar="FILE", help="where the template is written, a PDF at full size")
    place.add_argument("--paper", choices=("A4", "Letter"), help="its paper (the pack's)")
    _output(place, "write the job so changed")
    days = command("visits", "tasks with their hours, laid over days and hands; how each evening is left")
    days.add_argument("--lay", action="store_true", help="lay all that isn't done over days and hands")
    days.add_argument("--from", dest="from_date", metavar="DATE", help="the first day to lay on (today)")
    days.add_argument(
        "--days", type=int, default=15, metavar="N", help="working days tried, without own (15)"
    )
    days.add_argument("--book", metavar="TASK", help="write into the journal what was worked on a task")
    days.add_argument("--hours", type=worked, metavar="H", help="how long it took")
    days.add_argument("--done", action="store_true", help="and that it is done")
    days.add_argument("--by", default="", metavar="NAME", help="who says so")
    days.add_argument("--learn", action="store_true", help="take what was booked into your own hours")
    days.add_argument("--print", metavar="FILE", help="also write the days: .pdf, .xlsx, .ics")
    _output(days, "write the job with its days")
    merging = command("merge", "two copies of a job that went apart, put together part by part")
    merging.add_argument("theirs", help="the other copy")
    merging.add_argument("--base", metavar="FILE", help="the job as it was before they went apart")
    merging.add_argument("--take", choices=("ours", "theirs"), help="whose word counts where both changed")
    _output(merging, "the job to write")
    was_built = command("built", "what was built otherwise than planned, and who stands for it")
    was_built.add_argument("--plan", action="store_true", help="keep the job as it is for its plan")
    was_built.add_argument(
        "--confirm", metavar="PATH", nargs="*", help="confirm differences; all, where none is named"
    )
    was_built.add_argument("--by", metavar="NAME", help="who confirms, or whose plan it is")
    was_built.add_argument("--why", metavar="TEXT", help="why it was built so")
    _output(was_built, "write the job")
    lists = command("schedules", "cables, devices, boards, terminations, links, labels, parts, as rows")
    lists.add_argument("--only", metavar="ID", default="", help="one of them")
    lists.add_argument("--csv", metavar="FOLDER", help="also write each as a CSV file into a folder")
    lists.add_argument("--labels", metavar="FILE", help="also write the labels as a PDF that prints to size")
    lists.add_argument("--prices", metavar="FILE", help="price lists (the person's own)")
    _force(lists)
    new = command("new", "a job from what stands there and what is wanted", job=False)
    new.add_argument("--kind", metavar="LETTER", help="a starting point, A to S")
    new.add_argument("--set", action="append", default=[], metavar="KEY=VALUE", help="a choice")
    new.add_argument("--choices", action="store_true", help="what can be chosen")
    _output(new, "the job to write")
    split = command(
        "split", "the best set of circuits to hold, what is left out and why; circuits dealt over the legs"
    )
    split.add_argument("--deal", action="store_true", help="deal each board's circuits over its legs instead")
    split.add_argument(
        "--panels", action="store_true", help="deal them between the panels of sources of their own"
    )
    _output(split, "write the job so changed")
    arrange = command("arrange", "the best strings of a roof's modules on its trackers, and why others fail")
    arrange.add_argument("--take", type=int, default=1, metavar="N", help="which of them to write (1)")
    _output(arrange, "write the job so arranged")
    shade = command("shade", "what shade takes of each module's year; of one of them by month and hour")
    shade.add_argument("--module", metavar="FACE/MODULE", help="by month and hour")
    families = command("families", "strings, optimisers and microinverters side by side on the job's roof")
    families.add_argument("--prices", metavar="FILE", help="price lists (the person's own)")
    _loads_commands(command)
    command("samples", "the jobs that ship with the program", job=False)
    report = command(
        "report", "the pack that is handed over: PDF, workbook of its tables (.xlsx) or diagram (.svg, .dxf)"
    )
    report.add_argument(
        "--parts", metavar="PARTS", help="some of owner,technical,operator,firm (as the job has it)"
    )
    report.add_argument("--workings", action="store_true", help="every finding with its formula and source")
    report.add_argument("--prices", metavar="FILE", help="price lists for the firm's part")
    report.add_argument("--notify", metavar="FILE", help="also what the operator asks for, as JSON")
    _output(report, "the file to write (a PDF beside the job)")
    report.add_argument("--register", metavar="FILE", help="firm, people and instruments (the person's own)")
    command("schema", "the published schema of the design document (JSON Schema)", job=False)
    edition = command(
        "edition", "whether a newer edition of the job's rule pack is there, and what it has otherwise"
    )
    _output(edition, "write the job with it")
    diff = command("diff", "two versions of a job side by side, figure by figure", job=False)
    diff.add_argument("a", help="one job file")
    diff.add_argument("b", help="the other job file")
    sizes = command("sizes", "the map of battery modules by unit sizes, a year of the whole job in each cell")
    sizes.add_argument(
        "--outcome",
        choices=(
            "self-sufficiency",
            "bill",
            "curtailed",
            "endurance",
            "served",
            "unserved",
            "generator",
            "saved over years",
        ),
        help="the bill where there is a grid, else what stays unserved",
    )
    sizes.add_argument("--prices", metavar="FILE", help="price lists (the person's own): cost and budget")
    tariff = command("tariff", "what a kWh costs by season, day and hour; as an open file in and out")
    tariff.add_argument("--read", metavar="FILE", help="a tariff file (JSON) to take; needs -o")
    tariff.add_argument("--hourly", metavar="FILE", help="import prices of each hour (CSV) to take; needs -o")
    tariff.add_argument("--write", metavar="FILE", help="write the job's tariff as such a file")
    _output(tariff, "write the job with the tariff")
    best = command("best", "how far the settings are from the best possible, and the best that are found")
    _output(best, "write the job with them")
    years = command("years", "money over years: what ages and is replaced, and when it pays back")
    years.add_argument("--prices", metavar="FILE", help="price lists (the person's own)")
    command("coupling", "DC- against AC-coupled on this job: flows, losses and the bill of both")
    command("ride", "how long backed-up circuits last, by month and hour at which an outage begins")
    _site_commands(command)
    _shelf_commands(command)
    pack = command("pack", "design, journal and attachments in one file to send")
    pack.add_argument("file", help="the file to write")
    _force(pack)
    pack.add_argument("--incomplete", action="store_true", help="also without attachments that are missing")
    unpack = command("unpack", "lay a packed job out", job=False)
    unpack.add_argument("file", help="the packed job")
    unpack.add_argument("job", help="the job file to write")
    unpack.add_argument("--incomplete", action="store_true", help="also without attachments that are missing")
    lies = unpack.add_mutually_exclusive_group()
    for way, text in (("merge", "add to"), ("replace", "put aside")):
        lies.add_argument(
            f"--{way}",
            dest="journal",
            action="store_const",
            const=way,
            default="refuse",
            help=f"{text} a journal that lies there already",
        )
    shell = commands.add_parser("completion", help="completion of the commands, for a shell to read")
    shell.add_argument("shell", choices=("bash", "zsh", "fish"))
    commands.add_parser("help", help="what a command takes").add_argument("about", nargs="?")
    demo = commands.add_parser("demo", help="open the demo job, or another sample, in the window")
    demo.add_argument("sample", nargs="?", default="larkmoor", help="the sample's name (larkmoor)")
    demo.add_argument("--look", choices=("day", "dusk"))
    shots = commands.add_parser("shots", help="pictures of each station of the demo job")
    shots.add_argument("folder")
    return parser


def _output(command: argparse.ArgumentParser, text: str) -> None:
    command.add_argument("-o", "--output", metavar="FILE", help=text)
    _force(command)


def _force(command: argparse.ArgumentParser) -> None:
    command.add_argument("--force", action="store_true", help="replace whatever file lies there")


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
    _output(intervals, "write the job with the file attached")
    horizon = command(
        "horizon", "the far horizon from a CSV file of azimuths and elevations, and what it takes"
    )
    horizon.add_argument("file", nargs="?", help="the file (the job's own horizon)")
    horizon.add_argument(
        "--zero", choices=("north", "south"), help="where azimuths from -180 to 180 count from"
    )
    _output(horizon, "write the job with it")
    circuits = command("circuits", "the library of ordinary circuits by kind of building", job=False)
    circuits.add_argument("building", nargs="?", help="a kind of building (all kinds)")
    circuits.add_argument("--pack", default="uk", help="whose words (the job's)")
    circuits.add_argument("--job", help="a job to add circuits to")
    circuits.add_argument("--add", action="append", default=[], metavar="ID", help="a circuit of the library")
    circuits.add_argument(
        "--plate",
        nargs=2,
        metavar=("ID", "VALUES"),
        help="a circuit's motor by its plate: '1.1 kW; 78 %%; 0.8; 6'",
    )
    _output(circuits, "the job to write")


def _site_commands(command: Callable[..., argparse.ArgumentParser]) -> None:
    """For the day on site."""
    command("settings", "the settings sheet: every value as the device shows it, and how it gets there")
    steps = command(
        "procedure", "the commissioning steps in order, as the journal leaves them, with expected readings"
    )
    steps.add_argument("--irradiance", type=irradiance, metavar="W/m²", help="measured on the plane")
    steps.add_argument(
        "--module-temperature", type=temperature, metavar="°C", help="measured at the module's back"
    )
    steps.add_argument(
        "--without", action="append", default=[], metavar="STRING", help="a string that is not in yet"
    )
    snag = command("snag", "snags of the day: list, write down, close; exit code 1 where one is late")
    snag.add_argument("words", nargs="*", help="what is wrong; with --done, how it was put right")
    for name, text in (
        ("--owner", "who puts it right"),
        ("--due", "by when, as 2026-06-18"),
        ("--step", "the step of the procedure that showed it"),
        ("--done", "the id of a snag that is put right"),
        ("--by", "who says so"),
    ):
        snag.add_argument(name, default="", metavar=name.removeprefix("--").upper(), help=text)
    left = command("as-left", "devices left otherwise than designed; exit code 1 where any is not taken")
    left.add_argument("--take", action="append", default=[], metavar="STEP", help="bring the design to it")
    left.add_argument("--by", default="", metavar="BY", help="who says so")
    _output(left, "with --take, the job to write, its journal beside it")
    command("faults", "what can be wrong at this site when it is rehearsed, and which steps find it")
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
        site.add_argument("--seed", type=seed, default=1, help="of sky, meter and instruments (1)")
        site.add_argument("--at", default="", metavar="TIME", help="local standard time (2026-06-18T12:00)")
        site.add_argument("--clearness", type=clearness, default=0.95, help="1 clear, 0.3 heavy cloud (0.95)")
        site.add_argument("--soc", type=share_pct, default=55.0, help="state of charge in percent (55)")
        if name == "rehearse":
            site.add_argument(
                "--as-it-stands", action="store_true", help="without a permission that isn't there yet"
            )
        if name == "plant":
            site.add_argument("--timetables", action="store_true", help="circuits run by their timetables")
            site.add_argument("--port", type=port, default=0, help="to serve on (a free one)")
            site.add_argument(
                "--speed", type=speed, default=1.0, help="its seconds for one of ours; 0 stands (1)"
            )
            site.add_argument("--seconds", type=speed, default=None, help="end by itself after so long")


def _shelf_commands(command: Callable[..., argparse.ArgumentParser]) -> None:
    """For equipment and money."""
    shelf = command("shelf", "the person's own equipment, outside the jobs", job=False)
    doing = ("list", "show", "fields", "check", "import", "export", "set", "remove", "offers")
    _force(shelf)
    shelf.add_argument("what", nargs="?", default="list", choices=doing)
    shelf.add_argument("words", nargs="*", help="kinds, an id, a file, or KIND ID key=value ...")
    shelf.add_argument("--shelf", metavar="FILE", help="another shelf than the person's own")
    shelf.add_argument("--row", type=seed, action="append", default=[], help="of a module table, from 0")
    shelf.add_argument(
        "--page", action="store_true", help="with `fields`: the whole reference page as Markdown"
    )
    known = ("data sheet", "read on site", "measured", "told", "assumed")
    shelf.add_argument("--known", choices=known, default="data sheet", help="how the values are known")
    replace = command("replace", "a part of the job replaced by one of the shelf: what changes")
    replace.add_argument(
        "old",
        help="the sheet that the job uses, or the part, run or circuit that takes one; none: a mounting or "
        "optimiser it lacks",
    )
    replace.add_argument("new", help="the shelf's id")
    _output(replace, "write the job so changed")
    replace.add_argument("--shelf", metavar="FILE", help="another shelf than the person's own")
    own = command(
        "pack-check", "a rule pack of one's own: whether it is sound; may be laid over a job's", job=False
    )
    own.add_argument("file", help="the pack's file")
    own.add_argument("--job", help="lay it over this job's pack")
    _output(own, "the job to write (the same)")
    cost = command("cost", "what the design costs; missing prices are open")
    cost.add_argument("--prices", metavar="FILE", help="another price book than the person's own")


def parsed(arguments: Sequence[str]) -> argparse.Namespace:
    """The options of a command. Raises SystemExit with an exit code where there is nothing more to do."""
    parser = whole_parser()
    options = parser.parse_args(arguments)
    if options.command == "help":
        parser.parse_args([options.about, "--help"] if options.about else ["--help"])
    return options
