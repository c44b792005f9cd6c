"""An independent, slow simulator of a network without the operator's grid, step by step, in plain words.

It shares no formula with the loop: AC from DC is found by bisection. A person stands at the board: first
drops what is to be dropped, then starts or stops the generator, then feeds the circuits: from the generator
while it runs, else from what follows on AC, then from the units' own sun, then from batteries. What is over
is stored.
"""

from tests.energy.slow import ac_of, dc_of
from tests.energy.slow_system import Battery, shares

COMES_BACK = 0.1  # of the usable energy above its level


class Board:
    """What is dropped first, by its level of charge; the highest level is dropped first of all."""

    def __init__(self, dropped, batteries):
        self.dropped = sorted(
            dropped, key=lambda one: one["level"]
        )  # each: level (share of capacity), kw by step
        self.off = set()
        self.capacity = sum(b.bank["capacity"] for b in batteries)
        self.span = sum(b.bank["top"] - b.bank["floor"] for b in batteries)

    def look(self, energy):
        for level in {one["level"] for one in self.dropped}:
            if energy <= level * self.capacity:
                self.off |= {n for n, one in enumerate(self.dropped) if one["level"] >= level}
        for level in sorted({one["level"] for one in self.dropped}):
            lower_off = any(self.dropped[n]["level"] < level for n in self.off)
            if energy > level * self.capacity + COMES_BACK * self.span and not lower_off:
                self.off -= {n for n, one in enumerate(self.dropped) if one["level"] == level}


def simulate(units, sun, held, dropped, followed, generator, dt, steps):
    """Rows by step: energies, unserved, from the generator. `units`: plain numbers, with a bank each;
    `generator`: None or power, start, stop (shares of charge), lead (a unit or None), may and must by step,
    charger by unit.
    """
    batteries = [Battery(unit["bank"], unit["bank"]["begin"], dt) for unit in units]
    board, running, rows = Board(dropped, batteries), False, []
    for t in range(steps):
        board.look(sum(b.kwh for b in batteries))
        running = generator is not None and _calls(generator, batteries, running, t)
        power = generator["power"] if running else 0.0
        usable = [min(sun[u][t], unit["most_dc"]) for u, unit in enumerate(units)]
        able = followed[t] + power
        for u, unit in enumerate(units):
            most = usable[u] + batteries[u].gives()
            able += min(unit["rated"], ac_of(most, unit["k1"], unit["k2"]))
        on = [one for n, one in enumerate(board.dropped) if n not in board.off]
        while on and held[t] + sum(one["kw"][t] for one in on) > able:
            level = on[-1]["level"]
            on = [one for one in on if one["level"] != level]
        want = held[t] + sum(one["kw"][t] for one in on)
        wished = held[t] + sum(one["kw"][t] for one in dropped)
        missing, given = _step(units, batteries, usable, followed[t], want, power, generator)
        rows.append(([b.kwh for b in batteries], missing + wished - want, given))
    return rows


def _calls(generator, batteries, running, t):
    if generator["must"][t]:
        return True
    lead = batteries if generator["lead"] is None else [batteries[generator["lead"]]]
    soc = sum(b.kwh for b in lead) / sum(b.bank["capacity"] for b in lead)
    if not generator["may"][t] or soc >= generator["stop"] - 1e-12:
        return False
    return running or soc <= generator["start"] + 1e-12


def _step(units, batteries, usable, followed, want, power, generator):
    count = range(len(units))

    def ac(u, dc):
        return min(units[u]["rated"], ac_of(dc, units[u]["k1"], units[u]["k2"])) if dc > 0 else 0.0

    def dc(u, kw):
        return dc_of(kw, units[u]["k1"], units[u]["k2"])

    from_generator = min(want, power)
    rest = want - from_generator
    from_followers = min(rest, followed)
    rest -= from_followers
    direct = shares(rest, {u: ac(u, usable[u]) for u in count})
    rest = max(0.0, rest - sum(direct.values()))
    left = {u: max(0.0, usable[u] - dc(u, direct[u])) for u in count}
    left = {u: kw if kw > 1e-9 else 0.0 for u, kw in left.items()}
    room = {u: batteries[u].takes() for u in count}
    stored = {u: min(left[u], room[u]) for u in count}
    over = {u: max(0.0, ac(u, dc(u, direct[u]) + left[u] - stored[u]) - direct[u]) for u in count}
    out, into = dict.fromkeys(count, 0.0), dict.fromkeys(count, 0.0)
    if rest > 0:
        able = {
            u: max(0.0, ac(u, dc(u, direct[u]) + batteries[u].gives()) - direct[u]) if stored[u] == 0 else 0.0
            for u in count
        }
        out = shares(rest, able)
    else:
        spare = followed - from_followers + sum(over.values())
        takers = {
            u: min(units[u]["rated"], dc(u, room[u] - stored[u]))
            if direct[u] == 0 and over[u] < 1e-12
            else 0.0
            for u in count
        }
        into = shares(spare, takers)
    if power > from_generator:
        takers = {
            u: max(
                0.0,
                min(
                    generator["charger"][u],
                    units[u]["rated"] - into[u],
                    dc(u, room[u] - stored[u] - ac_of(into[u], units[u]["k1"], units[u]["k2"])),
                ),
            )
            if out[u] == 0 and direct[u] == 0
            else 0.0
            for u in count
        }
        charged = shares(power - from_generator, takers)
        from_generator += sum(charged.values())
    else:
        charged = dict.fromkeys(count, 0.0)
    for u in count:
        k1, k2 = units[u]["k1"], units[u]["k2"]
        batteries[u].put(stored[u] + ac_of(into[u], k1, k2) + ac_of(charged[u], k1, k2))
        if out[u] > 0:
            batteries[u].draw(dc(u, direct[u] + out[u]) - dc(u, direct[u]))
    return max(0.0, rest - sum(out.values())), from_generator
