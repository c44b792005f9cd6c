"""What a reading outside its bounds most likely means, and what to look at next. Common practice."""

import math

from lodestaff.commissioning.expect import Conditions, Expected, string_voc
from lodestaff.commissioning.rules import (
    Between,
    LoadSeen,
    LoadUnseen,
    Rule,
    SettingIs,
    ShareOfLoad,
    StringAmps,
    StringVolts,
    SunPower,
)
from lodestaff.commissioning.step import Step
from lodestaff.quantities.convention import plain

NEAR = 0.06  # how near a reading must come to what a cause would make of it
NOTHING = 0.05


def _near(value: float, other: float, share: float = NEAR) -> bool:
    return bool(other) and abs(value / other - 1) <= share


def cause(step: Step, value: float, expected: Expected, conditions: Conditions) -> str:
    """The likely cause of a reading outside its bounds, in words; '' where none stands out."""
    rule: Rule = step.rule
    if isinstance(rule, StringVolts):
        return _volts(rule, value, expected, conditions)
    if isinstance(rule, StringAmps):
        return _amps(value, expected)
    if isinstance(rule, SunPower):
        return _power(value, expected)
    if isinstance(rule, LoadSeen):
        return _load(value, expected)
    if isinstance(rule, LoadUnseen):
        return "it sees what it shouldn't: look which conductor it sits on"
    if isinstance(rule, ShareOfLoad):
        return (
            "current comes back another way than by its neutral: a second bond to earth, or a neutral that "
            "lies "
            "on another board"
        )
    if isinstance(rule, SettingIs):
        return _setting(rule, value)
    return _by_kind(step, value, expected) if isinstance(rule, Between) else ""


def _volts(rule: StringVolts, value: float, expected: Expected, conditions: Conditions) -> str:
    if value < 0:
        more = "" if _near(-value, expected.value, 0.1) else "; and it isn't the string's volts either"
        return f"polarity reversed: plus and minus are exchanged{more}"
    if abs(value) < NOTHING * expected.value:
        return "open: a connector not closed, a fuse, or the isolator before the meter"
    modules = sum(count for _, count in rule.parts)
    per_module = expected.value / modules
    for name, parts in rule.others:
        measured = conditions.poa_w_m2 is not None and conditions.module_c is not None
        there = sum(string_voc(m, n, conditions) for m, n in parts) if measured else 0.0
        if _near(value, there, 0.03):
            return f"these are the volts of string {name}: two strings may be exchanged"
    missing = round((expected.value - value) / per_module)
    if 0 < missing < modules and abs(expected.value - missing * per_module - value) < 0.45 * per_module:
        return (
            f"about {missing} of {modules} modules {'is' if missing == 1 else 'are'} missing or bypassed: "
            f"count "
            "them, look at the connectors between"
        )
    if missing < 0 and abs(expected.value - missing * per_module - value) < 0.45 * per_module:
        return f"about {-missing} modules more than drawn, or another string"
    return "shade on some modules, another type of module, or a temperature taken elsewhere"


def _amps(value: float, expected: Expected) -> str:
    if abs(value) < NOTHING * expected.value:
        return "no current: open at a connector"
    if value < expected.value:
        return "shade or dirt on a module, or the sun meter lies in another plane"
    return "the sun meter lies in another plane, or two strings are joined"


def _power(value: float, expected: Expected) -> str:
    if abs(value) < NOTHING * expected.value:
        return (
            "nothing comes: a string not in, its isolator open, a device on the roof that rests, or polarity"
        )
    if value < expected.value:
        return (
            "something holds it back: a limit, a full battery, a string out, shade, or a bad joint that warms"
        )
    return "the sun meter lies in another plane, or more modules than drawn"


def _load(value: float, expected: Expected) -> str:
    wanted = expected.value
    if abs(value) < max(NOTHING * abs(wanted), 0.05):
        return "it sees nothing: its lead isn't plugged in, or it sits on another conductor"
    if _near(value, -wanted, 0.15):
        return "it sits the wrong way round, or its two leads are exchanged"
    for times in (0.1, 0.5, 2.0, 10.0):
        if _near(value, times * wanted, 0.08):
            return f"its ratio is set wrong: it shows {plain(times)} times the load"
    if value < 0:
        return "it sits the wrong way round, or on another leg or phase than the volts it is given"
    return "it sits on another leg or phase, or sees something besides"


def _setting(rule: SettingIs, value: float) -> str:
    if rule.key == "clock":
        hours = value / 3600
        if abs(abs(hours) - 12) < 0.1:
            return "twelve hours off: morning and afternoon are exchanged"
        if abs(abs(hours) - 1) < 0.1:
            return "an hour off: summer time, or standard time"
        return "set it again, from a clock that is right"
    wanted = rule.wanted[0]
    if wanted and value > 0:
        power = math.log10(value / wanted)
        if abs(power) > 0.9 and abs(power - round(power)) < 0.02:
            return f"{plain(10.0 ** round(power))} times what was set: another unit, A for W or W for kW"
    return "it holds something else: set it again and read it back"


def _by_kind(step: Step, value: float, expected: Expected) -> str:
    match step.measure.kind:
        case "island loop":
            return "no bond is made in the island, or it lies behind something that is open"
        case "neutral to earth":
            if expected.high is None:
                return "a bond is there that isn't drawn: look for a link left in a board or a unit"
            return "the bond that is drawn isn't made: look at its link"
        case "same leg":
            return "another leg or phase lies here: two conductors of the feed are exchanged"
        case "battery v":
            if value < 0:
                return "polarity reversed: plus and minus are exchanged"
            return "a module isn't connected, or they are wired another way than the sheet says"
        case "electrode":
            return "the rod doesn't reach moist ground: a longer one, or a second"
        case "leg volts" | "supply v":
            return "call the operator before anything is closed"
        case "between legs":
            return "these are not the phases that the name of the supply says"
        case "meter lost" | "export":
            return "it goes on feeding: its limit isn't in force, or it obeys another meter"
        case "array off":
            return "the conductors off the roof stay live: no device on the roof lets go"
        case _:
            return ""
