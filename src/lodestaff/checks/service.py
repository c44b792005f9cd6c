"""What must be there besides: a disconnect outside, one at each generator, a source for the largest load."""

from dataclasses import dataclass
from typing import Any

from lodestaff.catalogue import PackValue
from lodestaff.checks.check import check
from lodestaff.checks.finding import Findings, Remedy, Verdict, soft
from lodestaff.checks.makers import at_least, one_of
from lodestaff.job import Fact
from lodestaff.quantities import Input, Provenance, Source, text_of
from lodestaff.quantities.convention import plain

APART = Source(
    "a generator can be disconnected and locked before anybody works on it", Provenance.COMMON_PRACTICE
)


@dataclass(frozen=True)
class OutsideDisconnect:
    """Whether an emergency disconnect is outside, at a dwelling, where the pack asks for it."""

    rule: PackValue
    fact: Fact[Any]
    cures: tuple[Remedy, ...] = ()


@check("WIRE-ISO", "outside", station="wire", rests_on="pack", rules=("NEC",))
def outside_disconnect(record: OutsideDisconnect) -> Findings:
    """Has a dwelling an emergency disconnect outside?"""
    said = record.fact.value
    words = {"yes": "stands outside", "no": "is not there", "no dwelling": "isn't asked for: no dwelling"}
    yield one_of(
        word=said,
        bad={"no": Verdict.WARNS},
        text=f"The emergency disconnect outside {words.get(said or '', 'is not known')}.",
        name="Emergency disconnect outside",
        formula="found",
        inputs=(Input("found", said or "unknown", "", record.fact.words()),),
        source=record.rule.cite(),
        because=soft(outside_disconnect=record.fact),
        cures=record.cures,
        advice="One outside, in reach without a key, marked as what it is, where the service is changed.",
        quantity="outside",
    )


@dataclass(frozen=True)
class StorageShutdown(OutsideDisconnect):
    """The same of what ends a battery's export of power from outside."""


@check("WIRE-ISO", "storage", station="wire", rests_on="pack", rules=("NEC",))
def storage_shutdown(record: StorageShutdown) -> Findings:
    """Can the batteries of a dwelling be shut down from outside?"""
    said = record.fact.value
    words = {"yes": "stands outside", "no": "is not there", "no dwelling": "isn't asked for: no dwelling"}
    yield one_of(
        word=said,
        bad={"no": Verdict.WARNS},
        text=f"The switch that shuts the battery down {words.get(said or '', 'is not known')}.",
        name="Battery's shutdown outside",
        formula="found",
        inputs=(Input("found", said or "unknown", "", record.fact.words()),),
        source=record.rule.cite(),
        because=soft(storage_shutdown=record.fact),
        cures=record.cures,
        advice="One outside, in reach without a key, that shows off and on, wired by the maker's plan.",
        quantity="storage",
    )


@dataclass(frozen=True)
class GeneratorApart:
    """A generator with the hand-worked devices on its way to what it feeds."""

    id: str
    name: str
    devices: tuple[str, ...]
    rule: PackValue | None

    @property
    def owner(self) -> str:
        return self.id


@check("WIRE-ISO", "generator", station="wire", rests_on="pack, common practice")
def generator_apart(record: GeneratorApart) -> Findings:
    """Can each generator be disconnected and locked?"""
    devices = " and ".join(record.devices) or "nothing"
    yield at_least(
        value=float(len(record.devices)),
        limit=1.0,
        unit="devices",
        text=f"{record.name} is disconnected by {devices}.",
        name=f"{record.name}: disconnects",
        formula="hand-worked devices on its way",
        inputs=tuple(Input(name, 1, "") for name in record.devices),
        source=record.rule.cite() if record.rule is not None else APART,
        advice="A disconnect that locks, and its start locked out.",
        quantity="generator",
    )


@dataclass(frozen=True)
class LargestLoad:
    """What feeds a site without a grid against its largest load alone, kW."""

    rule: PackValue
    sources: tuple[tuple[str, float], ...]
    load: str
    load_kw: float
    because: tuple[str, ...]


@check("LOAD-CONT", "largest", station="loads", rests_on="pack", rules=("NEC",))
def largest_load(record: LargestLoad) -> Findings:
    """Is what feeds a site without a grid as large as its largest load alone?"""
    kw = sum(size for _, size in record.sources)
    yield at_least(
        value=kw,
        limit=record.load_kw,
        unit="kW",
        text=f"What feeds the site gives {text_of(kw, 'kW')}; its largest load, {record.load}, takes "
        f"{text_of(record.load_kw, 'kW')}.",
        name="Sources against the largest load",
        formula="sum of what forms the site's supply",
        inputs=tuple(Input(name, float(plain(size, 3)), "kW") for name, size in record.sources),
        source=record.rule.cite(),
        because=record.because,
        advice="A larger unit, or a smaller load.",
        quantity="largest",
    )
