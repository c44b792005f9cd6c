"""How far a drawing is drawn apart, so that it takes the shape of its surface."""

from dataclasses import dataclass

from lodestaff.wiring.shapes import MM

MOST_WIDE: MM = 200.0  # more in a channel would tear what belongs together
MOST_TALL = 2.2
ENOUGH = 1.06


@dataclass(frozen=True)
class Spread:
    """More room in each channel between the layers, mm, and how many times the heights are drawn apart."""

    wide_mm: MM = 0.0
    tall: float = 1.0


AS_IT_IS = Spread()


def spread_to(width: MM, height: MM, channels: int, aspect: float) -> Spread:
    """What brings a drawing of a size to an aspect (width over height), as far as that reads well."""
    if channels > 0 and aspect > width / height * ENOUGH:
        return Spread(wide_mm=min(MOST_WIDE, (height * aspect - width) / channels))
    if aspect < width / height / ENOUGH:
        return Spread(tall=min(MOST_TALL, width / aspect / height))
    return AS_IT_IS
