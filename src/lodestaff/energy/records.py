"""What goes into the compiled loops and comes out of them: named tuples of arrays and numbers."""

from typing import NamedTuple

import numpy as np

from lodestaff.energy.calendar import Floats, Ints

ENERGY, OVERLOAD, START, HELD = 0, 1, 2, 3  # why an outage ended; HELD: it did not within the horizon
FULL = 4  # it is followed no further: all batteries are full, and all is on
SERVE, CHARGE, HOLD, GIVE, SHAVE = 0, 1, 2, 3, 4  # what a battery is told in a step


class UnitArrays(NamedTuple):
    """Units as arrays of length U. Battery energies on the scale of capacity at present health."""

    control: Ints  # by which controller each is led
    rated_kw: Floats
    k1: Floats
    k2: Floats
    pv_max_kw: Floats
    e_floor: Floats  # nothing is taken below: the reserve with the grid, the device's floor in an outage
    e_top: Floats
    charge_kw: Floats  # at the DC bus
    discharge_kw: Floats  # at the DC bus
    eta_charge: Floats
    eta_discharge: Floats
    e_taper: Floats  # charging power falls from here on, in a straight line ...
    taper_end: Floats  # ... to this share of it at the top
    ac_charge: Ints  # 1: may take surplus from the AC bus (an AC-coupled battery)


class ControlArrays(NamedTuple):
    """Controllers as arrays of length C, in the order in which they act: those of a rank at once."""

    first: Ints  # the first controller of each rank, and their count: shape (R + 1,)
    load: Floats  # (C, T): what the transformer sees drawn, kW
    sees: Floats  # (C, U): 1 where units of earlier ranks give into what it sees
    limit: Ints  # which limits it keeps
    export_kw: Floats  # by limit, shape (L,)
    import_kw: Floats  # by limit, shape (L,)
    peak_kw: Floats  # above it batteries that hold help, infinite: never
    spared: Floats  # (C, T) or (C, 1): what batteries never serve, kW


class OrderArrays(NamedTuple):
    """What batteries are told, shape (U, T) each."""

    what: Ints
    target_e: Floats  # charged up to, or given down to, kWh
    power_kw: Floats  # at most so much from the grid, or to it


class Forecast(NamedTuple):
    """What is known beforehand of the sun and the load before a unit, shape (U, T) each; (U, 1): nobody
    asks.
    """

    clear_kw: Floats  # AC sun of a clear day
    usual_kw: Floats  # load
    ratio: Floats  # how much of a clear day's sun the rest of the day is expected to bring
    most_kw: Floats  # shape (U,): above it sun is lost, so that no battery waits for more


class Series(NamedTuple):
    """What dispatch returns: shape (unit, step), the grid (phase, step). Signs: into the bus is positive."""

    pv_ac_kw: Floats  # what the unit sends to the AC bus from the sun
    battery_ac_kw: Floats  # from the battery; negative while it charges from the AC bus
    pv_dc_kw: Floats  # taken from the array
    battery_dc_kw: Floats  # into the DC bus; negative while it charges
    clipped_kw: Floats  # DC power above what the unit takes or turns into AC
    curtailed_kw: Floats  # DC power that had nowhere to go
    energy_kwh: Floats  # in the battery at the end of the step
    grid_kw: Floats  # left empty by the loop: what phases carry follows from what stands on each


class OutageArrays(NamedTuple):
    """One island. Row 0 of shape (tier, T): the held circuits only; each further row adds those shed
    next.

    `running` is the apparent power of the circuits that run in the step together, `peak` the same with the
    largest start on top. `shed_soc` of shape (tier - 1,), rising: the state of charge that drops a row's
    circuits.
    """

    pv_dc: Floats  # by forming unit, shape (U, T), or (T,) for one
    kw: Floats
    running: Floats
    peak: Floats
    shed_soc: Floats
    ac_sun: Floats | None = None  # what follows the island on AC could give, shape (T,)

    @property
    def sun(self) -> Floats:
        """All sun of the island together, shape (T,)."""
        own = np.atleast_2d(self.pv_dc).sum(axis=0)
        return np.asarray(own if self.ac_sun is None else own + self.ac_sun)

    @property
    def held_kw(self) -> Floats:
        first: Floats = self.kw[0]
        return first


class Island(NamedTuple):
    """The unit and its battery in an outage; energies in kWh, powers in kW, apparent powers in kVA."""

    rated_kw: float
    rated_kva: float
    surge_kva: float
    k1: float
    k2: float
    pv_max_kw: float
    e_floor: float
    e_top: float
    capacity_kwh: float
    charge_kw: float
    discharge_kw: float
    eta_charge: float
    eta_discharge: float
    e_taper: float
    taper_end: float


class Generator(NamedTuple):
    """A generator that starts by itself. Shares of charge are of the unit that starts it, or of all
    batteries. By volts it starts after `low_steps` steps at or below `start_v`, and stops at `stop_v`, of the
    leading unit's battery as its last step left it."""

    power_kw: float  # usable; 0: none starts by itself
    rated_kva: float
    start_soc: float
    stop_soc: float
    lead: int  # the forming unit whose charge counts, below 0: all together
    allowed: Floats  # 1 in steps in which it may start, shape (T,)
    exercise: Floats  # 1 in steps in which it runs for its own sake, shape (T,)
    charger_kw: Floats  # what each forming unit takes of it for its battery, AC, shape (U,)
    start_v: float  # 0: it starts by charge
    stop_v: float
    low_steps: int
    rest_soc: Floats  # states of charge of the battery's volts at rest, rising
    rest_v: Floats
    ohm: float


class IslandSeries(NamedTuple):
    """What an island did, by forming unit and step, shape (U, T), and together, shape (T,); kW and kWh."""

    direct: Floats  # sun to the circuits
    given: Floats  # out of the battery, AC
    taken: Floats  # into the battery from AC
    stored: Floats  # into the battery, DC
    drawn: Floats  # out of the battery, DC
    used: Floats  # of the array, DC
    clipped: Floats
    energy: Floats
    unserved: Floats
    generator: Floats
    followed: Floats  # of what follows on AC
    tiers: Floats
    served: Floats
