"""How numbers are written and read. Both go by one decimal sign; groups are parted by a space that can be
none.

The window takes the decimal sign of the person's own settings. The command line, and every file that is read
or written, keep to the point whatever they are.
"""

from dataclasses import dataclass

GROUP = "\u00a0"  # a space at which no line is broken


@dataclass
class Convention:
    """The decimal sign in use: a point or a comma."""

    decimal: str = "."


CONVENTION = Convention()


def written(number: str) -> str:
    """A number in Python's own writing, with groups by commas if any, as people write it."""
    whole, point, rest = number.partition(".")
    return f"{whole.replace(',', GROUP)}{CONVENTION.decimal if point else ''}{rest}"


def grouped(value: float, places: int = 0) -> str:
    """A number without its unit, its thousands parted."""
    return written(f"{value:,.{places}f}")


def plain(value: float, places: int | None = None) -> str:
    """A number without its unit: as short as it can be said, or with so many places."""
    return written(f"{value:g}" if places is None else f"{value:.{places}f}")
