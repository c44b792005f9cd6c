"""The choices of a new job as another rule pack has them: its supplies, its usual earthing, its usual
sheets."""

from lodestaff.catalogue import HybridSheet, load_pack
from lodestaff.catalogue.begins import Begins
from lodestaff.shelf.model import starter
from lodestaff.templates.wanted import Wanted


def in_pack(wanted: Wanted, pack: str) -> dict[str, object]:
    """The choices as plain values; what the person chose beside these stays."""
    data = wanted.model_dump(mode="json")
    if pack == wanted.pack:
        return data
    now, then = wanted.begins, load_pack(pack).beginning
    data["pack"] = pack
    if wanted.earthing == now.earthing:
        data["earthing"] = then.earthing
    data["unit_sheet"] = _fitting(wanted.unit_sheet, then)
    if wanted.system in then.instead:
        data["system"] = then.instead[wanted.system]
        data |= {"unit_sheet": "", "rating_a": None}  # of legs and fuses that such a supply hasn't
    return data


def _fitting(name: str, then: Begins) -> str:
    """A hybrid's sheet, or its like that opens the neutral, or doesn't, as the trade does; '' where there is
    none: the usual one."""
    sheets: dict[str, HybridSheet] = {}
    for entry in starter().of_kind("hybrid"):
        sheet = entry.sheet()
        assert isinstance(sheet, HybridSheet)
        sheets[entry.id] = sheet
    own = sheets.get(name)
    if own is None or not own.transfer or own.neutral_switched == then.opens_neutral:
        return name
    alike = {"name": "", "neutral_switched": then.opens_neutral, "bond_relay": then.opens_neutral}
    wanted = own.model_copy(update=alike)
    return next((id for id, other in sheets.items() if other.model_copy(update={"name": ""}) == wanted), "")
