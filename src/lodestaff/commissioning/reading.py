"""A reading with what was measured beside it, and what it says of its step: passed, doubtful, failed or
open."""

import math
from collections.abc import Mapping
from dataclasses import asdict, dataclass
from datetime import date
from enum import StrEnum
from typing import Literal

from lodestaff.commissioning.causes import cause
from lodestaff.commissioning.expect import Conditions, Expected
from lodestaff.commissioning.rules import (
    ASKED_WORDS,
    BESIDE_PCT,
    Confirmed,
    Named,
    SettingIs,
    StringAmps,
    StringVolts,
    Telling,
    Unmeasured,
)
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
    said: str = ""  # what stands on a type plate
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
        return not self.numbers and self.confirmed is None and not self.said


@dataclass(frozen=True)
class Judgement:
    """What a reading says of its step, in words, with what was expected."""

    status: Status
    words: str
    expected: Expected | None = None
    deviation_pct: float | None = None
    unproven_by: bool = False  # doubtful for who took it, or with what


def judge(
    step: Step,
    reading: Reading | None,
    passed: Mapping[str, bool],
    readings: Mapping[str, Reading] | None = None,
) -> Judgement:
    """Judge a step. `passed` tells of the steps before whether they may be built upon, `readings` holds the
    day's, by step, for what is held against its neighbours.

    A step whose prerequisite is open or failed can't pass, whatever its reading says (common practice).
    """
    if reading is not None and reading.put_off:
        return Judgement(Status.OPEN, f"put off: needs {reading.put_off}")
    waiting = [name for name in step.waits_for if not passed.get(name, False)]
    if reading is None or reading.empty:
        if reading is not None and reading.state:
            return Judgement(Status.OPEN, f"no reading: {reading.state}")
        return Judgement(Status.OPEN, _first_need(step, waiting))
    judgement = _verdict(step, reading, readings or {})
    if judgement.status in (Status.PASSED, Status.DOUBTFUL):
        if step.needs:
            return Judgement(Status.OPEN, f"needs: {step.needs}", judgement.expected, judgement.deviation_pct)
        if waiting:
            words = f"{_waits(waiting)}; the reading itself is {judgement.status}"
            return Judgement(Status.OPEN, words, judgement.expected, judgement.deviation_pct)
    return judgement


def _waits(steps: list[str]) -> str:
    names = ", ".join(step.replace("-", " ") for step in steps[:3])
    return f"waits for {names}{' and others' if len(steps) > 3 else ''}"


def _first_need(step: Step, waiting: list[str]) -> str:
    if step.needs:
        return f"needs: {step.needs}"
    if waiting:
        return _waits(waiting)
    return "to be done"


def _verdict(step: Step, reading: Reading, readings: Mapping[str, Reading]) -> Judgement:
    rule = step.rule
    if isinstance(rule, Named) and reading.said:
        if Named.alike(rule.name, reading.said):
            return _known_by(reading, Judgement(Status.PASSED, "as designed"), False)
        return Judgement(Status.FAILED, f"it reads {reading.said}; the design has {rule.name}")
    missing = [name for name in rule.asks if getattr(reading.conditions, name) is None]
    if isinstance(rule, Confirmed | Named) or not reading.numbers:
        if reading.confirmed:
            return _known_by(reading, Judgement(Status.PASSED, "confirmed"), False)
        return Judgement(Status.FAILED, "found wrong")
    weaker, unlike = "", False
    expected: Expected | None
    if missing and isinstance(rule, Unmeasured):
        expected = rule.without()
        weaker, unlike = _beside(rule, reading, readings)
    elif missing:
        words = " and ".join(ASKED_WORDS[name] for name in missing)
        return Judgement(Status.OPEN, f"needs {words}, measured")
    else:
        expected = rule.expected(reading.conditions)
    if expected is None:
        return Judgement(Status.OPEN, "nothing to hold the reading against")
    value = reading.numbers[0]
    deviation = 100 * (value / expected.value - 1) if expected.value else None
    if isinstance(rule, SettingIs):
        held = rule.holds(reading.numbers)
    else:
        held = (expected.low is None or value >= expected.low) and (
            expected.high is None or value <= expected.high
        )
    if not held:
        why = cause(step, value, expected, reading.conditions)
        return Judgement(Status.FAILED, f"outside its bounds{': ' if why else ''}{why}", expected, deviation)
    if unlike:
        return Judgement(Status.FAILED, weaker, expected, deviation)
    if weaker:
        return Judgement(Status.DOUBTFUL, f"weaker proof: {weaker}", expected, deviation)
    weak = rule.weak(value, reading.conditions)
    if weak:
        return Judgement(Status.DOUBTFUL, weak, expected, deviation)
    by_instrument = reading.way == "typed" and not isinstance(rule, SettingIs)
    more = f"; {rule.tells(value, reading.conditions)}" if isinstance(rule, Telling) else ""
    passed = Judgement(Status.PASSED, f"within its bounds{more}", expected, deviation)
    return _known_by(reading, passed, by_instrument)


def _beside(rule: Unmeasured, reading: Reading, readings: Mapping[str, Reading]) -> tuple[str, bool]:
    """A string without a sun meter held against the day's other strings, module for module: what that
    proves in words, and whether it differs."""
    unmeasured = "the light was not measured"
    if not isinstance(rule, StringVolts | StringAmps):
        return f"{unmeasured}; it gives what daylight can give", False
    own = rule.voc_stc_v if isinstance(rule, StringVolts) else rule.module.isc_a
    compared = 0
    for step, size, name in rule.beside:
        other = readings.get(step)
        if other is None or not other.numbers or other.at[:10] != reading.at[:10] or other.numbers[0] <= 0:
            continue
        ratio = (reading.numbers[0] / own) / (other.numbers[0] / size)
        if abs(ratio - 1) > BESIDE_PCT / 100:
            words = (
                f"unlike {name} by {100 * (ratio - 1):+.0f} %, module for module: a module missing, bypassed "
                "or shaded, or the light changed between the two"
            )
            return words, True
        compared += 1
    against = f"like {compared} other {'string' if compared == 1 else 'strings'}"
    return f"{unmeasured}; {against if compared else 'it fits the count of its modules'}", False


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
