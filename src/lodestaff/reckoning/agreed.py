"""What is agreed at the handover, and what of it is still to be: rows for the page, gaps for the count."""

from dataclasses import dataclass
from datetime import date

from lodestaff.job import Job
from lodestaff.job.handed import Warranty
from lodestaff.quantities.convention import plain

UNNOTED = "not noted"
WORKS_ON = "Without a network it works on as it is set; nobody sees it from outside."


@dataclass(frozen=True)
class Agreed:
    """The rows of what is agreed, and what isn't yet."""

    next_inspection: str
    network: str
    paid_by: str
    accounts: tuple[tuple[str, str, str], ...]
    warranties: tuple[tuple[str, str, str, str], ...]
    gaps: tuple[str, ...]


def agreed(job: Job, exports: bool) -> Agreed:
    """What the owner is told; `exports` says whether anything is exported, so that somebody pays for it."""
    handed = job.handed
    accounts = tuple(
        (account.what, account.owner or "not noted", account.may_look or "nobody else")
        for account in handed.accounts
    )
    warranties = tuple(
        (
            warranty.what,
            f"{plain(warranty.years)} years" if warranty.years else "not noted",
            _until(warranty),
            warranty.by or "not noted",
        )
        for warranty in handed.warranties
    )
    gaps = {
        "the day of the next inspection": not handed.next_inspection,
        "how it is connected to the network": not handed.network,
        "whose the accounts are": not handed.accounts,
        "warranties": not handed.warranties,
        "who pays for export": exports and not handed.export_paid_by,
    }
    network = f"{handed.network or 'Not noted yet'}. {handed.fallback or WORKS_ON}"
    return Agreed(
        handed.next_inspection or "Not agreed yet.",
        network=network,
        paid_by=handed.export_paid_by,
        accounts=accounts,
        warranties=warranties,
        gaps=tuple(words for words, open_ in gaps.items() if open_),
    )


def _until(warranty: Warranty) -> str:
    """From when to when, in years of the calendar; a leap day becomes the day before."""
    if not warranty.begins or warranty.years is None:
        return warranty.begins or UNNOTED
    begin = date.fromisoformat(warranty.begins)
    year = begin.year + int(warranty.years)
    try:
        end = begin.replace(year=year)
    except ValueError:
        end = begin.replace(year=year, day=28)
    return f"{begin.isoformat()} to {end.isoformat()}"
