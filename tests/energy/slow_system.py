"""An independent, slow simulator of any units on their controllers, step by step, in plain words.

It shares no formula with the loop: AC from DC is found by bisection, each controller is a person who first
feeds what it sees with the sun, stores what is over, lets out what may go out, and then takes from batteries
what is missing. Several share what is asked of them in proportion to what each could do.
"""

from tests.energy.slow import ac_of, dc_of


def shares(asked, able):
    """What each of several does of what is asked: all it can where that isn't enough, else its part."""
    whole = sum(able.values())
    if whole <= asked:
        return dict(able)
    return {who: asked * each / whole for who, each in able.items()}


class Battery:
    def __init__(self, bank, kwh, dt):
        self.kwh, self.dt = kwh, dt
        self.bank = bank

    def takes(self):
        """DC power that it takes now."""
        b, limit = self.bank, self.bank["charge_kw"]
        if self.kwh > b["taper"]:
            limit *= 1 - (1 - b["taper_end"]) * (self.kwh - b["taper"]) / (b["top"] - b["taper"])
        return max(0.0, min(limit, (b["top"] - self.kwh) / b["eta_in"] / self.dt))

    def gives(self):
        """DC power that it gives now."""
        b = self.bank
        return max(0.0, min(b["discharge_kw"], (self.kwh - b["floor"]) * b["eta_out"] / self.dt))

    def put(self, kw):
        self.kwh += kw * self.bank["eta_in"] * self.dt

    def draw(self, kw):
        self.kwh -= kw / self.bank["eta_out"] * self.dt


def simulate(units, ranks, sun, load, told, begin, dt):
    """Energies by unit and step, and what units give to AC. `units`: dicts of plain numbers with a bank or
    None; `ranks`: lists of groups (members, sees, export, import); `told`: by unit and step None or
    (target, kW); `begin`: energies.
    """
    batteries = {u: Battery(unit["bank"], begin[u], dt) for u, unit in enumerate(units) if unit["bank"]}
    energies, outs = [], []
    for t in range(len(sun[0])):
        out = {}
        for rank in ranks:
            for group in rank:
                _act(units, group, sun, load[group["name"]][t], told, t, batteries, out)
        outs.append([out[u] for u in range(len(units))])
        energies.append([batteries[u].kwh if u in batteries else 0.0 for u in range(len(units))])
    return energies, outs


def _act(units, group, sun, load, told, t, batteries, out):
    members = group["members"]
    seen = load - sum(out[u] for u in group["sees"])
    need, others = max(0.0, seen), max(0.0, -seen)
    usable = {u: min(sun[u][t], units[u]["most_dc"]) for u in members}
    charging = {
        u for u in members if told[u][t] is not None and u in batteries and batteries[u].kwh < told[u][t][0]
    }

    def ac(u, dc):
        return min(units[u]["rated"], ac_of(dc, units[u]["k1"], units[u]["k2"])) if dc > 0 else 0.0

    def dc(u, power):
        return dc_of(power, units[u]["k1"], units[u]["k2"])

    direct = shares(need, {u: 0.0 if u in charging else ac(u, usable[u]) for u in members})
    left = {u: max(0.0, usable[u] - dc(u, direct[u])) for u in members}
    left = {u: kw if kw > 1e-9 else 0.0 for u, kw in left.items()}
    room = {u: batteries[u].takes() if u in batteries else 0.0 for u in members}
    stored = {u: min(left[u], room[u]) for u in members}
    extra = {
        u: max(0.0, ac(u, dc(u, direct[u]) + left[u] - stored[u]) - direct[u])
        if left[u] - stored[u] > 1e-12
        else 0.0
        for u in members
    }
    surplus = sum(extra.values())
    takers = {
        u: min(units[u]["rated"], dc(u, room[u] - stored[u]))
        for u in members
        if u in batteries
        and units[u]["ac_charge"]
        and direct[u] == 0
        and extra[u] == 0
        and surplus + others > 0
    }
    taken = shares(surplus + others, takers)
    over = max(0.0, surplus + others - sum(taken.values()))
    cut = min(max(0.0, over - group["export"]), min(over, surplus))
    made = {u: direct[u] + (extra[u] * (surplus - cut) / surplus if surplus > 0 else 0.0) for u in members}
    for u in members:
        if u in batteries:
            batteries[u].put(stored[u] + ac_of(taken.get(u, 0.0), units[u]["k1"], units[u]["k2"]))
    grid = need - sum(direct.values()) - over + cut
    given = dict.fromkeys(members, 0.0)
    missing = max(0.0, grid)
    asked = {}
    for u in members:
        window = told[u][t] if u in batteries else None
        busy = stored[u] > 0 or taken.get(u, 0.0) > 0
        if window is not None:
            target, most = window
            if batteries[u].kwh < target and made[u] == 0:
                in_already = stored[u] + ac_of(taken.get(u, 0.0), units[u]["k1"], units[u]["k2"])
                bank = batteries[u].bank
                gap = (target - batteries[u].kwh) / bank["eta_in"] / batteries[u].dt
                free = min(room[u] - in_already, gap)
                asked[u] = max(0.0, min(most, units[u]["rated"] - taken.get(u, 0.0), dc(u, max(0.0, free))))
        elif u in batteries and not busy and missing > 0:
            can = ac(u, dc(u, made[u]) + batteries[u].gives()) - made[u]
            given[u] = max(0.0, can)
    given = shares(missing, given)
    bought = shares(max(0.0, group["import"] - missing), asked)
    for u in members:
        if given[u] > 0:
            batteries[u].draw(dc(u, made[u] + given[u]) - dc(u, made[u]))
        if u in bought:
            batteries[u].put(ac_of(bought[u], units[u]["k1"], units[u]["k2"]))
        out[u] = made[u] + given[u] - taken.get(u, 0.0) - bought.get(u, 0.0)
