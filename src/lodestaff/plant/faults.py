"""What can be wrong at a simulated site: each fault has a name, and the words people see."""

from dataclasses import dataclass

from lodestaff.quantities.errors import JobError


@dataclass(frozen=True)
class Fault:
    """One seeded error of installation or setting."""

    name: str
    words: str


FAULTS: tuple[Fault, ...] = (
    Fault("ct-reversed", "the CT on the tails sits the wrong way round"),
    Fault("module-missing", "the last string has one module fewer than drawn"),
    Fault("export-unit", "the unit takes the export limit in tens of watts"),
    Fault("bond-open", "the bond relay does not close in island mode"),
    Fault("clock-half-day", "the unit's clock is set twelve hours off"),
)


def fault_named(name: str) -> Fault:
    """The fault of a name. Raises JobError where there is none."""
    for fault in FAULTS:
        if fault.name == name:
            return fault
    raise JobError(f"no fault {name!r}", "--fault", f"choose from {', '.join(each.name for each in FAULTS)}")
