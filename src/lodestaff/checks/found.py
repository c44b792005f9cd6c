"""What was found on site: its condition, its photos, and old conductors against today's rule. SITE-SPACE."""

from dataclasses import dataclass
from typing import Any

from lodestaff.checks.finding import Finding, Remedy, Verdict, soft
from lodestaff.job import Change, Found
from lodestaff.quantities import Figure, Input, Provenance, Source, text_of

OLD = Source("condition is photographed and shown before anybody touches it", Provenance.COMMON_PRACTICE)
VERDICTS = {"unfit": Verdict.BLOCKS, "worn": Verdict.NOTES, "good": Verdict.PASSED}


@dataclass(frozen=True)
class FoundThing:
    """A found device. For a conductor `carries_a` is what today's table gives its size (None: not in the table)."""

    thing: Found
    carries_a: float | None
    table: Source | None
    next_mm2: float | None  # the size that the table wants behind its device


def planned(path: str, value: Any, words: str, note: str = "planned") -> Remedy:
    """A fact changed to what is planned: assumed until it is done and read, so its check stays open."""
    return Remedy(words, (Change(path, {"value": value, "known": "assumed", "note": note, "date": ""}),))


def found_thing(record: FoundThing) -> list[Finding]:
    """Condition and photos of a thing; a conductor's rating by today's table against the device that protects it."""
    one = record.thing
    figure = Figure(
        one.name, one.rating.value if one.rating.value is not None else float("nan"), one.unit, "read on site",
        (Input("condition", str(one.condition.value or "unknown"), "", one.condition.words()), Input("photos", len(one.photos)),
         Input("shown to the customer", "yes" if one.shown_to_customer else "no")), OLD,
    )  # fmt: skip
    verdict = VERDICTS.get(str(one.condition.value), Verdict.PASSED)
    rating = f", {text_of(one.rating.value, one.unit)}" if one.rating.value is not None else ""
    text = f"{one.name}{rating}: {one.condition.value or 'condition unknown'}{f', {one.note}' if one.note else ''}."
    path = f"site/found/{one.id}"
    cures: tuple[Remedy, ...] = ()
    if verdict is Verdict.BLOCKS:
        cures = (planned(f"{path}/condition", "good", f"Plan to replace {one.name}", "to be replaced"),)
    elif verdict is Verdict.NOTES and not (one.photos and one.shown_to_customer):
        text += " It is neither photographed nor shown yet." if not one.photos else " The customer hasn't seen it yet."
        if one.photos:
            cures = (Remedy("Note that the customer has seen it", (Change(f"{path}/shown_to_customer", True),)),)
    findings = [Finding("SITE-SPACE", verdict, text, figure, None, None, OLD, soft(condition=one.condition), cures,
                        "Photograph it, show it, and allow for repair.", (one.id,))]  # fmt: skip
    if one.what == "conductor":
        findings += _conductor(record, path)
    return findings


def _conductor(record: FoundThing, path: str) -> list[Finding]:
    one, device, carries = record.thing, record.thing.device_a.value, record.carries_a
    if record.table is None or carries is None or device is None:
        return []
    figure = Figure(f"{one.name}: device", device, "A", "device <= rating of the old conductor by today's table",
                    (Input("size", one.rating.value or 0.0, "mm²", one.rating.words()), Input("carries", carries, "A")), record.table)  # fmt: skip
    small = device > carries * (1 + 1e-9)
    cure: tuple[Remedy, ...] = ()
    if small and record.next_mm2 is not None:
        cure = (
            planned(
                f"{path}/rating", record.next_mm2, f"Plan {record.next_mm2:g} mm² for {one.name}", "to be replaced"
            ),
        )
    text = f"{one.name}: {text_of(device, 'A')} protect what carries {text_of(carries, 'A')} by today's table."
    return [Finding("SITE-SPACE", Verdict.BLOCKS if small else Verdict.PASSED, text, figure, carries, carries - device, record.table,
                    soft(size=one.rating, device=one.device_a), cure, "Old cable is reused only after it is checked.", (one.id,))]  # fmt: skip
