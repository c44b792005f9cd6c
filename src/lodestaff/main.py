"""The entry point: a command goes to the command line, a job file or nothing to the window."""

import contextlib
import gc
import os
import sys
from collections.abc import Sequence
from typing import TYPE_CHECKING, NoReturn

if TYPE_CHECKING:
    import argparse


def main(arguments: Sequence[str] | None = None) -> int:
    """Run Lodestaff. Returns the exit code: 0 fine, 1 findings that block, 2 input that can't be read, 3 a
    fault of the program."""
    given = list(sys.argv[1:] if arguments is None else arguments)
    if given in (["--version"], ["-V"]):
        from lodestaff import __version__

        print(f"lodestaff {__version__}")
        return 0
    from lodestaff.cli.run import is_command, run

    if given and is_command(given[0]):
        return run(given, _window)
    from lodestaff.desktop.start import open_window

    return open_window(given)


def _window(options: "argparse.Namespace") -> int:
    """The commands that open a window, or take its pictures."""
    from lodestaff.desktop.start import open_window, shots

    if options.command == "shots":
        return shots(options.folder)
    return open_window([], sample=options.sample, look=options.look)


def console() -> NoReturn:
    """Run as a process of its own: a command leaves as soon as it has answered, without taking apart what the
    system takes back anyway."""
    gc.set_threshold(
        200_000, 50, 50
    )  # what a command loads stays; looking through it takes a tenth of a second
    code = main()
    if "PySide6" in sys.modules:  # a window is taken apart in order
        sys.exit(code)
    with contextlib.suppress(OSError, ValueError):
        sys.stdout.flush()
    with contextlib.suppress(OSError, ValueError):
        sys.stderr.flush()
    os._exit(code)


if __name__ == "__main__":
    console()
