"""What must be read anew when the design has changed: modules added later, a string moved, another unit."""

from dataclasses import dataclass

from lodestaff.commissioning.step import Step


@dataclass(frozen=True)
class Anew:
    """A step of the changed design that no earlier reading answers, and why."""

    step: str
    text: str
    why: str  # it is new; what is expected, or where it is taken, is another


def read_anew(before: tuple[Step, ...], after: tuple[Step, ...]) -> tuple[Anew, ...]:
    """The steps to take again, in the order of the day.

    A step stands where its words, what it is held to and where it is measured are those of before. What
    proves the same parts as a step that is taken again is taken again with it.
    """
    known = {step.id: (step.text, step.rule, step.measure) for step in before}
    why: dict[str, str] = {}
    for step in after:
        if step.id not in known:
            why[step.id] = "new"
        elif known[step.id] != (step.text, step.rule, step.measure):
            why[step.id] = "changed"
    touched = {part for step in after if step.id in why for part in step.proves}
    for step in after:
        if step.id not in why and touched & set(step.proves) and step.stage in ("dead tests", "strings"):
            why[step.id] = "its parts were opened"
    return tuple(Anew(step.id, step.text, why[step.id]) for step in after if step.id in why)
