"""`PART` or `PART:PORT`: how job files and commands name where something is fed from or put. Read here
alone."""

from typing import NamedTuple


class Address(NamedTuple):
    """A part, and the port of it that is meant; '' where the part alone says enough."""

    part: str
    port: str


def address(text: str) -> Address:
    part, _, port = text.partition(":")
    return Address(part, port)
