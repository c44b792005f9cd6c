"""Figures of the present switching state."""

from lodestaff.quantities import Figure, Input, Provenance, Source
from lodestaff.reckoning.readings import Reading
from lodestaff.topology import Answer


def wire_readings(answer: Answer, state: str) -> list[Reading]:
    """What is live, what is fed, and the bonds in the chosen state, by the name that it is shown under."""
    live, fed = len(answer.still_live()), sum(bool(kinds) for kinds in answer.fed.values())
    source = Source("graph of this job's decisions", Provenance.DERIVED)
    bonds = max((len(network.bonds) for network in answer.networks), default=0)
    wrong = [network for network in answer.networks if len(network.bonds) != 1 or network.behind_rcd]
    return [
        Reading(
            "Live conductors",
            Figure(
                f"Live conductors, {state}",
                live,
                unit="",
                formula="reached from a source through closed contacts",
                inputs=tuple(
                    Input(name, ", ".join(sorted(answer.live[name]))) for name in answer.still_live()
                ),
                source=source,
            ),
            f"of {len(answer.live)}",
            "notes" if live else "passed",
            live / max(1, len(answer.live)),
        ),
        Reading(
            "Circuits fed",
            Figure(
                f"Circuits fed, {state}",
                fed,
                unit="",
                formula="count",
                inputs=tuple(
                    Input(name, ", ".join(sorted(kinds)) or "dead") for name, kinds in answer.fed.items()
                ),
                source=source,
            ),
            f"of {len(answer.fed)}",
            "passed",
            fed / max(1, len(answer.fed)),
            better_up=True,
        ),
        Reading(
            "Bonds per neutral",
            Figure(
                f"Neutral-earth bonds, {state}",
                bonds,
                unit="bonds",
                formula="count per connected live neutral network",
                inputs=tuple(
                    Input("; ".join(n.bonds) or "none", f"live from {', '.join(sorted(n.sources))}")
                    for n in answer.networks
                ),
                source=source,
            ),
            beside="exactly 1",
            status="blocks" if wrong else "passed",
            share=bonds,
            limited=True,
        ),
    ]
