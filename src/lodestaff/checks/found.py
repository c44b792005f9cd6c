"""What was found on site: its condition, its photos, and old conductors against today's rule. SITE-SPACE."""

from dataclasses import dataclass

from lodestaff.checks.check import check
from lodestaff.checks.finding import Findings, Remedy, Verdict, cure, soft
from lodestaff.checks.makers import at_most, one_of
from lodestaff.checks.site import planned
from lodestaff.job import Found
from lodestaff.quantities import Input, Provenance, Source, text_of
from lodestaff.quantities.convention import plain

OLD = Source("condition is photographed and shown before anybody touches it", Provenance.COMMON_PRACTICE)
VERDICTS = {"unfit": Verdict.BLOCKS, "worn": Verdict.NOTES}


@dataclass(frozen=True)
class FoundThing:
    """A found device. For a conductor `carries_a` is what today's table gives its size (None: not in the
    table)."""

    thing: Found
    carries_a: float | None
    table: Source | None
    next_mm2: float | None  # the size that the table wants behind its device


@check("SITE-SPACE", "found", station="site", rests_on="what was found, pack's tables")
def found_thing(record: FoundThing) -> Findings:
    """In what condition are found devices, and may old conductors stay?"""
    thing, condition, rating = record.thing, record.thing.condition, record.thing.rating.value
    path = f"site/found/{thing.id}"
    cures: tuple[Remedy, ...] = ()
    rated = f", {text_of(rating, thing.unit)}" if rating is not None else ""
    note = f", {thing.note}" if thing.note else ""
    text = f"{thing.name}{rated}: {condition.value or 'condition unknown'}{note}."
    if condition.value == "unfit":
        cures = planned(f"{path}/condition", "good", f"Plan to replace {thing.name}", "to be replaced")
    elif condition.value == "worn" and not thing.photos:
        text += " It is neither photographed nor shown yet."
    elif condition.value == "worn" and not thing.shown_to_customer:
        text += " The customer hasn't seen it yet."
        cures = cure("Note that the customer has seen it", f"{path}/shown_to_customer", True)
    yield one_of(
        word=condition.value,
        bad=VERDICTS,
        value=rating,
        unit=thing.unit,
        text=text,
        name=thing.name,
        formula="read on site",
        source=OLD,
        quantity="condition",
        inputs=(
            Input("condition", str(condition.value or "unknown"), "", condition.words()),
            Input("photos", len(thing.photos)),
            Input("shown to the customer", "yes" if thing.shown_to_customer else "no"),
        ),
        because=soft(condition=condition),
        cures=cures,
        advice="Photograph it, show it, and allow for repair.",
        subjects=(thing.id,),
    )
    if thing.what == "conductor":
        yield from _conductor(record, path)


def _conductor(record: FoundThing, path: str) -> Findings:
    thing, device, carries, size = record.thing, record.thing.device_a, record.carries_a, record.next_mm2
    if record.table is None or carries is None or device.value is None:
        return
    words, note = f"Plan {plain(size)} mm² for {thing.name}" if size is not None else "", "to be replaced"
    yield at_most(
        value=device.value,
        limit=carries,
        unit="A",
        quantity="device",
        name=f"{thing.name}: device",
        text=f"{thing.name}: {text_of(device.value, 'A')} protect what carries {text_of(carries, 'A')} by "
        "today's table.",
        formula="device <= rating of the old conductor by today's table",
        inputs=(
            Input("size", thing.rating.value or 0.0, "mm²", thing.rating.words()),
            Input("carries", carries, "A"),
        ),
        source=record.table,
        because=soft(size=thing.rating, device=device),
        subjects=(thing.id,),
        cures=planned(f"{path}/rating", size, words, note) if size is not None else (),
        advice="Old cable is reused only after it is checked.",
    )
