"""Battery and inverter: STO-POWER, STO-COUNT, STO-GROW."""

from dataclasses import dataclass

from lodestaff.checks.check import check
from lodestaff.checks.finding import Findings, Remedy, Verdict, cure
from lodestaff.checks.makers import at_least, at_most, noted
from lodestaff.energy.battery import ac_kw
from lodestaff.quantities import Input, Provenance, Source, text_of

LEAST = Source("least of inverter, modules x limit, setting", Provenance.DERIVED)
SHEET = Source("the battery's and unit's sheets", Provenance.SHEET)


@dataclass(frozen=True)
class BankPower:
    """A bank on its unit: powers by module count."""

    owner: str
    unit: str
    modules: int
    min_modules: int
    max_modules: int
    module_dc_kw: float
    unit_dc_kw: float  # that the unit takes from its DC bus
    setting_dc_kw: float
    setting_stays: bool  # deliberately below what all parts bear, so that it caps more modules too
    rated_kw: float
    k1: float  # of the unit's loss k1 P + k2 P²
    k2: float
    held_kw: float
    registered_kva: float
    permitted_kva: float | None
    module_weight_kg: float | None
    several: bool = False
    grid: bool = True
    backup: bool = True  # whether it carries circuits in an outage
    planned: bool = False  # whether it has its place on a wall
    room: int | None = None  # how many modules that place takes; None where nothing says so

    @property
    def whose(self) -> str:
        """The unit's name ahead, where there are several."""
        return f"{self.unit}: " if self.several else ""

    def discharge_kw(self, modules: int) -> float:
        """AC power with so many modules; a setting that was the least of all parts follows them."""
        dc_kw = min(modules * self.module_dc_kw, self.unit_dc_kw)
        if self.setting_stays or modules <= self.modules:
            dc_kw = min(dc_kw, self.setting_dc_kw)
        return min(self.rated_kw, ac_kw(dc_kw, self.k1, self.k2))

    @property
    def inverter_kw(self) -> float:
        """What the inverter gives where cells and setting don't hold it back."""
        return min(self.rated_kw, ac_kw(self.unit_dc_kw, self.k1, self.k2))

    @property
    def feeding(self) -> int:
        """How many modules feed the inverter fully."""
        enough = (
            n for n in range(1, 100) if ac_kw(n * self.module_dc_kw, self.k1, self.k2) >= self.inverter_kw
        )
        return next(enough, 100)

    @property
    def brings_kw(self) -> float:
        """What one more module brings."""
        return self.discharge_kw(self.modules + 1) - self.discharge_kw(self.modules)

    def take(self, modules: int) -> tuple[Remedy, ...]:
        return cure(f"Take {modules} battery modules", f"banks/{self.owner}/modules", modules)


def count_words(modules: int) -> str:
    return f"{modules} module{'s' if modules > 1 else ''}"


@check("STO-POWER", station="storage", rests_on="sheets")
def sto_power(record: BankPower) -> Findings:
    """Can the battery feed the backed-up circuits and the inverter?"""
    now, more, held, modules = (
        record.discharge_kw(record.modules),
        record.brings_kw,
        record.held_kw,
        record.modules,
    )
    feeding = record.feeding
    backed = f"the backed-up circuits run at {text_of(held, 'kW')}; " if record.backup else ""
    alone = f"It takes {feeding} modules to feed the inverter fully"
    if feeding == 1:
        alone = "One module alone can feed the inverter"
    gives = (
        f"{record.whose}{count_words(modules)} give{'s' if modules == 1 else ''} {text_of(now, 'kW')}; "
        f"{backed}one more module brings {text_of(more, 'kW') if more > 1e-9 else 'no more power'}."
    )
    enough = (n for n in range(modules + 1, record.max_modules + 1) if record.discharge_kw(n) >= held)
    wanted = next(enough, None)
    yield at_least(
        value=now,
        limit=held,
        unit="kW",
        text=f"{gives} {alone}.",
        name=f"Discharge power of {record.unit}",
        formula="min(inverter, n x module limit, setting)",
        inputs=(
            Input("inverter", record.inverter_kw, "kW"),
            Input("a module, as AC", ac_kw(record.module_dc_kw, record.k1, record.k2), "kW"),
            Input("setting, at the DC bus", record.setting_dc_kw, "kW"),
            Input("with one more module", now + more, "kW"),
            Input("modules that feed the inverter fully", float(feeding)),
        ),
        source=LEAST,
        cures=record.take(wanted) if wanted else (),
        advice="More modules, or hold less." if record.backup else "",
    )


@check("STO-COUNT", station="storage", rests_on="battery's sheet")
def sto_count(record: BankPower) -> Findings:
    """Is the number of modules one that the stack takes?"""
    modules, least, most = record.modules, record.min_modules, record.max_modules
    yield at_most(
        value=float(modules),
        limit=float(most),
        kept=least <= modules <= most,
        text=f"{record.whose}{count_words(modules)}; the stack takes {least} to {most}.",
        name="Battery modules",
        formula="count",
        inputs=(Input("least", float(least)), Input("most", float(most))),
        source=SHEET,
        cures=record.take(least if modules < least else most),
        advice=f"Take {least} to {most}.",
    )


@check("STO-GROW", station="storage", rests_on="sheets")
def sto_grow(record: BankPower) -> Findings:
    """What does the next module need?"""
    left, kg = record.max_modules - record.modules, record.module_weight_kg
    room = None if record.permitted_kva is None else record.permitted_kva - record.registered_kva
    full = False
    papers = ", its place and its permission" if record.grid else " and its place"
    text = f"{record.whose}The stack is full: growing needs a further unit{papers}."
    if left > 0:
        fit = "module fits" if left == 1 else "modules fit"
        held = " That is at the present setting." if record.setting_stays else ""
        paper = " No further permission is needed as long as the inverter stays." if record.grid else ""
        full = record.room is not None and record.room <= record.modules
        no_room = " Its place has no room for it." if full else ""
        weight = f" Each weighs {text_of(kg, 'kg', 0)}." if kg else ""
        brings = text_of(record.brings_kw, "kW")
        more = f"{record.whose}{left} more {fit} the stack. The next brings {brings}."
        text = f"{more}{held}{paper}{weight}{no_room}"
    yield noted(
        verdict=Verdict.NOTES if left <= 0 or full else Verdict.PASSED,
        text=text,
        value=float(left),
        name="Modules that can still be added",
        formula="most − present",
        inputs=(
            Input("power each brings", record.brings_kw, "kW"),
            Input("permission left on the phase", room if room is not None else "unknown", "kVA"),
        ),
        source=SHEET,
        because=() if record.planned else ("the place on the wall isn't planned yet",),
        advice="Leave room for the next module.",
    )
