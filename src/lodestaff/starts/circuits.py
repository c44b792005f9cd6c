"""Circuits to begin with, for a house, a workshop and a station: invented, to be measured and changed."""

from dataclasses import dataclass

from lodestaff.job import Circuit, Role
from lodestaff.starts.wanted import Wanted

ALWAYS = (1.0,) * 24
DAY = (0.0,) * 7 + (1.0,) * 11 + (0.2,) * 4 + (0.0,) * 2
EVENING = (0.1,) * 6 + (0.8,) * 2 + (0.3,) * 8 + (1.0,) * 6 + (0.3,) * 2
NIGHT = (1.0,) * 6 + (0.1,) * 16 + (1.0,) * 2


@dataclass(frozen=True)
class Row:
    """A circuit in short; `wide` takes both legs or all phases where there are several."""

    id: str
    name: str
    watts: float
    kwh: float
    role: Role
    minutes: float | None = None
    hours: tuple[float, ...] = EVENING
    power_factor: float = 1.0
    start: float = 1.0
    kind: str = "general"
    wide: bool = False


HELD, SHED, GRID, LOCKED = Role.HELD, Role.SHED, Role.GRID, Role.LOCKED
HOUSE = (
    Row("fridge", "Fridge and freezer", 180, 620, HELD, 12, ALWAYS, 0.8, 5, "motor"),
    Row("lights-down", "Lights downstairs", 160, 260, HELD, 45),
    Row("lights-up", "Lights upstairs", 120, 160, HELD, 40),
    Row("router", "Network and phones", 45, 380, HELD, None, ALWAYS, 0.9),
    Row("boiler", "Boiler and pump", 140, 320, HELD, 30, EVENING, 0.9, 2.5, "motor"),
    Row("sockets", "Living-room sockets", 500, 780, HELD, 25, EVENING, 0.97),
    Row("kitchen", "Kitchen sockets", 1400, 620, SHED, 8),
    Row("water", "Immersion heater", 2800, 1500, GRID, 40, NIGHT, kind="heating"),
    Row("oven", "Oven", 2400, 380, GRID, 35),
    Row("laundry", "Washing and drying", 2100, 520, GRID, 50, DAY),
    Row("hob", "Hob", 3200, 420, GRID, 20, wide=True),
)
WORKSHOP = (
    Row("lights", "Workshop lights", 420, 760, HELD, 90, DAY),
    Row("office", "Office sockets", 380, 640, HELD, 40, DAY, 0.95),
    Row("server", "Server and network", 150, 1250, HELD, None, ALWAYS, 0.95),
    Row("freezer", "Freezer", 210, 700, HELD, 14, ALWAYS, 0.8, 5, "motor"),
    Row("gate", "Gate and alarm", 60, 390, HELD, None, ALWAYS, 0.9),
    Row("compressor", "Compressor", 1500, 620, SHED, 6, DAY, 0.8, 4, "motor"),
    Row("saw", "Saw bench", 2200, 380, GRID, 8, DAY, 0.8, 4.5, "motor"),
    Row("extract", "Dust extraction", 1100, 520, GRID, 30, DAY, 0.8, 4, "motor"),
    Row("heat", "Warm-air heater", 3000, 1900, GRID, 30, DAY, kind="heating"),
    Row("hoist", "Hoist", 2600, 160, GRID, 4, DAY, 0.75, 4, "motor", True),
)
STATION = (
    Row("well", "Well pump", 1300, 720, HELD, 7, DAY, 0.78, 5.5, "motor", True),
    Row("freezers", "Specimen freezers", 480, 2100, HELD, 15, ALWAYS, 0.8, 4.5, "motor"),
    Row("radio", "Radio and network", 90, 780, HELD, None, ALWAYS, 0.95),
    Row("lab-lights", "Laboratory lights", 320, 560, HELD, 60, EVENING),
    Row("lab", "Laboratory sockets", 700, 900, HELD, 30, DAY, 0.97),
    Row("cabin", "Cabin sockets", 450, 700, HELD, 30, EVENING, 0.97),
    Row("kitchen", "Kitchen", 1500, 720, SHED, 12),
    Row("bunk", "Bunkhouse lights", 200, 260, HELD, 50),
    Row("shop", "Shop sockets", 900, 380, SHED, 15, DAY),
    Row("cool", "Cooler", 1400, 900, SHED, 20, DAY, 0.85, 4, "motor", True),
    Row("dryer", "Dryer", 4200, 420, GRID, 40, DAY, wide=True, kind="heating"),
    Row("range", "Range", 5200, 460, GRID, 25, EVENING, wide=True, kind="heating"),
    Row("water", "Water heater", 3800, 1700, GRID, 40, NIGHT, wide=True, kind="heating"),
    Row("laundry", "Laundry", 900, 210, GRID, 45, DAY),
    Row("yard", "Yard lights", 260, 300, GRID, 120, NIGHT),
)
SETS = {"house": HOUSE, "workshop": WORKSHOP, "station": STATION}
CHARGER = Row("charger", "Car charger", 7000, 1900, LOCKED, 150, NIGHT, kind="car charger", wide=True)
SURPLUS = (
    Row("element-1", "Water element, surplus", 1500, 900, GRID, 60, DAY, kind="heating"),
    Row("element-2", "Buffer element, surplus", 1500, 700, GRID, 60, DAY, kind="heating"),
)
TANK = Row("tank", "Tank with two elements", 2000, 1100, GRID, 45, NIGHT, kind="heating")
COOLER = Row("sun-cooler", "Cooler with its own solar input", 600, 500, GRID, 30, DAY, 0.9, kind="general")


def circuit(row: Row, phase: str, role: Role | None = None, board: str = "", also_on: str = "") -> Circuit:
    """The circuit of a row on a phase."""
    return Circuit(
        id=row.id, name=row.name, phase=phase, role=role or row.role, running_w=row.watts, kwh_year=row.kwh,
        event_minutes=row.minutes, weekday=row.hours, weekend=row.hours, power_factor=row.power_factor,
        start_multiple=row.start, start_s=0.4 if row.start > 1 else 0, kind=row.kind,
        board=board, also_on=also_on,
    )  # fmt: skip


def base_circuits(wanted: Wanted) -> tuple[Circuit, ...]:
    """The set's circuits dealt over the phases in turn, heavy ones across both legs where the supply has two."""
    phases = wanted.phases
    across = "+".join(phases) if wanted.split or wanted.system == "three phases" else ""
    found, turn = [], 0
    for row in SETS[wanted.circuits]:
        if row.wide and across:
            found.append(circuit(row, across))
        else:
            found.append(circuit(row, phases[turn % len(phases)]))
            turn += 1
    return tuple(found)
