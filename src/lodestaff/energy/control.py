"""Who leads which units: controllers, what each sees, and the limits that it keeps."""

from dataclasses import dataclass

import numpy as np

from lodestaff.energy import records
from lodestaff.energy.calendar import Floats


@dataclass(frozen=True)
class Controller:
    """Units (by index) that act together on what their transformer sees.

    `load_kw` of shape (step,) is what it sees drawn, own use of its units left out; `sees` the units led by
    others whose power passes it. Controllers of one `limit` keep it in sum. `peak_kw` is what batteries that
    shave keep the import below, `spared_kw` what they never serve, shape (step,).
    """

    units: tuple[int, ...]
    load_kw: Floats
    sees: tuple[int, ...] = ()
    limit: int = 0
    export_kw: float = np.inf
    import_kw: float = np.inf
    peak_kw: float = np.inf
    spared_kw: Floats | None = None


def ranked(controllers: tuple[Controller, ...]) -> list[list[Controller]]:
    """Controllers in the order in which they act: whoever is seen before those who see it.

    Those that see each other act as one would in the end: they are merged, each with its own limit kept by
    all.
    Derived: strongly connected groups in topological order.
    """
    merged = _merged(list(controllers))
    ranks: list[list[Controller]] = []
    left = list(merged)
    while left:
        waiting = {unit for controller in left for unit in controller.units}
        now = [
            controller for controller in left if not (waiting - set(controller.units)) & set(controller.sees)
        ]
        assert now, "controllers that see each other are merged"
        ranks.append(now)
        left = [controller for controller in left if controller not in now]
    return ranks


def _merged(controllers: list[Controller]) -> list[Controller]:
    """Those that see each other, by any way round, as one."""
    count = len(controllers)
    reach = np.array(
        [
            [bool(set(controller.sees) & set(other.units)) for other in controllers]
            for controller in controllers
        ],
        dtype=bool,
    ).reshape(count, count)
    for through in range(count):
        reach |= reach[:, through, None] & reach[None, through, :]
    groups, done = [], set()
    for index, controller in enumerate(controllers):
        if index in done:
            continue
        circle = [
            other for other in range(count) if other == index or (reach[index, other] and reach[other, index])
        ]
        done |= set(circle)
        groups.append(controller if len(circle) == 1 else _one([controllers[other] for other in circle]))
    return groups


def _one(controllers: list[Controller]) -> Controller:
    """Controllers that see each other: the widest view of them, and the tightest limits."""
    units = tuple(unit for controller in controllers for unit in controller.units)
    widest = max(controllers, key=lambda controller: float(controller.load_kw.sum()))
    spared = [controller.spared_kw for controller in controllers if controller.spared_kw is not None]
    return Controller(
        units,
        widest.load_kw,
        sees=tuple({unit for controller in controllers for unit in controller.sees} - set(units)),
        limit=widest.limit,
        export_kw=min(controller.export_kw for controller in controllers),
        import_kw=min(controller.import_kw for controller in controllers),
        peak_kw=min(controller.peak_kw for controller in controllers),
        spared_kw=spared[0] if spared else None,
    )


def control_arrays(
    controllers: tuple[Controller, ...], own_use_kw: tuple[float, ...]
) -> tuple[records.ControlArrays, np.ndarray]:
    """Controllers as the loop takes them, and by which each unit is led, shape (unit,)."""
    ranks = ranked(controllers)
    flat = [controller for rank in ranks for controller in rank]
    units, steps = len(own_use_kw), flat[0].load_kw.size
    led = np.full(units, -1, dtype=np.int64)
    load, sees = np.empty((len(flat), steps)), np.zeros((len(flat), units))
    for index, controller in enumerate(flat):
        led[list(controller.units)] = index
        load[index] = controller.load_kw + sum(
            own_use_kw[unit] for unit in (*controller.units, *controller.sees)
        )
        sees[index, list(controller.sees)] = 1.0
    assert (led >= 0).all(), "every unit is led by one controller"
    limits = list(dict.fromkeys(controller.limit for controller in flat))
    spared = np.zeros((len(flat), 1))
    if any(controller.spared_kw is not None for controller in flat):
        spared = np.array(
            [np.zeros(steps) if controller.spared_kw is None else controller.spared_kw for controller in flat]
        )

    def least(values: list[tuple[int, float]]) -> Floats:
        return np.array([min(value for at, value in values if at == limit) for limit in limits])

    return records.ControlArrays(
        first=np.array([sum(map(len, ranks[:rank])) for rank in range(len(ranks) + 1)], dtype=np.int64),
        load=load,
        sees=sees,
        limit=np.array([limits.index(controller.limit) for controller in flat], dtype=np.int64),
        export_kw=least([(controller.limit, controller.export_kw) for controller in flat]),
        import_kw=least([(controller.limit, controller.import_kw) for controller in flat]),
        peak_kw=np.array([controller.peak_kw for controller in flat]),
        spared=spared,
    ), led


def plain(
    phases: tuple[int, ...],
    keeps_limit: tuple[bool, ...],
    load_kw: Floats,
    export_kw: float = np.inf,
    import_kw: float = np.inf,
) -> tuple[Controller, ...]:
    """One controller for each phase, that sees all of it; what keeps no limit has one of its own and gives
    all.

    `phases` and `keeps_limit` by unit, load_kw of shape (phase, step). All keep the limits in sum.
    """
    controllers = []
    for phase in dict.fromkeys(phases):
        here = tuple(unit for unit, at in enumerate(phases) if at == phase)
        led = tuple(unit for unit in here if keeps_limit[unit])
        loose = tuple(unit for unit in here if not keeps_limit[unit])
        if led:
            controllers.append(
                Controller(led, load_kw[phase], loose, export_kw=export_kw, import_kw=import_kw)
            )
        controllers += [Controller((unit,), np.zeros(load_kw.shape[1]), limit=1 + unit) for unit in loose]
    return tuple(controllers)
