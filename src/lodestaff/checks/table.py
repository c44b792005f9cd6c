"""The table of checks: a reader finds the function for a code here."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from lodestaff.checks import (
    array,
    branches,
    commission,
    conductors,
    demand,
    drop,
    electrode,
    found,
    hands,
    isolating,
    limits,
    live,
    loads,
    permits,
    phases,
    protection,
    runs,
    site,
    storage,
    transfer,
    transformers,
    voltage,
    wire,
)
from lodestaff.checks.finding import Finding
from lodestaff.quantities.errors import JobError


@dataclass(frozen=True)
class Check:
    """One registered check: its code, what it asks, its station, the record it takes, what its limit rests on."""

    code: str
    question: str
    station: str
    record: type
    function: Callable[[Any], list[Finding]]
    limit_from: str
    packs: tuple[str, ...] = ("uk", "na", "anz")
    part: str = ""  # where several checks answer under one code

    @property
    def rule(self) -> str:
        """What names this check alone: its code, and its part of it."""
        return f"{self.code}: {self.part}" if self.part else self.code


CHECKS: tuple[Check, ...] = (
    Check("SITE-RATING", "Was the service rating read, and does it carry the circuits?", "site",
          site.Rating, site.site_rating, "reading on site"),
    Check("SITE-PERMIT", "Is the generation of each phase permitted, and what may run today?", "site",
          permits.PermitOnPhase, permits.site_permit, "pack, operator's permission", part="phase"),
    Check("SITE-PERMIT", "How do the other permits stand, and are limits kept that hold until a date?", "site",
          permits.Papers, permits.site_permit, "papers of the site", part="papers"),
    Check("SITE-VOLTAGE", "Is the voltage in its range, and is there headroom at full export?", "site",
          voltage.Volts, voltage.site_voltage, "pack"),
    Check("SITE-EARTH", "Is the earthing known, measured and large enough?", "site",
          site.Earth, site.site_earth, "pack", ("uk", "anz")),
    Check("SITE-SPACE", "Is there room at the distribution, and in what state is it?", "site",
          site.Space, site.site_space, "what was found", part="board"),
    Check("SITE-SPACE", "In what condition are found devices, and may old conductors stay?", "site",
          found.FoundThing, found.found_thing, "what was found, pack's tables", part="found"),
    Check("LOAD-CONT", "Can the unit carry all held circuits at once, in kW and kVA, on each phase?", "loads",
          loads.HeldLoad, loads.load_cont, "unit's sheet, derated", part="held"),
    Check("LOAD-SURGE", "Can it carry the worst start on top of the others, for as long as the start lasts?", "loads",
          loads.HeldLoad, loads.load_surge, "unit's sheet", part="start"),
    Check("LOAD-SURGE", "Can it carry all motors that start again together after the transfer?", "loads",
          hands.Restart, hands.load_restart, "unit's sheet", part="restart"),
    Check("LOAD-CONT", "Is what was measured what is reckoned with?", "loads",
          hands.Measured, hands.load_measured, "measurement", part="measured"),
    Check("LOAD-PHASE", "Are the legs and phases of every board within their source, and near each other?", "loads",
          phases.Legs, phases.load_phase, "unit's sheet, pack", part="legs"),
    Check("LOAD-PHASE", "Is every held circuit on legs that its source gives?", "loads",
          phases.Strange, phases.load_phase, "unit's sheet", part="source"),
    Check("LOAD-DEMAND", "Is the service demand, with what is added, within the service rating?", "loads",
          demand.ServiceDemand, demand.load_demand, "pack's method, interval data", part="service"),
    Check("LOAD-DEMAND", "How much of what the meter logged do the circuits explain?", "loads",
          demand.Explained, demand.load_demand, "interval data", part="meter"),
    Check("LOAD-ENERGY", "Does the battery above its reserve carry the held circuits through the worst month's night?",
          "loads", loads.HeldEnergy, loads.load_energy, "battery's sheet and reserve"),
    Check("LOAD-WHOLE", "Does the unit pass all that flows through it while the grid is there?", "loads",
          transfer.PassThrough, transfer.load_whole, "unit's sheet", part="pass"),
    Check("LOAD-WHOLE", "Has a whole building's source capacity for the full load, or is load management named?", "loads",
          hands.FullLoad, hands.load_full, "unit's sheet, pack", part="full"),
    Check("LOAD-LOCK", "Is a car charger or heater held without a stated wish?", "loads",
          loads.LockOut, loads.load_lock, "common practice", part="held"),
    Check("LOAD-LOCK", "What must a person switch off by hand in an outage?", "loads",
          hands.ByHand, hands.load_hand, "common practice", part="by hand"),
    Check("LOAD-CARE", "Does treatment or life hang on a circuit?", "loads",
          loads.Care, loads.load_care, "common practice"),
    Check("ARR-VOC", "Does every string stay under the maximum voltage at the record low?", "array",
          array.StringVolts, array.arr_voc, "unit's and module's sheets"),
    Check("ARR-VMP", "Does every string start and work in its tracker's window?", "array",
          array.StringVolts, array.arr_vmp, "unit's sheet"),
    Check("ARR-ISC", "Does every tracker take the short-circuit current of its strings?", "array",
          array.OnTracker, array.arr_isc, "unit's sheet, pack's factor"),
    Check("ARR-IMP", "Is operating current clipped?", "array", array.OnTracker, array.arr_imp, "unit's sheet"),
    Check("ARR-PAR", "Are parallel strings equal?", "array", array.OnTracker, array.arr_par, "common practice"),
    Check("ARR-FUSE", "Do parallel strings need fuses?", "array", array.OnTracker, array.arr_fuse, "module's sheet"),
    Check("ARR-RATIO", "Does the array suit its unit?", "array", array.Ratio, array.arr_ratio, "unit's sheet, pack"),
    Check("ARR-MICRO", "Does each module suit the unit behind it, and the units their branch?", "array",
          branches.Branch, branches.arr_micro, "sheets"),
    Check("ARR-RSD", "Is the shutdown's transmitter fed in every state in which the sun is wanted?", "array",
          isolating.ShutdownSupply, isolating.arr_rsd, "common practice", part="fed"),
    Check("ARR-RSD", "Is rapid shutdown planned where the pack demands it?", "array",
          isolating.NoShutdown, isolating.no_shutdown, "pack", ("na",), part="planned"),
    Check("ARR-ISLAND", "Can the island hold back what follows it on AC?", "array",
          isolating.IslandArray, isolating.arr_island, "sheets"),
    Check("STO-POWER", "Can the battery feed the held circuits and the inverter?", "storage",
          storage.BankPower, storage.sto_power, "sheets"),
    Check("STO-COUNT", "Is the number of modules one that the stack takes?", "storage",
          storage.BankPower, storage.sto_count, "battery's sheet"),
    Check("STO-GROW", "What does the next module need?", "storage", storage.BankPower, storage.sto_grow, "sheets"),
    Check("WIRE-AMP", "Does every run carry its device, and the device its current?", "wire",
          runs.Run, conductors.wire_amp, "pack's tables"),
    Check("STO-DC", "Does the battery's fuse bear its current at the lowest voltage?", "wire",
          runs.Run, conductors.sto_dc, "battery's sheet, pack"),
    Check("WIRE-DROP", "Is the drop or rise of every run within its limit?", "wire",
          runs.Run, drop.wire_drop, "pack"),
    Check("WIRE-FAULT", "Is every fault to earth disconnected, with the grid and on the island?", "wire",
          runs.Run, protection.wire_fault, "trip bands", ("uk", "anz")),
    Check("WIRE-RCD", "Is a residual-current device there where needed, and of the right kind?", "wire",
          runs.Run, protection.wire_rcd, "pack", ("uk", "anz")),
    Check("WIRE-EARTH", "Has the island an earth of its own?", "wire",
          electrode.Electrode, electrode.wire_earth, "pack"),
    Check("WIRE-BOND", "Has every live neutral network exactly one bond, ahead of residual-current devices?", "wire",
          wire.Bonds, wire.wire_bond, "pack"),
    Check("WIRE-XFER", "Is every device between sources rated for what passes it?", "wire",
          transfer.Transfer, transfer.wire_xfer, "device's rating", part="rating"),
    Check("WIRE-XFER", "Can hands close two sources together?", "wire",
          transfer.Joining, transfer.wire_xfer, "common practice", part="joining"),
    Check("WIRE-CT", "Does each current transformer see what it must, with the right sign?", "wire",
          transformers.Sight, transformers.wire_ct, "common practice", part="sight"),
    Check("WIRE-CT", "Does any transformer prove the limits of export and import?", "wire",
          transformers.Limited, transformers.wire_ct, "common practice", part="limits"),
    Check("WIRE-LIVE", "What is live and fed in each state, and is that as it was meant?", "wire",
          live.LiveState, live.wire_live, "the graph"),
    Check("WIRE-NEUTRAL", "Does every circuit's neutral go with its line?", "wire",
          live.Borrowed, live.wire_neutral, "common practice"),
    Check("WIRE-PLAN", "Has every part, adjustment and circuit its place?", "wire",
          live.Places, live.wire_plan, "the graph"),
    Check("WIRE-ISO", "Can every way into a unit be isolated at the unit and at the board?", "wire",
          isolating.Isolated, isolating.wire_iso, "common practice", part="ways"),
    Check("WIRE-ISO", "Is the array disconnected by few enough switches?", "wire",
          isolating.Disconnects, isolating.wire_iso, "pack", ("na",), part="array"),
    Check("LIM-EXPORT", "Is the export setting, with the meter's error, within the permission?", "limits",
          limits.Export, limits.lim_export, "operator's permission", part="site"),
    Check("LIM-EXPORT", "What does each phase export at full power, and what is curtailed for it?", "limits",
          limits.ExportByPhase, limits.lim_export_phases, "operator's permission", part="phases"),
    Check("LIM-IMPORT", "Do the import limit and the year's peak stay under the main fuse?", "limits",
          limits.Import, limits.lim_import, "service rating"),
    Check("LIM-RESERVE", "Does the reserve alone last as long as was promised, in every month?", "limits",
          limits.Reserve, limits.lim_reserve, "customer's wish"),
    Check("COM-EXPECT", "Is each reading what is expected for the measured conditions?", "commission",
          commission.StepProof, commission.com_expect, "design, standards of the tests"),
    Check("COM-READBACK", "Is each setting read back and equal?", "commission",
          commission.StepProof, commission.com_readback, "settings sheet"),
    Check("COM-BALANCE", "Do sources and sinks add up within the meters' error?", "commission",
          commission.StepProof, commission.com_balance, "common practice"),
    Check("COM-ORDER", "Was anything read ahead of what it waits for?", "commission",
          commission.StepProof, commission.com_order, "equipment's start order"),
    Check("COM-AGE", "Were instruments in their calibration, and is each reading somebody's?", "commission",
          commission.StepProof, commission.com_age, "calibration dates in the register"),
)  # fmt: skip


def checks_named(code: str) -> tuple[Check, ...]:
    """The checks of a code, one for each record that it takes. Raises JobError where there is none."""
    found = tuple(check for check in CHECKS if check.code == code)
    if not found:
        codes = dict.fromkeys(check.code for check in CHECKS)
        raise JobError(f"no check {code!r}", right=f"codes: {', '.join(codes)}")
    return found
