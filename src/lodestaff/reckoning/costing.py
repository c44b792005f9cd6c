"""What a whole design costs, with what carries its parts on their walls."""

from lodestaff.job import Job
from lodestaff.places import bodies
from lodestaff.places.supports import supports
from lodestaff.shelf.prices import Cost, PriceBook, cost
from lodestaff.topology import Topology


def design_cost(job: Job, topology: Topology, book: PriceBook) -> Cost:
    """All lines of a design; boards, tie-backs and posts are those that its places ask for."""
    held = supports(job, bodies(job, topology))
    return cost(job, book, [(one.item, one.words, one.count, one.unit) for one in held])
