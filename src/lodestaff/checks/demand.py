"""Service demand with what is added, by the pack's method and by what the meter logged: LOAD-DEMAND."""

from dataclasses import dataclass

from lodestaff.catalogue.demand import DemandMethod
from lodestaff.checks.finding import Finding, Remedy, Verdict, soft
from lodestaff.electrical.demand import Demand
from lodestaff.job import Change, Circuit, Fact, Permit
from lodestaff.quantities import Figure, Input, Provenance, Source, text_of

SMALLEST_CHARGER_KW = 1.4  # 6 A at 230 V, the least current of a charger


@dataclass(frozen=True)
class ServiceDemand:
    """Demand against the service rating. `logged` is None where no confirmed interval data is there (`why_not`)."""

    method: DemandMethod
    demand: Demand
    phase: str
    logged: Demand | None
    logged_when: str
    why_not: str
    rating: Fact[float]
    rating_word: str
    volts: float
    chargers: tuple[Circuit, ...]
    permits: tuple[Permit, ...]
    soft_facts: tuple[str, ...]


@dataclass(frozen=True)
class Explained:
    """What the meter logged against the circuits' timetables, kWh a year, and the cures."""

    measured_kwh: float
    circuits_kwh: float
    unexplained_kwh: float
    over_kwh: float
    base_kw: float
    base_circuits_kw: float
    span: str
    covered: float
    gaps: int
    cures: tuple[Remedy, ...]


def load_demand(record: ServiceDemand | Explained) -> list[Finding]:
    """Demand by method and by log against the service rating; how far the circuits explain the log."""
    return _explained(record) if isinstance(record, Explained) else _demand(record)


def _demand(record: ServiceDemand) -> list[Finding]:
    """Where demand was logged the log decides, and the method stands beside it as information."""
    method = record.method
    words = f"by {method.name}{f' on {record.phase}' if record.phase else ''}"
    by_method = Verdict.WARNS if record.logged is None else Verdict.NOTES
    found = [_against(record, words, record.demand, method.cite(), record.soft_facts, by_method)]
    if record.logged is not None:
        source = Source(method.logged_source, Provenance.COMMON_PRACTICE)
        found.append(
            _against(record, f"by the meter's log, {record.logged_when}", record.logged, source, (), Verdict.BLOCKS)
        )
    elif record.why_not:
        figure = Figure(
            "Logged demand", 0.0, "kW", "highest mean of an interval", (Input("data", record.why_not),), method.cite()
        )
        found.append(Finding("LOAD-DEMAND", Verdict.NOTES, f"No demand was logged: {record.why_not}.", figure, None, None,
                             method.cite(), ("logged demand is unknown",), (), "Ask for a year of interval data."))  # fmt: skip
    return found


def _against(
    record: ServiceDemand, words: str, demand: Demand, source: Source, because: tuple[str, ...], verdict: Verdict
) -> Finding:
    limit = record.rating.value
    figure = Figure(f"Service demand {words}", demand.current_a, "A", "parts as the method counts them",
                    (*(Input(part, value, unit) for part, value, unit in demand.parts),
                     Input("next standard rating", demand.service_a or "none so large", "A", record.method.standard_source)),
                    source)  # fmt: skip
    over = limit is not None and demand.current_a > limit * (1 + 1e-9)
    rated = (
        f"the {record.rating_word} is {text_of(limit, 'A', 0)}"
        if limit is not None
        else f"the {record.rating_word} isn't known"
    )
    size = f"; the next standard size is {demand.service_a:g} A" if demand.service_a and over else ""
    return Finding(
        "LOAD-DEMAND", verdict if over else Verdict.PASSED,
        f"Demand {words}: {text_of(demand.current_a, 'A')}; {rated}{size}.", figure, limit,
        None if limit is None else limit - demand.current_a, source,
        soft(**{record.rating_word.replace(" ", "_"): record.rating}) + because,
        _cures(record, demand) if over else (), "Manage the charger's current, move loads, or ask for a larger supply.",
        tuple(c.id for c in record.chargers),
    )  # fmt: skip


def _cures(record: ServiceDemand, demand: Demand) -> tuple[Remedy, ...]:
    limit = record.rating.value or 0.0
    cures = []
    for c in record.chargers[:1]:
        left_kw = c.running_w / 1000 - (demand.current_a - limit) * record.volts * len(c.legs) / 1000
        kw = int(left_kw * 10) / 10
        if kw >= SMALLEST_CHARGER_KW and c.kwh_year <= kw * 8760:
            path = f"circuits/{c.id}"
            changes = (Change(f"{path}/running_w", kw * 1000), Change(f"{path}/planned_w", c.planned_w or c.running_w))
            cures.append(Remedy(f"Hold {c.name} to {text_of(kw, 'kW')}", changes))
    if demand.service_a and not any(one.kind == "main fuse" for one in record.permits):
        cures.append(larger_supply(record.permits, demand.service_a))
    return tuple(cures)


def larger_supply(permits: tuple[Permit, ...], amps: float) -> Remedy:
    """A note that a larger supply is to be asked for."""
    rows = [one.model_dump(mode="json") for one in permits]
    new = Permit(id="main-fuse", kind="main fuse", state="not asked", value=amps).model_dump(mode="json")
    return Remedy(f"Note that {amps:g} A is to be asked for", (Change("site/permits", [*rows, new]),))


def _explained(record: Explained) -> list[Finding]:
    source = Source("means by month, kind of day and hour: what both have is explained", Provenance.DERIVED)
    share = 1 - record.unexplained_kwh / record.measured_kwh if record.measured_kwh > 0 else 0.0
    figure = Figure(
        "Explained of what the meter logged", share * 100, "%", "1 − sum(max(0, logged − circuits)) / sum(logged)",
        (Input("logged, a year", record.measured_kwh, "kWh", record.span), Input("circuits, a year", record.circuits_kwh, "kWh"),
         Input("not in the list", record.unexplained_kwh, "kWh"), Input("in the list, not logged", record.over_kwh, "kWh"),
         Input("always drawn: logged", record.base_kw, "kW"), Input("always drawn: circuits", record.base_circuits_kw, "kW"),
         Input("days with values", record.covered * 100, "%"), Input("gaps", record.gaps)), source,
    )  # fmt: skip
    poor = share < 0.8 or record.over_kwh > 0.2 * record.measured_kwh
    text = (f"The circuits explain {share * 100:.0f} % of what the meter logged; {text_of(record.unexplained_kwh, 'kWh', 0)} a year are "
            f"in no circuit, and {text_of(record.over_kwh, 'kWh', 0)} of the circuits' were not logged.")  # fmt: skip
    return [Finding("LOAD-DEMAND", Verdict.NOTES if poor else Verdict.PASSED, text, figure, 80.0, share * 100 - 80.0, source, (),
                    record.cures if poor else (), "List what is missing, or bring the circuits' energy to the log.")]  # fmt: skip
