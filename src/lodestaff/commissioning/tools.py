"""What a step is measured with."""

from lodestaff.commissioning.step import MeasureKind, Step

TOOLS: dict[MeasureKind, str] = {
    "insulation": "insulation tester",
    "voc": "DC voltmeter",
    "isc": "DC clamp meter",
    "module voc": "DC voltmeter",
    "battery v": "DC voltmeter",
    "supply v": "voltmeter",
    "electrode": "earth tester",
    "bonding": "low-ohm meter",
    "setting": "its link",
    "setting by hand": "its panel",
    "ct": "clamp meter",
    "ct by hand": "clamp meter",
    "tracker power": "sun meter",
    "ac power": "sun meter",
    "balance": "its own readings",
    "export": "the site's meter",
    "transfer": "recorder",
    "island loop": "loop tester",
    "between legs": "voltmeter",
    "same leg": "voltmeter",
    "ac insulation": "insulation tester",
    "earth loop": "loop tester",
    "fault current": "loop tester",
    "rcd time": "residual tester",
    "neutral to earth": "low-ohm meter",
    "residual": "leakage clamp",
    "branch": "its own readings",
    "battery power": "its own readings",
    "import": "the site's meter",
    "meter lost": "clamp meter",
    "array off": "DC voltmeter",
    "generator": "clamp meter",
    "load step": "voltmeter",
    "registers": "the meter's display",
    "charger": "clamp meter",
    "type": "its plate",
}


def tool_of(step: Step) -> str:
    """The instrument of a step; "" for one that is done and looked at."""
    return TOOLS.get(step.measure.kind, "")
