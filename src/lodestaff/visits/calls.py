"""Whom to ring, and for what; who has no number can't be rung."""

from dataclasses import dataclass

from lodestaff.job import Job


@dataclass(frozen=True)
class Call:
    """A person and a number; '' where none is known."""

    name: str
    phone: str
    what: str


def calls(job: Job) -> tuple[Call, ...]:
    """Those who come, then whom else to ring."""
    hands = tuple(Call(hand.name, hand.phone, "on site") for hand in job.visits.hands)
    return (*hands, *(Call(contact.name, contact.phone, contact.what) for contact in job.visits.contacts))
