"""Shade on the faces: ARR-SHADE. What it takes of each module's year, and what could be done about it."""

from dataclasses import dataclass

from lodestaff.catalogue import PackValue
from lodestaff.checks.check import check
from lodestaff.checks.finding import Findings, Remedy, Verdict
from lodestaff.checks.makers import at_most, noted, open_
from lodestaff.job import Change
from lodestaff.quantities import Input, Provenance, Source, text_of
from lodestaff.quantities.convention import plain

SHADE = Source(
    "rays from each module's cells to the sun, and bypass diodes; derived from geometry", Provenance.DERIVED
)


@dataclass(frozen=True)
class ShadedModule:
    """A module's year alone, in shade and without it, and the hours in which its sun is hidden."""

    id: str
    path: str
    kwh: float
    open_kwh: float
    hours: float
    string: str
    own: bool  # it has a converter of its own

    @property
    def lost_share(self) -> float:
        return 1 - self.kwh / self.open_kwh if self.open_kwh > 0 else 0.0


@dataclass(frozen=True)
class Turned:
    """A module lying the other way: where, None if there is no room for it; what it would then make more by
    itself, kWh a year."""

    path: str
    at: tuple[float, float] | None
    more_kwh: float
    turned: bool = True


@dataclass(frozen=True)
class Answers:
    """What a string's year would gain, kWh, by optimisers on those of its shaded modules that are worth it,
    or by leaving them out."""

    string: str
    name: str
    modules: tuple[str, ...]  # their paths
    optimised_kwh: float
    left_out_kwh: float | None  # None where nothing would be left
    turned: tuple[Turned, ...] = ()


@dataclass(frozen=True)
class FaceShade:
    """A face and what stands before its sun; `told` is False where nobody said that anything does."""

    id: str
    name: str
    modules: tuple[ShadedModule, ...]
    note_share: PackValue
    missing: tuple[str, ...]
    told: bool
    answers: tuple[Answers, ...] = ()


@check("ARR-SHADE", station="array", rests_on="obstacles, surroundings and horizon as told; pack")
def arr_shade(record: FaceShade) -> Findings:
    """What does shade take, and from which modules?"""
    if not record.told:
        yield noted(
            text=f"{record.name}: nothing that throws shade was told; the year has none.",
            advice="Look from the ground and from the roof: chimneys, higher roofs, trees, the horizon.",
            value=0.0,
            unit="%",
            name=f"{record.name}, most that a module loses to shade",
            formula="nothing was told",
            source=SHADE,
        )
        return
    whole, given = sum(m.open_kwh for m in record.modules), sum(m.kwh for m in record.modules)
    lost, limit = max(0.0, whole - given), record.note_share.value
    worst = max(record.modules, key=lambda module: module.lost_share)
    bad = [module for module in record.modules if module.lost_share > limit]
    bare = [module for module in bad if not module.own]
    share = 100 * lost / whole if whole > 0 else 0.0
    text = f"{record.name}: shade takes {plain(share, 1)} % of what its modules would make alone in a year"
    if worst.lost_share > 0.001:
        text += (
            f"; most from {worst.id}: {plain(100 * worst.lost_share, 0)} % in {plain(worst.hours, 0)} hours"
        )
    text += "."
    for answer in record.answers:
        text += f" String {answer.name}: {_answer(answer)}."
    inputs = (
        Input("modules alone, unshaded", whole, "kWh"),
        Input("lost to shade", lost, "kWh"),
        *(
            Input(
                f"{module.id} loses", 100 * module.lost_share, "%", f"{plain(module.hours, 0)} hours shaded"
            )
            for module in bad
        ),
    )
    name, formula = f"{record.name}, most that a module loses to shade", "1 − year in shade / year without"
    if record.missing:
        yield open_(
            text=f"{record.name}: its shade isn't whole; {'; '.join(record.missing)} is unknown.",
            value=100 * worst.lost_share,
            unit="%",
            limit=100 * limit,
            because=tuple(f"{each} is unknown" for each in record.missing),
            name=name,
            formula=formula,
            inputs=inputs,
            source=SHADE,
        )
        return
    yield at_most(
        value=100 * worst.lost_share,
        limit=100 * limit,
        unit="%",
        worse=Verdict.WARNS if bare else Verdict.NOTES,
        text=text,
        name=name,
        formula=formula,
        inputs=inputs,
        source=SHADE,
        rests_on=record.note_share.cite(),
        note="The sky's own light is lessened too. Snow and dirt are not in it.",
        advice="Converters on just those modules, or no modules there." if bare else "",
        cures=tuple(remedy for answer in record.answers for remedy in _remedies(answer)),
    )


def _answer(answer: Answers) -> str:
    some = _these(answer.modules)
    words = f"an optimiser on {some}" if len(answer.modules) == 1 else f"optimisers on {some}"
    words += (
        f" would bring {_kwh(answer.optimised_kwh)}"
        if answer.optimised_kwh >= 0.5
        else " would bring nothing"
    )
    better = [f"{_these((turn.path,))} {_kwh(turn.more_kwh)}" for turn in answer.turned if turn.more_kwh >= 1]
    if better:
        words += f", turned the other way {', '.join(better)} more by itself"
    stuck = tuple(turn.path for turn in answer.turned if turn.at is None)
    if stuck:
        words += f", to turn {_these(stuck)} there is no room"
    if answer.left_out_kwh is None:
        return words
    sense, them = (
        "bring" if answer.left_out_kwh >= 0 else "cost",
        "it" if len(answer.modules) == 1 else "them",
    )
    return f"{words}, leaving {them} out would {sense} {_kwh(abs(answer.left_out_kwh))}"


def _kwh(kwh: float) -> str:
    return f"{text_of(kwh, 'kWh', decimals=0)} a year"


def _these(paths: tuple[str, ...]) -> str:
    """Modules by their ids; where there are many, how many."""
    ids = [path.rsplit("/", 1)[-1] for path in paths]
    return ", ".join(ids) if len(ids) <= 4 else f"{len(ids)} modules"


def _remedies(answer: Answers) -> tuple[Remedy, ...]:
    some, remedies = _these(answer.modules), []
    if answer.optimised_kwh >= 1:
        changes = tuple(Change(f"{path}/optimiser", True) for path in answer.modules)
        remedies.append(
            Remedy(
                f"Fit optimisers to {some} of string {answer.name}: {_kwh(answer.optimised_kwh)} more",
                changes,
            )
        )
    for turn in answer.turned:
        if turn.at is not None and turn.more_kwh >= 1:
            places = (("x_m", turn.at[0]), ("y_m", turn.at[1]), ("turned", turn.turned))
            changes = tuple(Change(f"{turn.path}/{name}", value) for name, value in places)
            words = f"Turn {_these((turn.path,))}: {_kwh(turn.more_kwh)} more by itself"
            remedies.append(Remedy(words, changes))
    if answer.left_out_kwh is not None and answer.left_out_kwh >= 1:
        changes = tuple(Change(f"{path}/string", "") for path in answer.modules)
        remedies.append(
            Remedy(f"Take {some} off string {answer.name}: {_kwh(answer.left_out_kwh)} more", changes)
        )
    return tuple(remedies)
