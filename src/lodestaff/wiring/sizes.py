"""How large each kind of part is drawn: width and height, mm."""

from lodestaff.wiring.shapes import MM

SIZES: dict[str, tuple[MM, MM]] = {
    "supply": (9, 9), "fuse": (12, 5), "meter": (12, 9), "isolator": (12, 7), "breaker": (12, 7),
    "block": (3.5, 14),
    "board": (8, 14), "rcd": (12, 8), "unit": (20, 24), "relay": (12, 7), "bypass": (15, 16),
    "battery": (13, 9),
    "array": (15, 10), "circuit": (3, 4), "electrode": (8, 6), "throw": (15, 16), "interlock": (15, 16),
    "gateway": (17, 18), "contactor": (12, 8), "generator": (13, 13), "transmitter": (11, 8),
    "shutdown": (10, 7),
}  # fmt: skip
