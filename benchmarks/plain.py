"""The year's rule and an outage as one would write them over lists of numbers, for one hybrid on one
phase.
"""

from math import sqrt


def year(unit, bank, sun, load, export_kw):
    """Import, export, curtailed kWh of a year of lists; `unit` is (rated, k1, k2, most DC), `bank` (floor,
    top, charge, discharge, eta in, eta out, taper, taper end).
    """
    rated, k1, k2, most_dc = unit
    floor, top, charge, discharge, eta_in, eta_out, taper, end = bank
    b = 1.0 + k1
    e, dt = floor, 0.25
    bought = sold = lost = 0.0
    for available, need in zip(sun, load, strict=True):
        available = min(available, most_dc)
        ac = min(need, rated, 2 * available / (b + sqrt(b * b + 4 * k2 * available)))
        left = max(0.0, available - ac * (1 + k1) - k2 * ac * ac)
        limit = charge if e <= taper else charge * (1 - (1 - end) * (e - taper) / (top - taper))
        stored = max(0.0, min(left, limit, (top - e) / eta_in / dt))
        e += stored * eta_in * dt
        left -= stored
        dc = ac * (1 + k1) + k2 * ac * ac + left
        most = min(rated, 2 * dc / (b + sqrt(b * b + 4 * k2 * dc)))
        exported = min(max(0.0, most - ac), export_kw)
        lost += max(0.0, most - ac - exported)
        sold += exported
        grid = need - ac
        if grid > 0 and stored == 0:
            give = max(0.0, min(discharge, (e - floor) * eta_out / dt))
            base = ac * (1 + k1) + k2 * ac * ac
            dc = base + give
            out = max(0.0, min(grid, rated - ac, 2 * dc / (b + sqrt(b * b + 4 * k2 * dc)) - ac))
            e -= ((ac + out) * (1 + k1) + k2 * (ac + out) ** 2 - base) / eta_out * dt
            grid -= out
        bought += grid
    return bought * dt, sold * dt, lost * dt


def outage(unit, bank, sun, load, start, energy, horizon):
    """Steps that an outage lasts on one hybrid, as long as what is held can be carried."""
    rated, k1, k2, most_dc = unit
    floor, top, charge, discharge, eta_in, eta_out, taper, end = bank
    e, dt, n = energy, 0.25, len(sun)
    for i in range(horizon):
        t = (start + i) % n
        need = load[t]
        if need > rated:
            return i
        available, wanted = min(sun[t], most_dc), need * (1 + k1) + k2 * need * need
        if available >= wanted:
            limit = charge if e <= taper else charge * (1 - (1 - end) * (e - taper) / (top - taper))
            e += max(0.0, min(available - wanted, limit, (top - e) / eta_in / dt)) * eta_in * dt
        else:
            drawn = wanted - available
            if drawn > discharge or drawn / eta_out * dt > e - floor:
                return i
            e -= drawn / eta_out * dt
    return horizon
