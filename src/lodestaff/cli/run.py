"""A command from its arguments to its exit code; one line on standard error for whatever goes wrong."""

import argparse
import contextlib
import errno
import importlib
import sys
from collections.abc import Callable, Sequence
from difflib import get_close_matches
from pathlib import Path

from lodestaff.cli.exits import FAULT, FINE, STOPPED, UNREADABLE
from lodestaff.cli.parser import parsed
from lodestaff.cli.terminal import fit_streams, silence
from lodestaff.quantities.disk import CURES, cure_of
from lodestaff.quantities.errors import JobError, shortened

ANSWERS = {  # the module that answers, and its function where that isn't named as the command is
    "commands": "check checks simulate report schema pack unpack diff",
    "storage_commands": "sizes outage ride best years coupling",
    "tariff_commands": "tariff",
    "wiring_commands": "wire adjust new samples edition horizon",
    "cable_commands": "cables schedules",
    "place_commands": "place",
    "visit_commands": "visits",
    "merge_commands": "merge",
    "built_commands": "built",
    "split_commands": "split",
    "roof_commands": "arrange families shade",
    "loads_commands": "strategies schools=strategies intervals circuits",
    "site_commands": "settings procedure plant rehearse faults",
    "snag_commands": "snag as-left=as_left",
    "completion": "completion",
    "shelf_commands": "shelf replace cost pack-check=pack_check",
}

WITHOUT_FILES = ("completion",)  # nothing is read or written: nothing is loaded to guard it
WINDOWS = ("demo", "shots")  # what opens the window
COMMANDS = frozenset(
    [*WINDOWS, "help", *(name.split("=")[0] for names in ANSWERS.values() for name in names.split())]
)


def _answer(command: str) -> Callable[[argparse.Namespace], int]:
    """The function of a command; nothing else is loaded."""
    for module, names in ANSWERS.items():
        for name in names.split():
            word, _, function = name.partition("=")
            if word == command:
                commands = importlib.import_module(f"lodestaff.cli.{module}")
                answer: Callable[[argparse.Namespace], int] = getattr(commands, function or word)
                return answer
    raise LookupError(command)


def is_command(word: str) -> bool:
    """Whether a first argument is for the command line: everything but the path of a file to open."""
    if word in COMMANDS or word.startswith("-"):
        return True
    path = Path(word)
    with contextlib.suppress(OSError, ValueError):  # what no file can be called
        return not (path.suffix or "/" in word or path.exists())
    return True


def run(arguments: Sequence[str], window: Callable[[argparse.Namespace], int]) -> int:
    """Run one command; `window` answers those that open one. Returns the exit code."""
    fit_streams()
    try:
        try:
            options = parsed(_known(arguments))
        except SystemExit as stop:
            code = int(stop.code or 0)
        else:
            code = window(options) if options.command in WINDOWS else _run(options)
        sys.stdout.flush()
        return code
    except JobError as trouble:
        return _told(f"lodestaff: {trouble}", UNREADABLE)
    except KeyboardInterrupt:
        return STOPPED
    except BrokenPipeError:
        silence()
        return FINE
    except OSError as trouble:
        if trouble.filename is not None and trouble.errno in CURES:
            return _told(
                f"lodestaff: {shortened(str(trouble.filename), 120)}: {cure_of(trouble)}", UNREADABLE
            )
        if trouble.errno not in (errno.ENOSPC, errno.EDQUOT, errno.EIO, errno.EBADF):
            return fault(trouble)
        silence()
        return _told(f"lodestaff: standard output: {trouble.strerror}; send it elsewhere", UNREADABLE)
    except Exception as error:  # noqa: BLE001 - whatever else is raised, the program is at fault
        return fault(error)


def _known(arguments: Sequence[str]) -> Sequence[str]:
    """The arguments, where they begin with a command. Raises JobError that names the likely one."""
    word = arguments[0]
    if word in COMMANDS or word.startswith("-"):
        return arguments
    near = get_close_matches(word, COMMANDS, n=1)
    right = f"is `{near[0]}` meant? " if near else ""
    raise JobError("no such command or file", word, f"{right}`lodestaff help` lists the commands")


def _run(options: argparse.Namespace) -> int:
    if options.command in WITHOUT_FILES:
        return _answer(options.command)(options)
    from lodestaff.cli.output import alone, guard

    guard(options)
    with alone(options):
        return _answer(options.command)(options)


def fault(error: BaseException) -> int:
    """Say that the program is at fault, and where the trace is kept."""
    from lodestaff.quantities.faults import trace_of, write_trace

    path = write_trace(error)
    if path is None:
        print(trace_of(error), file=sys.stderr)
    where = f"the trace is in {path}" if path else "the trace stands above"
    what = shortened(f"{type(error).__name__} {error}", 100)
    return _told(f"lodestaff: a fault of the program ({what}): {where}; please report it", FAULT)


def _told(words: str, code: int) -> int:
    with contextlib.suppress(OSError, ValueError):
        print(words, file=sys.stderr, flush=True)
    return code
