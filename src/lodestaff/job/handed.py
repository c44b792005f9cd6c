"""What is agreed at the handover: who may look, the network, what is warranted, when we come again."""

from typing import Annotated, Literal

from pydantic import Field

from lodestaff.catalogue.frozen import Frozen
from lodestaff.job.found import Date
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


class Handed(Frozen):
    """`network` is how the devices reach the outside, `fallback` what happens without it; `export_paid_by`
    is who pays for what is exported, with the number of that agreement."""

    parts: Annotated[tuple[PackPart, ...], Field(max_length=4)] = ("owner", "technical", "operator")
    next_inspection: Date = ""
    network: Words = ""
    fallback: Words = ""
    export_paid_by: Words = ""
    accounts: Annotated[tuple[Account, ...], Field(max_length=12)] = ()
    warranties: Annotated[tuple[Warranty, ...], Field(max_length=20)] = ()
