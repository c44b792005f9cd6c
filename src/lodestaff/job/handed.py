"""What is agreed at the handover: who may look, the network, what is warranted, when we come again."""

from typing import Annotated, Literal

from pydantic import Field

from lodestaff.catalogue.frozen import Frozen
from lodestaff.job.found import Date, Sha256
from lodestaff.job.types import Identifier, Positive

Words = Annotated[str, Field(max_length=120)]
Name = Annotated[str, Field(min_length=1, max_length=60)]
PackPart = Literal["owner", "technical", "operator", "firm"]


class Warranty(Frozen):
    """What is warranted, for how long, from which day, by whom."""

    id: Identifier
    what: Name
    years: Positive | None = None
    begins: Date = ""
    by: Words = ""


class Account(Frozen):
    """An account with a device or a service: whose it is and who may look; never a password."""

    id: Identifier
    what: Name
    owner: Words = ""
    may_look: Words = ""


class Photo(Frozen):
    """A photo of what was built: of a part by its id, of the whole where that is ''."""

    id: Identifier
    sha256: Sha256
    of: Annotated[str, Field(max_length=40)] = ""
    what: Name
    date: Date = ""


class Registered(Frozen):
    """Where the installation is entered, or has to be: a register, an operator's or a maker's list."""

    id: Identifier
    what: Name
    number: Words = ""
    date: Date = ""
    due: Date = ""


class Planned(Frozen):
    """The plan that was agreed on, kept as an attachment, to hold what was built against."""

    sha256: Sha256
    date: Date = ""
    by: Words = ""


class Confirmed(Frozen):
    """A difference from the plan that somebody stands for: where it is, what was built there, in words."""

    path: Annotated[str, Field(min_length=1, max_length=200)]
    built: Annotated[str, Field(max_length=400)]
    by: Name
    date: Date = ""
    why: Words = ""


class Handed(Frozen):
    """`network` is how the devices reach the outside, `fallback` what happens without it; `export_paid_by`
    is who pays for what is exported, with the number of that agreement; `made_off` are the ends of cores that
    were tightened to their torque."""

    parts: Annotated[tuple[PackPart, ...], Field(max_length=4)] = ("owner", "technical", "operator")
    next_inspection: Date = ""
    network: Words = ""
    fallback: Words = ""
    export_paid_by: Words = ""
    accounts: Annotated[tuple[Account, ...], Field(max_length=12)] = ()
    warranties: Annotated[tuple[Warranty, ...], Field(max_length=20)] = ()
    photos: Annotated[tuple[Photo, ...], Field(max_length=60)] = ()
    registered: Annotated[tuple[Registered, ...], Field(max_length=12)] = ()
    made_off: Annotated[tuple[Annotated[str, Field(max_length=240)], ...], Field(max_length=2000)] = ()
    plan: Planned | None = None
    confirmed: Annotated[tuple[Confirmed, ...], Field(max_length=300)] = ()
