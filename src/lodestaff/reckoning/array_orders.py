"""When each conductor of the array becomes live, by both working orders: cables first, or modules first."""

from dataclasses import dataclass

from lodestaff.job import Job
from lodestaff.quantities import text_of
from lodestaff.reckoning.string_volts import volts_of


@dataclass(frozen=True)
class Moment:
    """A piece of work, and what is live from then on."""

    work: str
    live: str


@dataclass(frozen=True)
class Order:
    """A string or branch with the moments of one working order."""

    name: str
    order: str  # cables first, modules first
    moments: tuple[Moment, ...]


CABLES, MODULES = "cables first", "modules first"


def array_orders(job: Job) -> tuple[Order, ...]:
    """For each string both orders; a branch of units behind modules has one, for its trunk is dead till its
    breaker.

    Volts are those of open circuit at the record low. A module in daylight can't be switched off (fact of the
    trade).
    """
    orders: list[Order] = []
    for string in job.strings:
        parts = job.modules_in(string.id)
        if not parts:
            continue
        each = max(volts_of(job, face).voc_cold_v for face, _ in parts)
        count = sum(n for _, n in parts)
        if job.sheet_of(job.unit(string.unit)).module_level:
            orders.append(Order(f"Branch {string.name}", CABLES, _branch(each)))
            continue
        name, whole, of_module = f"String {string.name}", text_of(count * each, "V", 0), text_of(each, "V", 0)
        if job.optimisers_on(string) == "all":
            rest = f"{count} optimisers at rest, about a volt each, until the unit releases them"
            orders.append(
                Order(
                    name,
                    CABLES,
                    (
                        Moment("home run landed at its isolator, left open", "nothing"),
                        Moment("each module plugged into its optimiser", f"one module's leads, {of_module}"),
                        Moment("the last link closed", f"the home run: {rest}"),
                    ),
                )
            )
            continue
        orders.append(
            Order(
                name,
                CABLES,
                (
                    Moment("home run landed at its isolator, left open", "nothing"),
                    Moment(
                        "modules plugged, one after the other", f"their open ends, up to {whole} between them"
                    ),
                    Moment("the last link closed", f"the home run up to the isolator, {whole}"),
                ),
            )
        )
        orders.append(
            Order(
                name,
                MODULES,
                (
                    Moment(
                        "modules plugged, the last link open", f"both ends on the roof, up to {whole}: capped"
                    ),
                    Moment(
                        "home run joined to them", f"its far ends at once, {whole}: landed or capped before"
                    ),
                    Moment("landed at the isolator", f"the home run up to the isolator, {whole}"),
                ),
            )
        )
    return tuple(orders)


def _branch(each: float) -> tuple[Moment, ...]:
    leads = f"that module's leads, {text_of(each, 'V', 0)}; the trunk stays dead"
    return (
        Moment("trunk laid and landed, its breaker off and locked", "nothing"),
        Moment("each module plugged into its unit", leads),
        Moment("the branch's breaker closed", "the trunk, at the site's volts; units give after their delay"),
    )
