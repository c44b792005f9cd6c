"""Power of modules, or groups of their cells, that carry one current: the best of all, or of the stronger
ones with the weaker bypassed."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from lodestaff.energy.calendar import Floats, Ints
from lodestaff.energy.compiled import njit

Groups = NDArray[np.float32]
BLOCK = 16  # steps
BYPASS_V = 0.5  # across a bypass diode that carries the string's current; common practice, no source
NONE: Ints = np.empty(0, np.int64)


@dataclass(frozen=True)
class InRow:
    """Equal modules in a row: power of one group of their cells in kW, shape (step,), how many such groups
    they have together, and a group's operating volts.

    At the steps `unlike` the groups of a module differ: `unlike_kw` holds each one's power there, shape
    (len(unlike), groups).
    """

    group_kw: NDArray[np.floating]
    groups: float
    volts: float
    unlike: Ints
    unlike_kw: Groups


def modules_in_series_kw(row: Sequence[InRow], least_v: float = 0.0, rise: float = 0.0) -> Floats:
    """Power of modules in series in kW, shape (step,); as of parts, with the few groups that differ."""
    which = np.concatenate([np.full(at.unlike.size, part) for part, at in enumerate(row)])
    steps = np.concatenate([at.unlike for at in row])
    order = np.argsort(steps, kind="stable")
    kw = np.concatenate([at.unlike_kw for at in row])[order]
    offsets = np.searchsorted(steps[order], np.arange(row[0].group_kw.size + 1))
    powers = np.array([at.group_kw for at in row], dtype=np.float32)
    counts, volts = np.array([at.groups for at in row]), np.array([at.volts for at in row])
    return np.asarray(_row_kw(powers, counts, volts, offsets, which[order], kw, least_v, rise))


def in_series_kw(
    powers: Groups, counts: Floats, volts: Floats, least_v: float = 0.0, rise: float = 0.0
) -> Floats:
    """Power of parts in series in kW, shape (step,), from that of one group of cells of each part, (part,
    step), how many such groups the part has, and a group's operating volts.

    All carry one current. The tracker takes the best of: all at the current of the weakest, or the stronger
    ones with the weaker bypassed, as long as `least_v` is left. What could carry more than that stands at
    higher volts, up to `rise` above its operating ones: by 1 − (share of its own current)³. Source: derived
    from the bypass diodes; checked against added single-diode curves.
    """
    none = np.zeros(powers.shape[1] + 1, np.int64)
    kw = np.empty((0, 1), np.float32)
    powers = np.ascontiguousarray(powers, dtype=np.float32)
    return np.asarray(_row_kw(powers, counts, volts, none, NONE, kw, least_v, rise))


@njit(cache=True, nogil=True, error_model="numpy")
def _row_kw(
    powers: Groups,
    counts: Floats,
    volts: Floats,
    offsets: Ints,
    whose: Ints,
    unlike_kw: Groups,
    least_v: float,
    rise: float,
) -> Floats:
    parts, steps = powers.shape
    out, near = np.zeros(steps), np.empty((BLOCK, parts))
    many, amps_per_kw = counts.sum(), 1000.0 / volts
    room = parts * (1 + unlike_kw.shape[1])
    there = np.empty((4, room))  # of what carries a current: amperes, cells, volts, and their fall
    for begin in range(0, steps, BLOCK):
        size = min(BLOCK, steps - begin)
        for part in range(parts):  # step by step they lie far apart in memory
            for place in range(size):
                near[place, part] = powers[part, begin + place] * amps_per_kw[part]
        for place in range(size):
            here, count = near[place], 0
            for entry in range(offsets[begin + place], offsets[begin + place + 1]):
                part = whose[entry]
                here[part] = 0.0
                for group in range(unlike_kw.shape[1]):
                    amp = unlike_kw[entry, group] * amps_per_kw[part]
                    count = _put(there, count, amp, 1.0, volts[part])
            for part in range(parts):
                count = _put(there, count, here[part], counts[part], volts[part])
            out[begin + place] = _best_w(there, count, many, least_v, rise) / 1000.0
    return out


@njit(cache=True, nogil=True, error_model="numpy")
def _put(there: Floats, count: int, amp: float, cells: float, volts: float) -> int:
    """Add what carries a current to what is there; returns how many there are then."""
    if amp <= 0.0:
        return count
    across = cells * volts
    there[0, count], there[1, count], there[2, count] = amp, cells, across
    there[3, count] = across / (amp * amp * amp)
    return count + 1


@njit(cache=True, nogil=True, error_model="numpy")
def _best_w(there: Floats, count: int, many: float, least_v: float, rise: float) -> float:
    """The most that comes of all, or of them without the weakest, the two weakest and so on.

    It ends where what is left couldn't give more at the strongest's current: a string's volts times its
    current grow with the current as long as `rise` is a third or less.
    """
    amps, cells, across, steep = there[0], there[1], there[2], there[3]
    strongest, carried, best = 0.0, 0.0, 0.0
    for place in range(count):
        strongest = max(strongest, amps[place])
        carried += across[place]
    if rise > 1.0 / 3.0:
        strongest *= 1.0 + rise
    while count > 0 and carried * strongest > best:
        left, fall, weakest, at = 0.0, 0.0, np.inf, 0
        for place in range(count):
            left += cells[place]
            fall += steep[place]
            if amps[place] < weakest:
                weakest, at = amps[place], place
        volts = carried * (1.0 + rise) - rise * fall * weakest * weakest * weakest - (many - left) * BYPASS_V
        if volts >= least_v or left >= many - 1e-9:
            best = max(best, volts * weakest)
        carried -= across[at]
        count -= 1
        for row in range(4):
            there[row, at] = there[row, count]
    return best
