"""Current transformers: WIRE-CT."""

from dataclasses import dataclass

from lodestaff.checks.finding import Finding, Remedy, Verdict
from lodestaff.quantities import Figure, Input, Provenance, Source

SIGHT = Source("a transformer counts what passes its conductors, and nothing else", Provenance.COMMON_PRACTICE)


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
    state: str = "grid"


@dataclass(frozen=True)
class Limited:
    """Whether any transformer can prove the limits of export and import that are set."""

    export_kw: float
    import_kw: float
    provers: tuple[str, ...]
    unproven: tuple[str, ...] = ()  # units that obey none of them
    phases: tuple[str, ...] = ()  # of the supply that none of them counts
    state: str = "grid"


def wire_ct(record: Sight | Limited) -> list[Finding]:
    """Direction, what is hidden, what is seen and should not be, and whether a limit is proven at all."""
    if isinstance(record, Limited):
        return _limit(record)
    found = []
    figure = Figure(
        f"What {record.name} sees", len(record.seen), "flows", "flows that pass its conductors",
        tuple(Input(name, sign, "", "drawing is import" if sign > 0 else "drawing is export") for name, sign in record.seen),
        SIGHT, f"State: {record.state}. For {record.serves}; watches {record.watches}.",
    )  # fmt: skip

    def add(verdict: Verdict, text: str, advice: str, remedies: tuple[Remedy, ...] = ()) -> None:
        found.append(Finding("WIRE-CT", verdict, text, figure, None, None, SIGHT, (), remedies, advice, (record.id,),
                             record.state))  # fmt: skip

    if not record.seen:
        add(Verdict.BLOCKS, f"{record.name} sees nothing: no load and no source passes its conductors.", "Move it.")
        return found
    if any(sign < 0 for _, sign in record.seen):
        add(Verdict.BLOCKS, f"{record.name} is turned: it counts import as export.",
            "Turn it, or swap its two wires where the maker allows that.", record.turn)  # fmt: skip
    if record.proves_limit and record.hidden_units:
        add(Verdict.BLOCKS, f"{record.name} doesn't see {_list(record.hidden_units)}: an export limit isn't proven by it.",
            "Put it where everything passes, at the supply.", record.to_supply)  # fmt: skip
    if record.proves_limit and record.hidden_circuits:
        add(Verdict.BLOCKS, f"{record.name} doesn't see {_list(record.hidden_circuits)}: chosen circuits prove no limit of "
            "import or export.", "Put it at the supply, or give the limit a transformer of its own.", record.to_supply)  # fmt: skip
    if record.rivals:
        add(Verdict.BLOCKS, f"{record.name} of {record.serves} sees {_list(record.rivals)}: each battery would chase the "
            "other's power.", "Put it on the conductors of its own side, or let one master lead both.")  # fmt: skip
    if record.chased:
        add(Verdict.WARNS, f"{record.name} sees {_list(record.chased)}: the battery of {record.serves} takes that sun for "
            "surplus and charges from it, with two conversions.",
            "If that isn't wanted: a transformer for each source, or one on chosen circuits, which proves no limit.")  # fmt: skip
    if not found:
        words = "everything" if record.watches == "whole site" else f"{len(record.seen)} flows"
        add(Verdict.PASSED, f"{record.name} sees {words}, with the right sign.", "")
    return found


def _limit(record: Limited) -> list[Finding]:
    figure = Figure(
        "Transformers that prove the limits", len(record.provers), "", "those at which every flow of the site passes",
        (Input("export limit", record.export_kw, "kW"), Input("import limit", record.import_kw, "kW")), SIGHT,
    )  # fmt: skip
    if record.provers and (record.unproven or record.phases):
        why = (
            [f"{_list(record.unproven)} obey{'s' if len(record.unproven) == 1 else ''} none"] if record.unproven else []
        )
        why += (
            [f"{_list(record.phases)} {'is' if len(record.phases) == 1 else 'are'} counted by none"]
            if record.phases
            else []
        )
        text = f"The limits are proven by {_list(record.provers)} for the units that obey it only: {'; '.join(why)}."
        return [Finding("WIRE-CT", Verdict.WARNS, text, figure, None, None, SIGHT, (), (),
                        "Note which units follow it by their maker's statement, or give them a transformer of their own.",
                        (), record.state)]  # fmt: skip
    if record.provers:
        text = f"The limits of export and import are proven by {_list(record.provers)}."
        return [Finding("WIRE-CT", Verdict.PASSED, text, figure, 1, len(record.provers) - 1, SIGHT, state=record.state)]
    text = "No transformer sees the whole supply: neither the export nor the import limit can be proven."
    return [Finding("WIRE-CT", Verdict.WARNS, text, figure, 1, -1, SIGHT, (), (),
                    "Put one at the supply, beside those that the units follow.", (), record.state)]  # fmt: skip


def _list(names: tuple[str, ...]) -> str:
    return ", ".join(names[:4]) + (f" and {len(names) - 4} more" if len(names) > 4 else "")
