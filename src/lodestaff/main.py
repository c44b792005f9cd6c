"""The entry point: a subcommand goes to the command line, anything else to the window."""

import sys
from collections.abc import Sequence


def main(arguments: Sequence[str] | None = None) -> int:
    """Run Lodestaff. Returns the exit code: 0 fine, 1 findings that block, 2 input that can't be read."""
    from lodestaff.cli.parser import command_names, run

    given = list(sys.argv[1:] if arguments is None else arguments)
    first = given[0] if given else ""
    if first in command_names() or first in ("-h", "--help", "--version"):
        return run(given)
    if first.startswith("-"):
        return run(given)
    from lodestaff.desktop.start import open_window, shots

    if first == "demo":
        return open_window(demo=True, paths=given[1:])
    if first == "shots":
        return shots(given[1:])
    return open_window(demo=False, paths=given)


if __name__ == "__main__":
    sys.exit(main())
