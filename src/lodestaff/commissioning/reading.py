"""A reading with what was measured beside it, and what it says of its step: passed, doubtful, failed or
open."""

import math
from collections.abc import Mapping
from dataclasses import asdict, dataclass
from datetime import date
from enum import StrEnum
from typing import Literal

from lodestaff.commissioning.expect import Conditions
from lodestaff.commissioning.rules import ASKED_WORDS, Confirmed, Expected, SettingIs
from lodestaff.commissioning.step import Step

NOT_MEASURED = Conditions()


class Status(StrEnum):
    """What is known of a step."""

    PASSED = "passed"
    DOUBTFUL = "doubtful"
    FAILED = "failed"
    OPEN = "open"


@dataclass(frozen=True)
class Reading:
    """One reading of a step: numbers in the rule's unit, or yes or no; or that it was put off, and what it
    needs.

    `state` is "" or why a reading over the link gave no value. `calibrated_until` is the instrument's, as an
    ISO date, copied from the register when the reading was taken.
    """

    step: str
    numbers: tuple[float, ...] = ()
    confirmed: bool | None = None
    conditions: Conditions = NOT_MEASURED
    way: Literal["typed", "link"] = "typed"
    by: str = ""
    instrument: str = ""
    calibrated_until: str = ""
    at: str = ""
    put_off: str = ""
    state: str = ""
    simulated: bool = False  # taken at the simulated site: a rehearsal, no proof of the real one

    def __post_init__(self) -> None:
        measured = [number for number in asdict(self.conditions).values() if number is not None]
        if not all(math.isfinite(number) for number in (*self.numbers, *measured)):
            raise ValueError("a reading is a finite number")
        for text in (self.at, self.calibrated_until):
            if text:
                date.fromisoformat(text[:10])

    @property
    def empty(self) -> bool:
        return not self.numbers and self.confirmed is None


@dataclass(frozen=True)
class Judgement:
    """What a reading says of its step, in words, with what was expected."""

    status: Status
    words: str
    expected: Expected | None = None
    deviation_pct: float | None = None
    unproven_by: bool = False  # doubtful for who took it, or with what


def judge(step: Step, reading: Reading | None, passed: Mapping[str, bool]) -> Judgement:
    """Judge a step. `passed` tells of the steps before whether they may be built upon.

    A step whose prerequisite is open or failed can't pass, whatever its reading says (common practice).
    """
    if reading is not None and reading.put_off:
        return Judgement(Status.OPEN, f"put off: needs {reading.put_off}")
    waiting = [name for name in step.waits_for if not passed.get(name, False)]
    if reading is None or reading.empty:
        if reading is not None and reading.state:
            return Judgement(Status.OPEN, f"no reading: {reading.state}")
        return Judgement(Status.OPEN, _first_need(step, waiting))
    found = _verdict(step, reading)
    if found.status in (Status.PASSED, Status.DOUBTFUL):
        if step.needs:
            return Judgement(Status.OPEN, f"needs: {step.needs}", found.expected, found.deviation_pct)
        if waiting:
            words = f"{_waits(waiting)}; the reading itself is {found.status}"
            return Judgement(Status.OPEN, words, found.expected, found.deviation_pct)
    return found


def _waits(steps: list[str]) -> str:
    names = ", ".join(step.replace("-", " ") for step in steps[:3])
    return f"waits for {names}{' and others' if len(steps) > 3 else ''}"


def _first_need(step: Step, waiting: list[str]) -> str:
    if step.needs:
        return f"needs: {step.needs}"
    if waiting:
        return _waits(waiting)
    return "to be done"


def _verdict(step: Step, reading: Reading) -> Judgement:
    missing = [name for name in step.rule.asks if getattr(reading.conditions, name) is None]
    if missing:
        words = " and ".join(ASKED_WORDS[name] for name in missing)
        return Judgement(Status.OPEN, f"needs {words}, measured")
    if isinstance(step.rule, Confirmed) or not reading.numbers:
        if reading.confirmed:
            return _known_by(reading, Judgement(Status.PASSED, "confirmed"), False)
        return Judgement(Status.FAILED, "found wrong")
    expected = step.rule.expected(reading.conditions)
    if expected is None:
        return Judgement(Status.OPEN, "nothing to hold the reading against")
    value = reading.numbers[0]
    deviation = 100 * (value / expected.value - 1) if expected.value else None
    if isinstance(step.rule, SettingIs):
        held = len(reading.numbers) == len(step.rule.wanted) and all(
            abs(a - b) <= step.rule.near for a, b in zip(reading.numbers, step.rule.wanted, strict=True)
        )
    else:
        held = (expected.low is None or value >= expected.low) and (
            expected.high is None or value <= expected.high
        )
    if not held:
        return Judgement(Status.FAILED, "outside its bounds", expected, deviation)
    weak = step.rule.weak(value, reading.conditions)
    if weak:
        return Judgement(Status.DOUBTFUL, weak, expected, deviation)
    by_instrument = reading.way == "typed" and not isinstance(step.rule, SettingIs)
    return _known_by(
        reading, Judgement(Status.PASSED, "within its bounds", expected, deviation), by_instrument
    )


def _known_by(reading: Reading, passed: Judgement, by_instrument: bool) -> Judgement:
    """A pass stands only with who took it, and by what instrument in its calibration."""
    why = ""
    if not reading.by:
        why = "nobody named who took it"
    elif by_instrument:
        if not reading.instrument:
            why = "no instrument named"
        elif not reading.calibrated_until:
            why = f"calibration of {reading.instrument} unknown"
        elif reading.at and date.fromisoformat(reading.at[:10]) > date.fromisoformat(
            reading.calibrated_until
        ):
            why = f"{reading.instrument} was out of calibration since {reading.calibrated_until}"
    if why:
        return Judgement(Status.DOUBTFUL, why, passed.expected, passed.deviation_pct, unproven_by=True)
    return passed
