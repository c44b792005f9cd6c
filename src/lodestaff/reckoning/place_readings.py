"""The handful of figures of the Place station: what has its place, how long cables get, what is near."""

from lodestaff.places import bodies
from lodestaff.quantities import Figure, Provenance, Source
from lodestaff.reckoning.lengths import lengths
from lodestaff.reckoning.readings import Reading, from_finding, of_rule
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.results import Results

WALLS = Source("the places on the walls", Provenance.DERIVED)
BETWEEN = "Cable between places"
NEAR = {"opening": "To the nearest opening", "gas": "To gas", "other battery": "Between batteries"}


def place_readings(results: Results, reckoner: Reckoner) -> list[Reading]:
    """Parts with a place, metres of cable between them, distances of the batteries."""
    job = results.job
    every = bodies(job, reckoner.wiring(job).topology)
    placed = [body for body in every if body.standing is not None]
    figure = Figure("Parts with a place", len(placed), unit="parts", formula="count", inputs=(), source=WALLS)
    share = len(placed) / len(every) if every else 1.0
    status = "passed" if share == 1 else "open"
    said = f"{len(placed)} parts"
    readings = [
        Reading("Have a place", figure, f"of {len(every)}", status, share, quantity="placed", said=said)
    ]
    ways = lengths(reckoner, job)
    if ways:
        total, waits = sum(length.length_m for length in ways), sum(length.changes for length in ways)
        formula = "sum of the shortest ways of all runs whose ends have places"
        figure = Figure(BETWEEN, total, unit="m", formula=formula, inputs=(), source=WALLS)
        beside = f"{waits} cables differ" if waits else f"{len(ways)} runs"
        status = "open" if waits else "passed"
        readings.append(Reading(BETWEEN, figure, beside, status, 1.0, quantity="ways"))
    for finding in of_rule(results, "STO-PLACE: battery"):
        if finding.quantity in NEAR and finding.figure is not None:
            readings.append(from_finding(NEAR[finding.quantity], finding, True))
    return readings
