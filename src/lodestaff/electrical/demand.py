"""Service demand by the packs' methods. Both from memory, common in the trade; the values can be corrected."""

from dataclasses import dataclass

STANDARD_A = (60, 70, 80, 90, 100, 110, 125, 150, 175, 200, 225, 250, 300, 350, 400)


@dataclass(frozen=True)
class Demand:
    """Demand in VA and A, part by part, and the next standard rating."""

    parts: tuple[tuple[str, float], ...]
    total_va: float
    current_a: float
    service_a: int | None


def dwelling_optional(
    area_ft2: float, small_appliance: int, laundry: int, nameplates_va: tuple[float, ...], cooling_va: float,
    heating_va: float, heating_units: int, voltage_v: float,
) -> Demand:  # fmt: skip
    """A dwelling by the optional method of NEC 220.82 (from memory).

    general = 3 VA/ft2 + 1500 VA a small-appliance or laundry circuit + nameplates, the first 10 kVA at 100 %, the
    rest at 40 %; with it the larger of cooling and of electric heating (65 %, or 40 % from four units on).
    """
    general = 3 * area_ft2 + 1500 * (small_appliance + laundry) + sum(nameplates_va)
    counted = min(general, 10_000) + 0.4 * max(0.0, general - 10_000)
    climate = max(cooling_va, heating_va * (0.4 if heating_units >= 4 else 0.65))
    total = counted + climate
    amps = total / voltage_v
    size = next((one for one in STANDARD_A if one >= amps), None)
    return Demand(
        (("general", general), ("general, counted", counted), ("heating or cooling", climate)), total, amps, size
    )


def simple_diversity(
    lighting_a: float, sockets_a: tuple[float, ...], cooker_w: float, cooker_socket: bool, shower_w: float,
    charger_a: float, voltage_v: float,
) -> Demand:  # fmt: skip
    """A dwelling by the diversity table of a guide to BS 7671 (from memory; common practice).

    Lighting 66 %; sockets the largest 100 %, others 40 %; cooker 10 A and 30 % of the rest, 5 A for its socket; the
    first shower and a car charger 100 %.
    """
    lighting = 0.66 * lighting_a
    ordered = sorted(sockets_a, reverse=True)
    sockets = sum(ordered[:1]) + 0.4 * sum(ordered[1:])
    full = cooker_w / voltage_v
    cooker = (min(full, 10.0) + 0.3 * max(0.0, full - 10.0) + (5.0 if cooker_socket else 0.0)) if cooker_w else 0.0
    shower = shower_w / voltage_v
    total = lighting + sockets + cooker + shower + charger_a
    parts = (
        ("lighting", lighting),
        ("sockets", sockets),
        ("cooker", cooker),
        ("shower", shower),
        ("charger", charger_a),
    )
    size = next((one for one in STANDARD_A if one >= total), None)
    return Demand(parts, total * voltage_v, total, size)
