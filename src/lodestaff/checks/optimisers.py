"""Strings with optimisers: ARR-OPT. Count, power and pairing, and what stands on the cable at rest."""

from dataclasses import dataclass

from lodestaff.catalogue import ModuleSheet
from lodestaff.catalogue.parts import OptimiserSheet
from lodestaff.checks.check import check
from lodestaff.checks.finding import Findings
from lodestaff.checks.makers import Words, at_least, at_most, noted, open_
from lodestaff.electrical.strings import ModuleVolts
from lodestaff.quantities import Input, Provenance, Source, text_of
from lodestaff.quantities.convention import plain

SHEET = Source("the optimiser's and module's sheets", Provenance.SHEET)


@dataclass(frozen=True)
class Optimised:
    """A string with optimisers on all or on some of its modules."""

    id: str
    name: str
    module: ModuleSheet
    volts: ModuleVolts
    modules: int
    fitted: int  # modules that are said to have one
    every: bool
    sheet: OptimiserSheet | None
    soft_low: tuple[str, ...]

    @property
    def units(self) -> int:
        """Optimisers on the string."""
        return -(-self.fitted // (self.sheet.modules if self.sheet else 1))


def _of(name: str, formula: str, *inputs: Input) -> Words:
    return Words(name=name, formula=formula, inputs=inputs, source=SHEET)


@check("ARR-OPT", station="array", rests_on="optimiser's sheet")
def arr_opt(record: Optimised) -> Findings:
    """Do the optimisers of a string suit its modules, and the string them?"""
    sheet, module, name = record.sheet, record.module, f"String {record.name}"
    if not record.fitted:
        yield open_(
            text=f"{name}: some of its modules have optimisers; which isn't told, and the year counts none.",
            because=("no module of the string is said to have one",),
            quantity="which",
            advice="Say it at each module.",
            **_of(f"{name}, modules with an optimiser", "count"),
        )
        return
    if sheet is None:
        yield open_(
            text=f"{name}: its optimisers have no sheet; count, power and volts can't be held to anything.",
            because=("the string names no optimiser's sheet",),
            quantity="sheet",
            advice="Take a sheet from the shelf into the job.",
            **_of(f"{name}, optimisers", "sheet"),
        )
        return
    paired, cold = sheet.modules, sheet.modules * record.volts.voc_cold_v
    yield at_most(
        value=cold,
        limit=sheet.max_in_v,
        unit="V",
        quantity="volts",
        because=record.soft_low,
        text=f"{name}: an optimiser sees {text_of(cold, 'V')} at the record low; it takes "
        f"{text_of(sheet.max_in_v, 'V')}.",
        advice="Another optimiser, or fewer modules to one.",
        **_of(
            f"{name}, optimiser's input", "modules to one x Voc cold", Input("modules to one", float(paired))
        ),
    )
    yield at_most(
        value=module.isc_a,
        limit=sheet.max_in_a,
        unit="A",
        quantity="current",
        text=f"{name}: a module gives up to {text_of(module.isc_a, 'A')}; its optimiser takes "
        f"{text_of(sheet.max_in_a, 'A')}.",
        advice="Another optimiser.",
        **_of(f"{name}, optimiser's current", "Isc of the module"),
    )
    watts = paired * module.pmp_w
    yield at_most(
        value=watts,
        limit=sheet.rated_w,
        unit="W",
        quantity="power",
        text=f"{name}: {plain(watts)} W of modules to an optimiser of {plain(sheet.rated_w)} W.",
        advice="A larger optimiser, or fewer modules to one.",
        **_of(f"{name}, modules to an optimiser", "modules to one x Pmp"),
    )
    yield from _count(record, sheet, name)
    yield from _string_power(record, sheet, name)
    if not record.every:
        alone = sheet.on_single_modules
        yield at_least(
            value=None if alone is None else float(alone),
            limit=1.0,
            quantity="some",
            because=()
            if alone is not None
            else ("the sheet doesn't say whether some modules alone may have one",),
            text=f"{name}: {record.fitted} of {record.modules} modules have an optimiser"
            + ("; its sheet asks for one on each." if alone is False else "."),
            advice="Optimisers on all modules, or others that stand alone.",
            **_of(f"{name}, optimisers on some modules", "sheet"),
        )
    yield from _at_rest(record, sheet, name)


def _count(record: Optimised, sheet: OptimiserSheet, name: str) -> Findings:
    """Pairs that come out even, and counts between the least and the most."""
    if record.fitted % sheet.modules:
        yield at_most(
            value=float(record.fitted % sheet.modules),
            limit=0.0,
            quantity="pairs",
            text=f"{name}: {record.fitted} modules don't come out even at {sheet.modules} to an optimiser.",
            advice="One module more or less.",
            **_of(f"{name}, modules left over", "modules mod modules to one"),
        )
    if not record.every:
        return
    units = Input("optimisers", float(record.units))
    yield at_least(
        value=float(record.units),
        limit=None if sheet.least_in_string is None else float(sheet.least_in_string),
        quantity="least",
        text=f"{name}: {record.units} optimisers; at least {sheet.least_in_string or 'unknown'}.",
        advice="A longer string.",
        **_of(f"{name}, optimisers, least", "count", units),
    )
    yield at_most(
        value=float(record.units),
        limit=None if sheet.most_in_string is None else float(sheet.most_in_string),
        quantity="most",
        text=f"{name}: {record.units} optimisers; at most {sheet.most_in_string or 'unknown'}.",
        advice="Two strings.",
        **_of(f"{name}, optimisers, most", "count", units),
    )


def _string_power(record: Optimised, sheet: OptimiserSheet, name: str) -> Findings:
    if not record.every:
        return
    watts, most = record.modules * record.module.pmp_w, sheet.most_string_w
    limit = "unknown" if most is None else f"{plain(most)} W"
    yield at_most(
        value=watts,
        limit=most,
        unit="W",
        quantity="string power",
        text=f"{name}: {plain(watts)} W of modules; a string of such optimisers carries at most {limit}.",
        advice="Two strings.",
        **_of(f"{name}, power of the string", "modules x Pmp", Input("modules", float(record.modules))),
    )


def _at_rest(record: Optimised, sheet: OptimiserSheet, name: str) -> Findings:
    """What stands on the cable while nothing has released the optimisers."""
    if sheet.safe_v is None:
        yield open_(
            text=f"{name}: what its optimisers leave on the cable at rest isn't in their sheet.",
            because=("the sheet gives no safe-state voltage",),
            quantity="rest",
            **_of(f"{name}, at rest", "optimisers x safe voltage"),
        )
        return
    bare = record.modules - record.fitted
    volts = record.units * sheet.safe_v + bare * record.volts.voc_cold_v
    words = f"{name}: at rest {text_of(volts, 'V')} stand on its cable"
    if bare:
        words += f", for {bare} of its modules have no optimiser: it is live in daylight"
    yield noted(
        value=volts,
        unit="V",
        quantity="rest",
        text=f"{words}.",
        **_of(
            f"{name}, at rest",
            "optimisers x safe voltage + other modules x Voc cold",
            Input("optimisers", float(record.units)),
            Input("safe voltage of one", sheet.safe_v, "V", "sheet"),
            Input("modules without one", float(bare)),
        ),
    )
