"""Current transformers: WIRE-CT."""

from collections.abc import Iterator
from dataclasses import dataclass

from lodestaff.checks.check import check
from lodestaff.checks.finding import Findings, Remedy, Verdict
from lodestaff.checks.makers import Words, at_least, noted
from lodestaff.quantities import Input, Provenance, Source

SIGHT = Source(
    "a transformer counts what passes its conductors, and nothing else", Provenance.COMMON_PRACTICE
)
GRID = "grid"


@dataclass(frozen=True)
class Sight:
    """What one transformer sees with the grid, against what is there. Names are those that people read."""

    id: str
    name: str
    serves: str
    watches: str
    proves_limit: bool
    seen: tuple[tuple[str, int], ...]  # name and sign: +1 drawing counts as import
    hidden_units: tuple[str, ...]
    hidden_circuits: tuple[str, ...]
    rivals: tuple[str, ...]  # units with a transformer of their own that this one sees
    chased: tuple[str, ...]  # generation that a DC-coupled unit would follow
    turn: tuple[Remedy, ...]
    to_supply: tuple[Remedy, ...]


@check("WIRE-CT", "sight", station="wire", rests_on="common practice")
def wire_ct(record: Sight) -> Findings:
    """Does each current transformer see what it must, with the right sign?"""
    words = "everything" if record.watches == "whole site" else f"{len(record.seen)} flows"
    fine = Said("", f"sees {words}, with the right sign.", "", (), Verdict.PASSED)
    for said in list(_wrong(record)) or [fine]:
        yield noted(
            verdict=said.verdict,
            text=f"{record.name} {said.words}",
            value=len(record.seen),
            unit="flows",
            name=f"What {record.name} sees",
            formula="flows that pass its conductors",
            inputs=tuple(
                Input(name, sign, "", f"drawing is {'import' if sign > 0 else 'export'}")
                for name, sign in record.seen
            ),
            source=SIGHT,
            note=f"State: {GRID}. For {record.serves}; watches {record.watches}.",
            cures=said.cures,
            advice=said.advice,
            state=GRID,
            quantity=said.quantity,
        )


@dataclass(frozen=True)
class Said:
    """One thing about what a transformer sees."""

    quantity: str
    words: str
    advice: str
    cures: tuple[Remedy, ...] = ()
    verdict: Verdict = Verdict.BLOCKS


def _wrong(record: Sight) -> Iterator[Said]:
    """What is wrong with what a transformer sees."""
    if not record.seen:
        yield Said("nothing", "sees nothing: no load and no source passes its conductors.", "Move it.")
        return
    if any(sign < 0 for _, sign in record.seen):
        yield Said(
            "turned",
            "is turned: it counts import as export.",
            "Turn it, or swap its two wires where the maker allows that.",
            record.turn,
        )
    if record.proves_limit and record.hidden_units:
        yield Said(
            "units",
            f"doesn't see {_list(record.hidden_units)}: an export limit isn't proven by it.",
            "Put it where everything passes, at the supply.",
            record.to_supply,
        )
    if record.proves_limit and record.hidden_circuits:
        yield Said(
            "circuits",
            f"doesn't see {_list(record.hidden_circuits)}: chosen circuits prove no limit of "
            "import or export.",
            "Put it at the supply, or give the limit a transformer of its own.",
            record.to_supply,
        )
    if record.rivals:
        yield Said(
            "rivals",
            f"of {record.serves} sees {_list(record.rivals)}: each battery would chase the other's power.",
            "Put it on the conductors of its own side, or let one master lead both.",
        )
    if record.chased:
        yield Said(
            "chased",
            f"sees {_list(record.chased)}: the battery of {record.serves} takes that sun for surplus "
            "and charges from it, with two conversions.",
            "If that isn't wanted: a transformer for each "
            "source, or one on chosen circuits, which proves no limit.",
            verdict=Verdict.WARNS,
        )


@dataclass(frozen=True)
class Limited:
    """Whether any transformer can prove the limits of export and import that are set."""

    export_kw: float
    import_kw: float
    provers: tuple[str, ...]
    unproven: tuple[str, ...] = ()  # units that obey none of them
    phases: tuple[str, ...] = ()  # of the supply that none of them counts


@check("WIRE-CT", "limits", station="wire", rests_on="common practice")
def wire_ct_limits(record: Limited) -> Findings:
    """Does any transformer prove the limits of export and import?"""
    units, phases, provers = record.unproven, record.phases, record.provers
    figure = Words(
        name="Transformers that prove the limits",
        formula="those at which every flow of the site passes",
        inputs=(Input("export limit", record.export_kw, "kW"), Input("import limit", record.import_kw, "kW")),
        source=SIGHT,
    )
    if provers and (units or phases):
        why = [f"{_list(units)} obey{'s' if len(units) == 1 else ''} none"] if units else []
        why += [f"{_list(phases)} {'is' if len(phases) == 1 else 'are'} counted by none"] if phases else []
        yield noted(
            verdict=Verdict.WARNS,
            value=len(provers),
            **figure,
            state=GRID,
            text=f"The limits are proven by {_list(provers)} for the units that obey it only: "
            f"{'; '.join(why)}.",
            advice="Note which units follow it by their maker's statement, or give them a transformer of "
            "their own.",
        )
        return
    text = "No transformer sees the whole supply: neither the export nor the import limit can be proven."
    if provers:
        text = f"The limits of export and import are proven by {_list(provers)}."
    yield at_least(
        value=len(provers),
        limit=1,
        worse=Verdict.WARNS,
        text=text,
        **figure,
        state=GRID,
        advice="Put one at the supply, beside those that the units follow.",
    )


def _list(names: tuple[str, ...]) -> str:
    return ", ".join(names[:4]) + (f" and {len(names) - 4} more" if len(names) > 4 else "")
