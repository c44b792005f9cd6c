"""The design's costs and offers in words, above the gallery."""

from lodestaff.job import Job
from lodestaff.quantities import text_of
from lodestaff.reckoning import Reckoner
from lodestaff.reckoning.costing import design_cost
from lodestaff.shelf import Shelf
from lodestaff.shelf.prices import PriceBook, doubts, one_more_module
from lodestaff.shelf.replace import offers


def summary(job: Job | None, reckoner: Reckoner, book: PriceBook, shelf: Shelf) -> str:
    """What the design costs, what is open, and which sheets of the job read otherwise on the shelf."""
    if job is None:
        return ""
    total = design_cost(reckoner, job, book)
    if len(total.open) == len(total.lines):
        sums = "No price of this design is known yet."
    else:
        sums = (
            f"The design costs {text_of(total.net, total.currency)} without tax, "
            f"{text_of(total.gross, total.currency)} with."
        )
        more = one_more_module(job, job.banks[0].id, book) if job.banks else None
        sums += f" One more battery module: {text_of(more, total.currency)}." if more is not None else ""
    opened = f" Open, not in the sums: {len(total.open)} of {len(total.lines)} lines." if total.open else ""
    changed = offers(job, shelf)
    offered = "".join(
        f" {offer.id} reads otherwise on the shelf ({', '.join(words for words, *_ in offer.fields)}); "
        "try it to take it."
        for offer in changed
    )
    doubted = "".join(f" Can that be? {doubt}." for doubt in doubts(book))
    return sums + opened + offered + doubted
