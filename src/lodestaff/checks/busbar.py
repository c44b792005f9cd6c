"""Busbars that sources feed: WIRE-BUS."""

from dataclasses import dataclass
from typing import Any

from lodestaff.catalogue import Pack
from lodestaff.checks.check import check
from lodestaff.checks.finding import Findings, Remedy, Verdict, cure, soft
from lodestaff.checks.makers import Words, at_least, at_most, noted, open_
from lodestaff.electrical.busbar import BusbarRules, busbar_rules
from lodestaff.job import Fact
from lodestaff.quantities import Input, Provenance, Source, text_of
from lodestaff.quantities.convention import plain

NEC = Source("NEC 705.12(B)", Provenance.FROM_MEMORY)
NOT_HELD = Source("the pack has no rule of its own for busbars with sources", Provenance.JOB)


@dataclass(frozen=True)
class Busbar:
    """A board with sources on its busbar. `source_a` is their current on the worst leg, A; `sources` their
    devices, `branches` those of its circuits and feeders, None where one isn't known."""

    id: str
    name: str
    pack: Pack
    rated: Fact[float]
    main_a: float | None
    main: str
    source_a: float
    sources: tuple[tuple[str, float | None], ...]
    branches: tuple[float, ...] | None
    far_end: Fact[Any]
    main_path: str = ""

    @property
    def source_devices_a(self) -> tuple[float, ...] | None:
        known = tuple(amps for _, amps in self.sources if amps is not None)
        return known if len(known) == len(self.sources) else None


@check("WIRE-BUS", station="wire", rests_on="board's busbar, pack")
def wire_bus(record: Busbar) -> Findings:
    """Does every busbar bear its main and the sources that feed it?"""
    rule = record.pack.values.get("busbar_sum")
    nec = record.pack.conductor_rule == "NEC"
    figure = _figure(record, NEC if nec else rule.cite() if rule is not None else NOT_HELD)
    names = " and ".join(name for name, _ in record.sources)
    names += " feeds" if len(record.sources) == 1 else " feed"
    if record.rated.value is None or record.main_a is None:
        what = "busbar's rating" if record.rated.value is None else "main device"
        yield open_(
            text=f"{record.name}: {names} its busbar with {text_of(record.source_a, 'A')}; the {what} "
            "isn't known.",
            because=(f"the {what} is unknown",),
            value=record.source_a,
            unit="A",
            **figure,
            advice="Read it off the board's plate.",
        )
    elif nec:
        yield from _nec(record)
    elif rule is None:
        yield open_(
            text=f"{record.name}: {names} its busbar of {text_of(record.rated.value, 'A')} behind a "
            f"main of {text_of(record.main_a, 'A')}; its maker's instructions rule.",
            because=("the pack has no rule of its own",),
            value=record.main_a + record.source_a,
            unit="A",
            limit=record.rated.value,
            **figure,
            advice="Ask the board's maker what may feed it.",
        )
    else:
        yield from _sum(record, figure)


def _figure(record: Busbar, source: Source, more: tuple[Input, ...] = ()) -> Words:
    return Words(
        name=f"{record.name}: busbar",
        formula="main and sources against the busbar",
        source=source,
        inputs=(
            Input("busbar", record.rated.value or "unknown", "A", record.rated.words()),
            Input("main", record.main_a if record.main_a is not None else "unknown", "A", record.main),
            Input("sources", record.source_a, "A", ", ".join(name for name, _ in record.sources)),
            *more,
        ),
    )


def _sum(record: Busbar, figure: Words) -> Findings:
    """Supply device plus source devices; a device that isn't known counts as its source's current."""
    assert record.rated.value is not None
    assert record.main_a is not None
    devices = record.source_devices_a
    total = record.main_a + (sum(devices) if devices is not None else record.source_a)
    unknown = () if devices is not None else ("a source's device is unknown",)
    yield at_least(
        value=record.rated.value,
        limit=total,
        unit="A",
        text=f"{record.name}: busbar of {text_of(record.rated.value, 'A')} for {text_of(record.main_a, 'A')} "
        f"of the supply and {text_of(total - record.main_a, 'A')} of sources.",
        **figure,
        because=soft(busbar=record.rated) + unknown,
        advice="A board of a larger rating, a smaller main, or the source ahead of the board.",
    )


def _nec(record: Busbar) -> Findings:
    assert record.rated.value is not None
    assert record.main_a is not None
    devices = None
    if record.branches is not None and record.source_devices_a is not None:
        devices = (*record.branches, *record.source_devices_a)
    factor = record.pack.value("continuous_load_factor").value
    rules = busbar_rules(record.rated.value, record.main_a, record.source_a, devices, factor)
    figure = _figure(record, NEC, _inputs(rules))
    far = record.far_end.value == "opposite the main"
    kept = rules.keeps_100 or bool(rules.keeps_sum) or (rules.keeps_120 and far)
    open_end = rules.keeps_120 and not record.far_end.firm and not (rules.keeps_100 or rules.keeps_sum)
    which = "100 %" if rules.keeps_100 else "sum" if rules.keeps_sum else "120 %"
    text = (
        f"{record.name}: {plain(factor)} x {text_of(record.source_a, 'A')} of sources need "
        f"{text_of(rules.need_a, 'A')}; the busbar of {text_of(record.rated.value, 'A')} behind "
        f"{text_of(record.main_a, 'A')} leaves {text_of(max(0.0, rules.room_a), 'A')} at its far end"
    )
    if kept or open_end:
        yield noted(
            verdict=Verdict.PASSED,
            value=rules.need_a,
            limit=rules.room_a,
            margin=rules.room_a - rules.need_a,
            unit="A",
            text=f"{text}; kept by the {which} rule.",
            **figure,
            because=soft(busbar=record.rated)
            + (("at which end the source's breaker sits is unknown",) if open_end else ()),
            advice="Put the source's breaker at the end opposite the main, and mark it.",
        )
        return
    yield at_most(
        value=rules.need_a,
        limit=rules.room_a,
        unit="A",
        kept=False,
        text=f"{text}."
        + (" The source's breaker isn't at the end opposite the main." if rules.keeps_120 else ""),
        **figure,
        because=soft(busbar=record.rated),
        cures=lambda: _smaller_main(record, rules),
        advice=f"A main of at most {text_of(max(0.0, rules.most_main_a), 'A')}, a larger board, or sources "
        f"of at most {text_of(rules.most_source_a, 'A')} together.",
    )


def _inputs(rules: BusbarRules) -> tuple[Input, ...]:
    return (
        Input("room by the 120 % rule", rules.room_a, "A", "1.2 x busbar - main"),
        Input("need", rules.need_a, "A", "1.25 x sources"),
        Input("sum of branch and source devices", rules.sum_a if rules.sum_a is not None else "unknown", "A"),
        Input("largest main by the 120 % rule", rules.most_main_a, "A"),
        Input("largest sources by the 120 % rule", rules.most_source_a, "A"),
    )


def _smaller_main(record: Busbar, rules: BusbarRules) -> tuple[Remedy, ...]:
    """The next standard main at or below what the 120 % rule allows."""
    if not record.main_path:
        return ()
    sizes = [
        size for size in record.pack.table("device_sizes").row_keys() if size <= rules.most_main_a + 1e-9
    ]
    if not sizes or record.main_a is None or max(sizes) >= record.main_a:
        return ()
    return cure(f"A main of {plain(max(sizes))} A for {record.name}", record.main_path, max(sizes))
