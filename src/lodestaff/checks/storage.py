"""Battery and inverter: STO-POWER, STO-COUNT, STO-GROW."""

from dataclasses import dataclass

from lodestaff.checks.finding import Finding, Remedy, Verdict
from lodestaff.job import Change
from lodestaff.quantities import Figure, Input, Provenance, Source, text_of

LEAST = Source("least of inverter, modules x limit, setting", Provenance.DERIVED)
SHEET = Source("the battery's and unit's sheets", Provenance.SHEET)


@dataclass(frozen=True)
class BankPower:
    """A bank on its unit: powers by module count."""

    bank: str
    unit: str
    modules: int
    min_modules: int
    max_modules: int
    module_discharge_kw: float  # AC, per module
    module_charge_kw: float
    inverter_kw: float
    unit_charge_kw: float
    setting_discharge_kw: float
    held_kw: float
    registered_kva: float
    permitted_kva: float | None
    module_weight_kg: float | None
    wall_known: bool
    several: bool = False
    grid: bool = True

    @property
    def owner(self) -> str:
        return self.bank

    @property
    def whose(self) -> str:
        """The unit's name ahead, where there are several."""
        return f"{self.unit}: " if self.several else ""

    def discharge_kw(self, modules: int) -> float:
        return min(self.inverter_kw, modules * self.module_discharge_kw, self.setting_discharge_kw)


def count_words(modules: int) -> str:
    return f"{modules} module{'s' if modules > 1 else ''}"


def _add(record: BankPower, modules: int) -> Remedy:
    return Remedy(f"Take {modules} battery modules", (Change(f"banks/{record.bank}/modules", modules),))


def sto_power(record: BankPower) -> list[Finding]:
    """Discharge power against the held circuits and the inverter; what one more module brings."""
    now, more = record.discharge_kw(record.modules), record.discharge_kw(record.modules + 1)
    feeding = next((n for n in range(1, 100) if n * record.module_discharge_kw >= record.inverter_kw), 100)
    figure = Figure(
        f"Discharge power of {record.unit}",
        now,
        "kW",
        "min(inverter, n x module limit, setting)",
        (
            Input("inverter", record.inverter_kw, "kW"),
            Input("a module, as AC", record.module_discharge_kw, "kW"),
            Input("setting", record.setting_discharge_kw, "kW"),
            Input("with one more module", more, "kW"),
            Input("modules that feed the inverter fully", float(feeding)),
        ),
        LEAST,
    )
    enough = record.held_kw <= now
    brings = (
        f"one more module brings {text_of(more - now, 'kW')}"
        if more > now + 1e-9
        else "one more module brings no more power"
    )
    alone = (
        "One module alone can feed the inverter"
        if feeding == 1
        else f"It takes {feeding} modules to feed the inverter fully"
    )
    text = f"{record.whose}{count_words(record.modules)} give{'s' if record.modules == 1 else ''} {text_of(now, 'kW')}; the held circuits run at {text_of(record.held_kw, 'kW')}; {brings}. {alone}."
    wanted = next(
        (n for n in range(record.modules + 1, record.max_modules + 1) if record.discharge_kw(n) >= record.held_kw), None
    )
    return [
        Finding(
            "STO-POWER",
            Verdict.PASSED if enough else Verdict.BLOCKS,
            text,
            figure,
            record.held_kw,
            now - record.held_kw,
            LEAST,
            (),
            (_add(record, wanted),) if not enough and wanted else (),
            "More modules, or hold less.",
        )
    ]


def sto_count(record: BankPower) -> list[Finding]:
    """Module count within the stack's limits."""
    figure = Figure(
        "Battery modules",
        float(record.modules),
        "",
        "count",
        (Input("least", float(record.min_modules)), Input("most", float(record.max_modules))),
        SHEET,
    )
    few, many = record.modules < record.min_modules, record.modules > record.max_modules
    near = record.min_modules if few else record.max_modules
    text = f"{record.whose}{count_words(record.modules)}; the stack takes {record.min_modules} to {record.max_modules}."
    return [
        Finding(
            "STO-COUNT",
            Verdict.BLOCKS if few or many else Verdict.PASSED,
            text,
            figure,
            float(record.max_modules),
            float(record.max_modules - record.modules),
            SHEET,
            (),
            (_add(record, near),) if few or many else (),
            f"Take {record.min_modules} to {record.max_modules}.",
        )
    ]


def sto_grow(record: BankPower) -> list[Finding]:
    """What the next module needs: room in the stack, power, permission, hands."""
    left = record.max_modules - record.modules
    more = record.discharge_kw(record.modules + 1) - record.discharge_kw(record.modules)
    room = None if record.permitted_kva is None else record.permitted_kva - record.registered_kva
    figure = Figure(
        "Modules that can still be added",
        float(left),
        "",
        "most − present",
        (
            Input("power each brings", more, "kW"),
            Input("permission left on the phase", room if room is not None else "unknown", "kVA"),
        ),
        SHEET,
    )
    allowed = (
        "and needs no further permission as long as the inverter stays"
        if record.grid
        else "as long as the inverter stays"
    )
    weight = f" Each weighs {text_of(record.module_weight_kg, 'kg', 0)}." if record.module_weight_kg else ""
    text = (
        f"{record.whose}{left} more module{'s' if left > 1 else ''} fit{'' if left > 1 else 's'} the stack; the next brings {text_of(more, 'kW')} {allowed}.{weight}"
        if left > 0
        else f"{record.whose}The stack is full: growing needs a further unit, its place and its permission."
    )
    because = () if record.wall_known else ("the place on the wall isn't planned yet",)
    return [
        Finding(
            "STO-GROW",
            Verdict.NOTES if left <= 0 else Verdict.PASSED,
            text,
            figure,
            None,
            None,
            SHEET,
            because,
            (),
            "Leave room for the next module.",
        )
    ]
