"""A step's reading taken over the link: numbers in the step's unit, or the state that kept it from any."""

from datetime import datetime

from lodestaff.catalogue import HybridSheet
from lodestaff.commissioning.expect import Conditions
from lodestaff.commissioning.reading import NOT_MEASURED, Reading
from lodestaff.commissioning.step import Measure, Step
from lodestaff.job import Job
from lodestaff.link.client import Link, LinkState, Value
from lodestaff.link.definitions import AC, COMMON, DC, LEG_POINTS, METER_OF, SIMULATED, SITE_SETTINGS
from lodestaff.link.image import meters_of
from lodestaff.link.keys import unit_of, window_of
from lodestaff.link.points import from_clock, setting_points
from lodestaff.topology import build

LEAST_SHARE = 1 / 3
NOT_IN_FORCE = "held by the device, but not in force"


def link_to(job: Job, unit: str, host: str, port: int) -> Link:
    """The link to a unit of a job: units have addresses from 1 in the job's order, and a meter for each
    transformer that serves them."""
    number = [unit.id for unit in job.units].index(unit) + 1
    windows = tuple(window.id for window in job.limits.windows)
    return Link(host, port, number, windows, meters=tuple(meters_of(job, build(job), unit)))


def take_over_link(
    link: Link, job: Job, step: Step, now: datetime, by: str = "", conditions: Conditions = NOT_MEASURED
) -> Reading:
    """Take a step's reading. `now` is what the unit's clock ought to show; a device that says it is simulated
    is recorded so."""
    at = datetime.now().astimezone().isoformat(timespec="seconds")
    numbers, state, wrong = _measure(link, job, step.measure, now)
    confirmed = False if wrong else None
    return Reading(
        step.id,
        () if wrong else numbers,
        confirmed=confirmed,
        conditions=conditions,
        way="link",
        by=by,
        at=at,
        state=state,
        simulated=not state and link.read(COMMON, "Opt").value == SIMULATED,
    )


def _measure(link: Link, job: Job, measure: Measure, now: datetime) -> tuple[tuple[float, ...], str, bool]:
    """Numbers, the state where there are none, and whether the device holds it but not in force."""
    match measure.kind:
        case "setting":
            return _setting(link, measure.subject, now)
        case "ct":
            meter = read_meter(link, measure.ct, measure.leg)
            return (*_kilowatts([meter]), False)
        case "export":
            numbers, state = _kilowatts([read_meter(link, measure.ct)])
            return tuple(max(0.0, -number) for number in numbers), state, False
        case "import":
            return (*_kilowatts([read_meter(link, measure.ct)]), False)
        case "tracker power":
            names = [tracker.name for tracker in _sheet(job, measure.unit).trackers]
            return (*_kilowatts([link.read(DC, f"Prt.{names.index(measure.subject)}.DCW")]), False)
        case "ac power":
            return (*_kilowatts([link.read(AC, "W")]), False)
        case "balance":
            return (*_balance(link, job, measure.unit), False)
        case _:
            return (), "this step is read on site", False


def _sheet(job: Job, unit: str) -> HybridSheet:
    return job.sheet_of(job.unit(unit))


def read_meter(link: Link, ct: str = "", leg: str = "") -> Value:
    """Power at a meter of a unit in W, import above 0: of a transformer, on a leg or their sum; without a
    name its first."""
    counts: dict[int, int] = {}
    for name, legs in link.meters:
        number = METER_OF[len(legs)]
        nth = counts.get(number, 0)
        counts[number] = nth + 1
        if not ct or name == ct:
            point = LEG_POINTS[legs.index(leg)] if leg in legs and len(legs) > 1 else "W"
            return link.read(number, point, nth)
    return Value(LinkState.ABSENT)


def _kilowatts(values: list[Value]) -> tuple[tuple[float, ...], str]:
    numbers: list[float] = []
    for value in values:
        if not value.ok or not isinstance(value.value, float):
            return (), str(value.state)
        numbers.append(value.value / 1000)
    return tuple(numbers), ""


def _balance(link: Link, job: Job, unit: str) -> tuple[tuple[float, ...], str]:
    """What is missing between DC in and AC out, in percent of the largest flow, or of a third of the rating
    where less flows: a unit's own use would be all of a small one."""
    ports = len(_sheet(job, unit).trackers)
    bank = any(bank.unit == unit for bank in job.banks)
    paths = tuple(f"Prt.{index}.DCW" for index in range(ports + bank))
    flows, state = _kilowatts([*link.read_all(DC, paths).values(), link.read(AC, "W")])
    if state:
        return (), state
    *dc, ac = flows
    sun, battery = sum(dc[:ports]), sum(dc[ports:])
    most = max(sun, abs(battery), abs(ac))
    if most < 0.2:
        return (), "under 200 W flow; nothing to balance"
    largest = max(most, LEAST_SHARE * _sheet(job, unit).rated_kw)
    return (100 * (sun + battery - ac) / largest,), ""


def _setting(link: Link, key: str, now: datetime) -> tuple[tuple[float, ...], str, bool]:
    points = setting_points(key, link.windows)
    if points is None:
        return (), "not given by the device", False
    paths = (*points.setpoints, points.enable) if points.enable else points.setpoints
    values = link.read_all(SITE_SETTINGS, paths)
    held = []
    for path, value in values.items():
        if not value.ok or not isinstance(value.value, float):
            return (), str(value.state), False
        if path == points.enable:
            if value.value != 1:
                return (), "", True
            continue
        held.append(value.value)
    return _in_sheet_units(key, held, now), "", False


def _in_sheet_units(key: str, held: list[float], now: datetime) -> tuple[float, ...]:
    if key == "clock":
        return ((from_clock(held[0]) - now).total_seconds(),)
    if unit_of(key) == "kW":
        return (held[0] / 1000,)
    if window_of(key) is not None:
        return held[0] / 60, held[1] / 60, held[2], held[3] / 1000
    return tuple(held)
