"""The handful of figures of the Visits station: days, hours, hours without power, what waits, what is
missing."""

from lodestaff.quantities import Figure, Input, Provenance, Source
from lodestaff.quantities.convention import plain
from lodestaff.reckoning.readings import Reading
from lodestaff.reckoning.visiting import Programme

HOURS = Source("the person's library of hours", Provenance.COMMON_PRACTICE)
LAID = Source("the days as they are laid", Provenance.DERIVED)


def visit_readings(programme: Programme) -> list[Reading]:
    """Days, hours of hands, hours without power, tasks without a day, conflicts."""
    tasks, days = programme.tasks, [day for day in programme.days if day.spans]
    hours = sum(task.hours * task.people for task in tasks)
    inputs = tuple(Input(task.name, round(task.hours * task.people, 2), "h", task.formula) for task in tasks)
    formula = "sum of hours × hands of all tasks"
    work = Figure("Hours of hands", hours, unit="h", formula=formula, inputs=inputs, source=HOURS)
    waits = sum(any(not hold.there for hold in task.holds) for task in tasks)
    left = len(programme.unlaid)
    readings = [
        Reading("Work", work, f"{len(tasks)} tasks", "passed", 1.0, quantity="work"),
        Reading(
            "Days",
            Figure("Days", len(days), unit="days", formula="count", inputs=(), source=LAID),
            f"{left} tasks without" if left else "all laid",
            "open" if left else "passed",
            1 - left / len(tasks) if tasks else 1.0,
            quantity="days",
            said=f"{len(days)} days",
        ),
    ]
    dark = Figure(
        "Hours without power",
        programme.dark_h,
        unit="h",
        formula="of each day from the first task that cuts power to the end of the last",
        inputs=tuple(Input(day.visit.date, day.dark_h, "h") for day in days if day.dark_h),
        source=LAID,
    )
    asked = [day for day in days if day.dark_h and day.visit.off_from_h is None]
    readings.append(
        Reading(
            "Without power",
            dark,
            f"{len(asked)} days not agreed" if asked else "agreed" if programme.dark_h else "",
            "open" if asked else "passed",
            1.0,
            quantity="dark",
        )
    )
    wrong = len(programme.conflicts)
    dark_nights = sum(bool(day.evening.dark) for day in days)
    status = "blocks" if dark_nights else "warns" if wrong else "open" if waits else "passed"
    beside = f"{dark_nights} evenings without power" if dark_nights else f"{waits} tasks wait"
    count = Figure("What can't be so", wrong, unit="conflicts", formula="count", inputs=(), source=LAID)
    readings.append(Reading("Conflicts", count, beside, status, 1.0, quantity="conflicts", said=plain(wrong)))
    return readings
