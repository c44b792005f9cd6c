"""Service demand with what is added, by the pack's method and by what the meter logged: LOAD-DEMAND."""

from dataclasses import dataclass

from lodestaff.catalogue.demand import DemandMethod
from lodestaff.checks.check import check
from lodestaff.checks.finding import Finding, Findings, Remedy, Verdict, soft
from lodestaff.checks.makers import at_least, at_most, open_
from lodestaff.electrical.demand import Demand
from lodestaff.job import Change, Circuit, Fact, Permit
from lodestaff.quantities import Input, Provenance, Source, text_of
from lodestaff.quantities.convention import plain

SMALLEST_CHARGER_KW = 1.4  # 6 A at 230 V, the least current of a charger
BOTH = Source("means by month, kind of day and hour: what both have is explained", Provenance.DERIVED)


@dataclass(frozen=True)
class ServiceDemand:
    """Demand against the service rating. `logged` is None where no confirmed interval data is there
    (`why_not`)."""

    method: DemandMethod
    demand: Demand
    phase: str
    logged: Demand | None
    logged_when: str
    why_not: str
    rating: Fact[float]
    volts: float
    chargers: tuple[Circuit, ...]
    permits: tuple[Permit, ...]
    soft_facts: tuple[str, ...]


@check("LOAD-DEMAND", "service", station="loads", rests_on="pack's method, interval data")
def load_demand(record: ServiceDemand) -> Findings:
    """Is the service demand, with what is added, within the service rating?"""
    method, logged = record.method, record.logged
    words = f"by {method.name}{f' on {record.phase}' if record.phase else ''}"
    by_method = Verdict.WARNS if logged is None else Verdict.NOTES
    yield _against(
        record, record.demand, words=words, source=method.cite(), worse=by_method, quantity="by method"
    )
    if logged is not None:
        source = Source(method.logged_source, Provenance.COMMON_PRACTICE)
        words = f"by the meter's log, {record.logged_when}"
        yield _against(record, logged, words=words, source=source, worse=Verdict.BLOCKS, quantity="logged")
    elif record.why_not:
        yield open_(
            text=f"No demand was logged: {record.why_not}.",
            because=("logged demand is unknown",),
            value=0.0,
            unit="kW",
            name="Logged demand",
            formula="highest mean of an interval",
            inputs=(Input("data", record.why_not),),
            source=method.cite(),
            quantity="logged",
            advice="Ask for a year of interval data.",
        )


def _against(
    record: ServiceDemand, demand: Demand, *, words: str, source: Source, worse: Verdict, quantity: str
) -> Finding:
    limit, amps, next_a = record.rating.value, demand.current_a, demand.service_a
    rated = "isn't known" if limit is None else f"is {text_of(limit, 'A', 0)}"
    over = limit is not None and amps > limit * (1 + 1e-9)
    size = f"; the next standard size is {plain(next_a)} A" if next_a and over else ""
    because = record.soft_facts if quantity == "by method" else ()
    next_size = Input("next standard rating", next_a or "none so large", "A", record.method.standard_source)
    return at_most(
        value=amps,
        limit=limit,
        unit="A",
        worse=worse,
        text=f"Demand {words}: {text_of(amps, 'A')}; the service rating {rated}{size}.",
        name=f"Service demand {words}",
        formula="parts as the method counts them",
        inputs=(*(Input(part, value, unit) for part, value, unit in demand.parts), next_size),
        source=source,
        because=soft(service_rating=record.rating) + because,
        cures=lambda: _cures(record, demand),
        advice="Manage the charger's current, move loads, or ask for a larger supply.",
        subjects=tuple(c.id for c in record.chargers),
        quantity=quantity,
    )


def _cures(record: ServiceDemand, demand: Demand) -> tuple[Remedy, ...]:
    limit = record.rating.value or 0.0
    cures = []
    for c in record.chargers[:1]:
        left_kw = c.running_w / 1000 - (demand.current_a - limit) * record.volts * len(c.legs) / 1000
        kw = int(left_kw * 10) / 10
        if kw >= SMALLEST_CHARGER_KW and c.kwh_year <= kw * 8760:
            path = f"circuits/{c.id}"
            changes = (
                Change(f"{path}/running_w", kw * 1000),
                Change(f"{path}/planned_w", c.planned_w or c.running_w),
            )
            cures.append(Remedy(f"Hold {c.name} to {text_of(kw, 'kW')}", changes))
    if demand.service_a and not any(permit.kind == "main fuse" for permit in record.permits):
        cures.append(larger_supply(record.permits, demand.service_a))
    return tuple(cures)


def larger_supply(permits: tuple[Permit, ...], amps: float) -> Remedy:
    """A note that a larger supply is to be asked for."""
    rows = [permit.model_dump(mode="json") for permit in permits]
    new = Permit(id="main-fuse", kind="main fuse", state="not asked", value=amps).model_dump(mode="json")
    return Remedy(f"Note that {plain(amps)} A is to be asked for", (Change("site/permits", [*rows, new]),))


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


@check("LOAD-DEMAND", "meter", station="loads", rests_on="interval data")
def load_explained(record: Explained) -> Findings:
    """How much of what the meter logged do the circuits explain?"""
    logged, missing, over = record.measured_kwh, record.unexplained_kwh, record.over_kwh
    share = 100 * (1 - missing / logged) if logged > 0 else 0.0
    yield at_least(
        value=share,
        limit=80.0,
        unit="%",
        worse=Verdict.NOTES,
        kept=share >= 80.0 and over <= 0.2 * logged,
        text=f"The circuits explain {plain(share, 0)} % of what the meter logged; "
        f"{text_of(missing, 'kWh', 0)} a year are "
        f"in no circuit, and {text_of(over, 'kWh', 0)} of the circuits' were not logged.",
        name="Explained of what the meter logged",
        formula="1 − sum(max(0, logged − circuits)) / sum(logged)",
        inputs=(
            Input("logged, a year", logged, "kWh", record.span),
            Input("circuits, a year", record.circuits_kwh, "kWh"),
            Input("not in the list", missing, "kWh"),
            Input("in the list, not logged", over, "kWh"),
            Input("always drawn: logged", record.base_kw, "kW"),
            Input("always drawn: circuits", record.base_circuits_kw, "kW"),
            Input("days with values", record.covered * 100, "%"),
            Input("gaps", record.gaps),
        ),
        source=BOTH,
        cures=record.cures,
        advice="List what is missing, or bring the circuits' energy to the log.",
    )
