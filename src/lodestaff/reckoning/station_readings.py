"""The handful of figures of the Site, Array and Storage stations, from findings and results."""

from lodestaff.checks import Finding
from lodestaff.quantities import Figure, Input, text_of
from lodestaff.reckoning.readings import SIMULATED, Reading, from_finding, loads_readings, of_code
from lodestaff.reckoning.results import Results


def _worst(findings: list[Finding]) -> Finding | None:
    """The finding with the least margin relative to its limit."""
    sized = [one for one in findings if one.limit and one.margin is not None]
    return min(sized, key=lambda one: (one.margin or 0.0) / (one.limit or 1.0), default=None)


def _reading(results: Results, code: str, name: str, better_up: bool = False) -> list[Reading]:
    found = _worst(of_code(results, code))
    return [from_finding(name, found, better_up)] if found is not None else []


def site_readings(results: Results) -> list[Reading]:
    """Demand against the rating, generation against permission, earth."""
    return [
        *_reading(results, "SITE-RATING", "Highest demand"),
        *_reading(results, "SITE-PERMIT", "Registered, busiest phase"),
        *[from_finding("Earth", one) for one in of_code(results, "SITE-EARTH")[:1]],
        *_reading(results, "LIM-EXPORT", "Export, worst meter"),
    ]


def array_readings(results: Results) -> list[Reading]:
    """Coldest string, hottest string, busiest tracker, ratio, sun lost."""
    readings = [
        *_reading(results, "ARR-VOC", "Coldest string"),
        *_reading(results, "ARR-VMP", "Hottest string", True),
        *_reading(results, "ARR-ISC", "Busiest tracker"),
        *_reading(results, "ARR-RATIO", "DC/AC"),
    ]
    f = results.figures
    inputs = (Input("curtailed", f.curtailed_kwh, "kWh"), Input("clipped", f.clipped_kwh, "kWh"))
    figure = Figure("Sun used in a year", f.pv_kwh, "kWh", "sun to AC + sun into batteries", inputs, SIMULATED)
    return [
        *readings,
        Reading("Produced, a year", figure, f"clipped {text_of(f.clipped_kwh, 'kWh', 0)}", "passed", 0.0),
    ]


def storage_readings(results: Results) -> list[Reading]:
    """Power against the held circuits, night energy, endurance, money."""
    wanted = ("Night energy", "The promise costs a year", "Bill, a year")
    power = [from_finding("Battery's power", one, True) for one in of_code(results, "STO-POWER")]
    lasts = [reading for reading in loads_readings(results) if reading.name.startswith("Lasts")]
    return [*power, *lasts, *[reading for reading in loads_readings(results) if reading.name in wanted]]
