"""What each current transformer's meter shows: of every leg, as it sits and as it is wired."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from lodestaff.plant.built import Built
from lodestaff.plant.network import Complexes, Network

if TYPE_CHECKING:
    from numpy.random import Generator as Random

METER_CLASS, CT_CLASS = 0.01, 0.01
NOISE_KW = 0.004


class Meters:
    """Channels of every transformer in kW, import above 0, with the class of the meter and a little noise."""

    def __init__(self, built: Built, random: Random) -> None:
        spread = random.uniform(-1, 1, 2)
        self.gain = 1 + METER_CLASS * float(spread[0]) * 0.7 + CT_CLASS * float(spread[1]) * 0.7
        self.built, self._random = built, random
        self.unplugged: set[str] = set()
        self.readings: dict[str, dict[str, float]] = {ct: {} for ct in built.channels}

    def rows(self, network: Network) -> dict[str, list[tuple[str, float, Complexes, Complexes]]]:
        """Of each transformer the rows of its channels in a network."""
        return {
            ct: [
                (channel.leg, channel.sign, *network.channel(channel.conductor, channel.core, channel.leg))
                for channel in channels
            ]
            for ct, channels in self.built.channels.items()
        }

    def read(
        self, rows: dict[str, list[tuple[str, float, Complexes, Complexes]]], weights: Complexes
    ) -> None:
        """Take what passes now."""
        for ct, channels in rows.items():
            registers: dict[str, float] = {}
            for leg, sign, amps, volts in channels:
                power = (complex(volts @ weights) * complex(amps @ weights).conjugate()).real / 1000
                noise = NOISE_KW * float(self._random.standard_normal())
                registers[leg] = registers.get(leg, 0.0) + sign * self.gain * power + noise
            self.readings[ct] = registers

    def of(self, ct: str) -> dict[str, float] | None:
        """The channels of a transformer; None while its lead is out."""
        return None if ct in self.unplugged else self.readings.get(ct, {})

    def sum_kw(self, ct: str) -> float | None:
        channels = self.of(ct)
        return None if channels is None else float(np.sum(list(channels.values())))
