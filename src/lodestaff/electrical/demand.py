"""Service demand: by the pack's method from the circuits, or from what a meter logged with later loads
added."""

from dataclasses import dataclass

from lodestaff.catalogue.demand import DemandMethod, ShareRule


@dataclass(frozen=True)
class DemandRow:
    """A circuit as a method counts it: what it is for, its apparent power, the current that shares are
    taken of."""

    name: str
    use: str
    va: float
    current_a: float
    with_socket: bool = False  # a cooker whose switch has a socket


@dataclass(frozen=True)
class Demand:
    """Demand in VA and A, part by part (words, value, unit), and the next standard rating."""

    parts: tuple[tuple[str, float, str], ...]
    total_va: float
    current_a: float
    service_a: float | None


def demand(
    rows: tuple[DemandRow, ...], method: DemandMethod, voltage_v: float, floor_m2: float = 0.0
) -> Demand:
    """Demand by a pack's method; `voltage_v` is what the supply's power divides by (both legs: 240 V)."""
    return (
        _optional(rows, method, voltage_v, floor_m2)
        if method.kind == "optional"
        else _shares(rows, method, voltage_v)
    )


def logged_demand(
    logged_kw: float, rows: tuple[DemandRow, ...], method: DemandMethod, voltage_v: float, phases: int = 1
) -> Demand:
    """The highest logged mean x the method's factor, with every later load in full; balanced over the
    phases."""
    counted = logged_kw * 1000 * method.logged_factor
    parts = [("logged, highest", logged_kw * 1000, "VA"), ("logged, counted", counted, "VA")]
    parts += [(f"added: {row.name}", row.va, "VA") for row in rows]
    return _result(parts, counted + sum(row.va for row in rows), voltage_v * phases, method)


def _result(
    parts: list[tuple[str, float, str]], total_va: float, voltage_v: float, method: DemandMethod
) -> Demand:
    amps = total_va / voltage_v
    return Demand(tuple(parts), total_va, amps, method.next_standard_a(amps))


def _shares(rows: tuple[DemandRow, ...], method: DemandMethod, voltage_v: float) -> Demand:
    """sum over classes of what each rule counts: uses of one group are one class. A use without a rule
    counts in full."""
    classes: dict[str, list[DemandRow]] = {}
    for row in rows:
        classes.setdefault(method.rules.get(row.use, ShareRule()).group or row.use, []).append(row)
    parts = []
    for name, members in classes.items():
        ordered = sorted(members, key=lambda row: -row.current_a)
        rule = method.rules.get(ordered[0].use, ShareRule())
        parts.append((name, _class_a(rule, ordered), "A"))
    return _result(parts, sum(amps for _, amps, _ in parts) * voltage_v, voltage_v, method)


def _class_a(rule: ShareRule, ordered: list[DemandRow]) -> float:
    """What a class counts, A; its circuits with the largest first."""
    if rule.together:
        ordered = [
            DemandRow(
                "",
                ordered[0].use,
                0.0,
                sum(row.current_a for row in ordered),
                any(row.with_socket for row in ordered),
            )
        ]
    return sum(_counted(rule, row, index < rule.firsts) for index, row in enumerate(ordered))


def _counted(rule: ShareRule, row: DemandRow, first: bool) -> float:
    if rule.first_a is not None:
        return min(row.current_a, rule.first_a) if first else min(row.current_a, rule.others_a)
    amps = row.current_a
    if rule.whole_a is not None:
        amps = min(amps, rule.whole_a) + rule.beyond * max(0.0, amps - rule.whole_a)
    return amps * (rule.first if first else rule.others) + (rule.plus_a if row.with_socket else 0.0)


def _optional(rows: tuple[DemandRow, ...], method: DemandMethod, voltage_v: float, floor_m2: float) -> Demand:
    """General: area, small-appliance and laundry circuits, nameplates; the first part in full, a share of
    the rest.

    With it the largest of cooling in full, of a heat pump's compressor in full with a share of the heating
    that may run beside it, and of electric heating alone by its share (a smaller one from several units on).
    Lighting and ordinary sockets are in the area.
    """
    circuits = sum(row.use in ("small appliances", "laundry") for row in rows)
    covered = ("small appliances", "laundry", "lighting", "sockets", "cooling", "heat pump", "space heating")
    plates = sum(row.va for row in rows if row.use not in covered)
    general = method.per_m2_va * floor_m2 + method.per_circuit_va * circuits + plates
    counted = min(general, method.whole_va) + method.rest_share * max(0.0, general - method.whole_va)
    heaters = [row.va for row in rows if row.use == "space heating"]
    share = method.heating_many_share if len(heaters) >= method.heating_many else method.heating_share
    pump = sum(row.va for row in rows if row.use == "heat pump")
    warm = pump + method.supplement_share * sum(heaters) if pump else share * sum(heaters)
    climate = max(sum(row.va for row in rows if row.use == "cooling"), warm)
    parts = [("floor area", method.per_m2_va * floor_m2, "VA"), ("small-appliance and laundry circuits",
                                                                 method.per_circuit_va * circuits, "VA"),
             ("nameplates", plates, "VA"), ("general", general, "VA"), ("general, counted", counted, "VA"),
             ("heating or cooling", climate, "VA")]  # fmt: skip
    return _result(parts, counted + climate, voltage_v, method)
