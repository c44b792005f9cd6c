"""Devices one after the other: what they must break, WIRE-ICC, and which of them opens first, WIRE-SEL."""

from dataclasses import dataclass

from lodestaff.catalogue import PackValue
from lodestaff.checks.check import check
from lodestaff.checks.finding import Findings, Verdict, cure, soft
from lodestaff.checks.makers import Words, at_least, noted, open_
from lodestaff.job import Fact
from lodestaff.quantities import Input, Provenance, Source, text_of
from lodestaff.quantities.convention import plain

BREAKS = Source("a device breaks the fault current where it stands", Provenance.COMMON_PRACTICE)
TABLES = Source(
    "the makers' tables of discrimination; ratings alone don't prove it", Provenance.COMMON_PRACTICE
)


@dataclass(frozen=True)
class Breaking:
    """Devices against what may flow: on AC behind the service, or the fuse of a battery (`bank`).

    `devices` are runs with their name and breaking capacity, kA, None where it wasn't read. `backed_a` is the
    service device that stands ahead of all; one up to the pack's value backs them up.
    """

    owner: str
    name: str
    fault: Fact[float]
    most: PackValue | None
    devices: tuple[tuple[str, str, float | None], ...]
    backed_a: float | None = None
    backs_up: PackValue | None = None
    bank: bool = False

    @property
    def subjects(self) -> tuple[str, ...]:
        return tuple(run for run, _, _ in self.devices)


@check("WIRE-ICC", station="wire", rests_on="fault level as measured or told, the devices")
def wire_icc(record: Breaking) -> Findings:
    """Do the devices break the fault current that may flow?"""
    taken = record.fault.value
    if taken is None and record.most is not None:
        taken = record.most.value
    read = [(name, ka) for _, name, ka in record.devices if ka is not None]
    unread = [name for _, name, ka in record.devices if ka is None]
    source = record.most.cite() if record.fault.value is None and record.most is not None else BREAKS
    said = text_of(taken, "kA") if taken is not None else "an unknown current"
    figure = Words(
        name=f"{record.name}: breaking capacity",
        formula="least breaking capacity >= fault current",
        source=source,
        inputs=(
            Input("fault current", taken if taken is not None else "unknown", "kA", record.fault.words()),
            *(Input(name, ka, "kA") for name, ka in read),
            *(Input(name, "not read", "kA") for name in unread),
        ),
    )
    because = soft(fault_current=record.fault)
    if unread or not read:
        because = (*because, "a device's breaking capacity was not read")
    if not read or taken is None:
        yield open_(
            text=f"{record.name}: {said} may flow; the breaking capacity of {len(unread)} "
            f"device{'s' if len(unread) > 1 else ''} was not read.",
            because=because,
            value=taken,
            unit="kA",
            **figure,
            advice="Read it off the devices, and ask the operator or measure.",
        )
        return
    least = min(read, key=lambda pair: pair[1])
    backs_up, ahead_a = record.backs_up, record.backed_a
    backed = backs_up is not None and ahead_a is not None and ahead_a <= backs_up.value
    yield at_least(
        value=least[1],
        limit=taken,
        unit="kA",
        worse=Verdict.WARNS if backed else Verdict.BLOCKS,
        text=f"{record.name}: {said} may flow; {least[0]} breaks {text_of(least[1], 'kA')}"
        + (f", {len(unread)} not read." if unread else "."),
        **figure,
        because=because,
        advice="A device of more, or an assembly whose conditional rating with the service fuse is read."
        if backed
        else "A device that breaks more.",
    )


@dataclass(frozen=True)
class Series:
    """Devices one after the other: pairs of run, device and the device ahead of it, A, and what the maker's
    table says."""

    pairs: tuple[tuple[str, str, float, float, Fact[str]], ...]

    @property
    def subjects(self) -> tuple[str, ...]:
        return tuple(pair[0] for pair in self.pairs)


@check("WIRE-SEL", station="wire", rests_on="makers' tables")
def wire_sel(record: Series) -> Findings:
    """Does the device nearest to a fault open alone?"""
    if not record.pairs:
        return
    bad = [pair for pair in record.pairs if pair[4].value == "no"]
    unread = [pair for pair in record.pairs if not pair[4].firm]
    figure = Words(
        name="Devices in series",
        formula="read from the makers' tables",
        source=TABLES,
        inputs=tuple(
            Input(name, f"{plain(own)} A behind {plain(ahead)} A", "", fact.words())
            for _, name, own, ahead, fact in record.pairs
        ),
    )
    if bad:
        names = ", ".join(f"{name} behind {plain(ahead)} A" for _, name, _, ahead, _ in bad)
        yield noted(
            verdict=Verdict.WARNS,
            text=f"Both may open: {names}.",
            value=float(len(bad)),
            unit="pairs",
            **figure,
            advice="Another pair of devices by the maker's table.",
        )
    elif unread:
        run, name, own, ahead, _ = unread[0]
        read = {"value": "yes", "known": "data sheet"}
        yield open_(
            text=f"{len(unread)} of {len(record.pairs)} devices stand behind another; no maker's table was "
            f"read: {name}, {plain(own)} A behind {plain(ahead)} A, first.",
            because=("no maker's table of discrimination was read",),
            value=float(len(unread)),
            unit="pairs",
            **figure,
            cures=cure(f"{name}: read as selective", f"cables/{run}/selective", read),
            advice="Read the makers' tables for each pair.",
        )
    else:
        yield noted(
            verdict=Verdict.PASSED,
            text=f"All {len(record.pairs)} devices in series open alone, by the makers' tables.",
            value=0.0,
            unit="pairs",
            **figure,
        )
