"""The table of checks: a reader finds the function for a code here."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from lodestaff.checks import limits, loads, wire
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


CHECKS: tuple[Check, ...] = (
    Check("LOAD-CONT", "Can the unit carry all held circuits at once, in kW and kVA, on each phase?", "loads",
          loads.HeldLoad, loads.load_cont, "unit's sheet, derated"),
    Check("LOAD-SURGE", "Can it carry the worst start on top of the others, for as long as the start lasts?", "loads",
          loads.HeldLoad, loads.load_surge, "unit's sheet"),
    Check("LOAD-ENERGY", "Does the battery above its reserve carry the held circuits through the worst month's night?",
          "loads", loads.HeldEnergy, loads.load_energy, "battery's sheet and reserve"),
    Check("LOAD-LOCK", "Is a car charger or heater held without a stated wish?", "loads",
          loads.LockOut, loads.load_lock, "common practice"),
    Check("LOAD-CARE", "Does treatment or life hang on a circuit?", "loads",
          loads.Care, loads.load_care, "common practice"),
    Check("WIRE-BOND", "Has every live neutral network exactly one bond, ahead of residual-current devices?", "wire",
          wire.Bonds, wire.wire_bond, "pack"),
    Check("LIM-EXPORT", "Is the export setting, with the meter's error, within the permission?", "limits",
          limits.Export, limits.lim_export, "operator's permission"),
    Check("LIM-IMPORT", "Do the import limit and the year's peak stay under the main fuse?", "limits",
          limits.Import, limits.lim_import, "service rating"),
    Check("LIM-RESERVE", "Does the reserve alone last as long as was promised, in every month?", "limits",
          limits.Reserve, limits.lim_reserve, "customer's wish"),
)  # fmt: skip


def check_named(code: str) -> Check:
    """The check with a code. Raises JobError where there is none."""
    for check in CHECKS:
        if check.code == code:
            return check
    raise JobError(f"no check {code!r}", right=f"codes: {', '.join(check.code for check in CHECKS)}")
