"""Bonds: WIRE-BOND."""

from dataclasses import dataclass
from typing import Literal

from lodestaff.catalogue import PackValue
from lodestaff.checks.check import check
from lodestaff.checks.finding import Findings, Remedy, Verdict, cure
from lodestaff.checks.makers import noted
from lodestaff.job import Fact
from lodestaff.quantities import Input
from lodestaff.topology import Network


@dataclass(frozen=True)
class GeneratorNeutral:
    """Whether the design counts a bond in a generator, and whether its neutral was read to be earthed."""

    id: str
    name: str
    bonded: bool
    earthed: Fact[Literal["yes", "no"]]

    @property
    def otherwise(self) -> bool:
        """Whether it was read otherwise than the design has it."""
        return self.earthed.firm and (self.earthed.value == "yes") != self.bonded


@dataclass(frozen=True)
class Bonds:
    """The live neutral networks of each switching state."""

    states: tuple[tuple[str, tuple[Network, ...]], ...]
    per_network: PackValue
    bond_word: str
    rcd_word: str
    unit_has_relay: bool
    soft_facts: tuple[str, ...]
    generators: tuple[GeneratorNeutral, ...] = ()


@check("WIRE-BOND", station="wire", rests_on="pack")
def wire_bond(record: Bonds) -> Findings:
    """Has every live neutral network exactly one bond, ahead of residual-current devices?"""
    wanted, rule = round(record.per_network.value), record.per_network.cite()
    for state, network in ((state, network) for state, networks in record.states for network in networks):
        count, where = len(network.bonds), " and ".join(sorted(network.sources))
        text, advice = _words(record, network, wanted)
        feeding = record.generators if "generator" in network.sources else ()
        otherwise = [neutral for neutral in feeding if neutral.otherwise]
        right = count == wanted and not network.behind_rcd and not otherwise
        if otherwise:
            text, advice = _read_otherwise(record, otherwise[0]), "Read it on its plate or by a dead test."
        yield noted(
            verdict=Verdict.PASSED if right else Verdict.BLOCKS,
            text=f"{state}: {text}",
            value=count,
            unit="bonds",
            limit=wanted,
            margin=-abs(count - wanted),
            name=f"{record.bond_word.capitalize()}s in the network live from {where}",
            formula="count, the supply's own included",
            inputs=tuple(Input(name, 1, "bonds") for name in network.bonds),
            source=rule,
            note=f"State: {state}.",
            because=(*record.soft_facts, *_unread(feeding)),
            cures=_as_read(otherwise) or _cure(record),
            advice=advice,
            state=state,
            quantity=f"{where} of {' and '.join(network.units)}",
        )


def _words(record: Bonds, network: Network, wanted: int) -> tuple[str, str]:
    """What a network's bonds are, and what to do."""
    word, device, bonds = record.bond_word, record.rcd_word, network.bonds
    if network.behind_rcd:
        return (
            f"the {network.behind_rcd[0]} stands behind an {device}: it trips it, or leaves faults "
            "uncleared.",
            f"Make the {word} on the source side of every {device}.",
        )
    if len(bonds) > wanted:
        return f"{len(bonds)} bonds ({'; '.join(bonds)}); {device}s trip.", "Take one out."
    if len(bonds) < wanted:
        return f"no {word}: an earth fault isn't cleared.", "Make one at the source while it feeds alone."
    return f"one bond, the {bonds[0]}.", ""


def _unread(generators: tuple[GeneratorNeutral, ...]) -> tuple[str, ...]:
    """What isn't known of the generators that feed."""
    return tuple(
        f"whether the neutral of {neutral.name} is earthed in it is "
        f"{'unknown' if neutral.earthed.value is None else neutral.earthed.known}"
        for neutral in generators
        if not neutral.earthed.firm
    )


def _read_otherwise(record: Bonds, neutral: GeneratorNeutral) -> str:
    there = "earthed in it" if neutral.earthed.value == "yes" else "not earthed in it"
    counts = "a" if neutral.bonded else "no"
    read = f"the neutral of {neutral.name} is read to be {there}"
    return f"{read}; the design counts {counts} {record.bond_word} there."


def _as_read(generators: list[GeneratorNeutral]) -> tuple[Remedy, ...]:
    return tuple(
        remedy
        for neutral in generators
        for remedy in cure(
            f"Count the bond of {neutral.name} as it was read",
            f"parts/{neutral.id}/bonded",
            neutral.earthed.value == "yes",
        )
    )


def _cure(record: Bonds) -> tuple[Remedy, ...]:
    if not record.unit_has_relay:
        return ()
    return cure("Bond by the unit's relay, in island mode only", "wiring/bond_place", "unit relay")
