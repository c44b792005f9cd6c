"""An independent, slow simulator of one DC-coupled hybrid on one phase, in plain words.

It shares no formula with the kernel: AC from DC is found by bisection, the rule is written as what a
person would do by hand, energies are booked in kWh.
"""


def ac_of(dc, k1, k2):
    """The AC power whose loss curve asks for this DC power, by bisection."""
    low, high = 0.0, dc
    for _ in range(200):
        middle = (low + high) / 2
        if middle + k1 * middle + k2 * middle * middle > dc:
            high = middle
        else:
            low = middle
    return low


def dc_of(ac, k1, k2):
    return ac * (1 + k1) + k2 * ac**2


def simulate(unit, battery, pv, load, export_kw, import_kw, windows, energy, dt):
    """`unit` and `battery` are dicts of plain numbers; `windows` per step None or (target kWh, kW)."""
    rows = []
    for sun, need, window in zip(pv, load, windows, strict=True):
        k1, k2, rated = unit["k1"], unit["k2"], unit["rated_kw"]
        usable = min(sun, unit["pv_max_kw"])
        charging = window is not None and energy < window[0]
        # what the battery takes now
        limit = battery["charge_kw"]
        if energy > battery["taper"]:
            share = (energy - battery["taper"]) / (battery["top"] - battery["taper"])
            limit *= 1 - (1 - battery["taper_end"]) * share
        room = max(0.0, min(limit, (battery["top"] - energy) / (battery["eta_charge"] * dt)))
        # sun to the circuits
        direct = 0.0 if charging else min(need, rated, ac_of(usable, k1, k2))
        rest = usable - dc_of(direct, k1, k2)
        rest = rest if rest > 1e-9 else 0.0
        # sun into the battery
        stored = min(rest, room)
        rest -= stored
        # sun to the grid
        possible = min(rated, ac_of(dc_of(direct, k1, k2) + rest, k1, k2))
        exported = min(possible - direct, export_kw)
        pv_ac = direct + exported
        energy += stored * battery["eta_charge"] * dt
        missing = need - direct
        battery_ac = 0.0
        if window is not None:
            if energy < window[0] and pv_ac == 0:
                gap = (window[0] - energy) / battery["eta_charge"] / dt
                top_up = max(0.0, min(limit - stored, gap))
                taken = min(window[1], rated, max(0.0, import_kw - missing), dc_of(top_up, k1, k2))
                energy += ac_of(taken, k1, k2) * battery["eta_charge"] * dt
                battery_ac = -taken
        elif missing > 0 and stored == 0:
            most = max(
                0.0, min(battery["discharge_kw"], (energy - battery["floor"]) * battery["eta_discharge"] / dt)
            )
            given = min(missing, rated - pv_ac, ac_of(dc_of(pv_ac, k1, k2) + most, k1, k2) - pv_ac)
            given = max(0.0, given)
            energy -= (dc_of(pv_ac + given, k1, k2) - dc_of(pv_ac, k1, k2)) / battery["eta_discharge"] * dt
            battery_ac = given
        rows.append(
            {"pv_ac": pv_ac, "battery_ac": battery_ac, "grid": need - pv_ac - battery_ac, "energy": energy}
        )
    return rows


def outage_hours(unit, battery, pv, held, start, energy, dt, parts):
    """Hours until the battery is at its floor, in steps of dt / parts, or None where all of `held` passes."""
    small = dt / parts
    for index in range(start, len(held)):
        need = dc_of(held[index], unit["k1"], unit["k2"])
        flow = min(pv[index], unit["pv_max_kw"]) - need
        for part in range(parts):
            if flow >= 0:
                energy = min(
                    battery["top"], energy + min(flow, battery["charge_kw"]) * battery["eta_charge"] * small
                )
            else:
                energy += flow / battery["eta_discharge"] * small
            if energy < battery["floor"]:
                return (index - start) * dt + part * small
    return None
