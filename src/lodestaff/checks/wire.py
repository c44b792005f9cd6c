"""Bonds: WIRE-BOND."""

from dataclasses import dataclass

from lodestaff.catalogue import PackValue
from lodestaff.checks.finding import Finding, Remedy, Verdict
from lodestaff.job import Change
from lodestaff.quantities import Figure, Input
from lodestaff.topology import Network


@dataclass(frozen=True)
class Bonds:
    """The live neutral networks of each switching state."""

    states: tuple[tuple[str, tuple[Network, ...]], ...]
    per_network: PackValue
    bond_word: str
    rcd_word: str
    unit_has_relay: bool
    soft_facts: tuple[str, ...]


def wire_bond(record: Bonds) -> list[Finding]:
    """Exactly one neutral-earth bond per live neutral network in each state, before residual-current devices."""
    wanted = round(record.per_network.value)
    findings: list[Finding] = []
    for state, networks in record.states:
        for network in networks:
            count = len(network.bonds)
            where = " and ".join(sorted(network.sources))
            figure = Figure(
                f"{record.bond_word.capitalize()}s in the network live from {where}",
                count,
                "bonds",
                "count, the supply's own included",
                tuple(Input(name, 1, "bonds") for name in network.bonds),
                record.per_network.cite(),
                f"State: {state}.",
            )
            text, advice = _words(record, state, network, wanted)
            right = count == wanted and not network.behind_rcd
            findings.append(
                Finding(
                    "WIRE-BOND",
                    Verdict.PASSED if right else Verdict.BLOCKS,
                    text,
                    figure,
                    wanted,
                    -abs(count - wanted),
                    record.per_network.cite(),
                    record.soft_facts,
                    () if right else _cure(record),
                    advice,
                    state=state,
                )
            )
    return findings


def _words(record: Bonds, state: str, network: Network, wanted: int) -> tuple[str, str]:
    word = record.bond_word
    if network.behind_rcd:
        return (
            f"{state}: the {network.behind_rcd[0]} stands behind an {record.rcd_word}: it trips it, or leaves faults uncleared.",
            f"Make the {word} on the source side of every {record.rcd_word}.",
        )
    if len(network.bonds) > wanted:
        return (
            f"{state}: {len(network.bonds)} bonds ({'; '.join(network.bonds)}); {record.rcd_word}s trip.",
            "Take one out.",
        )
    if len(network.bonds) < wanted:
        return (f"{state}: no {word}: an earth fault isn't cleared.", "Make one at the source while it feeds alone.")
    return f"{state}: one bond, the {network.bonds[0]}.", ""


def _cure(record: Bonds) -> tuple[Remedy, ...]:
    if not record.unit_has_relay:
        return ()
    return (Remedy("Bond by the unit's relay, in island mode only", (Change("wiring/bond_place", "unit relay"),)),)
