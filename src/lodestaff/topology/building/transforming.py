"""Current transformers on the conductors that they watch."""

from lodestaff.job.address import address
from lodestaff.job.plan import Transformer
from lodestaff.topology.building.builder import Builder
from lodestaff.topology.model import EARTH, Ct, Orphan


def fed_conductor(b: Builder, terminal: str) -> str | None:
    """The conductor that feeds a terminal named as part or part:port; by a part alone, its head's first
    one."""
    part, port = address(terminal)
    into = [
        conductor
        for conductor in b.conductors
        if conductor.b[0] == part and (not port or conductor.b[1] == port)
    ]
    ac = [conductor for conductor in into if EARTH not in conductor.cores and "DC+" not in conductor.cores]
    conductors = (ac or into)[:1] if not port else into[:1]
    return conductors[0].id if conductors else None


def place_transformers(b: Builder) -> None:
    """Transformers on their conductors; one whose conductor is gone is an orphan."""
    for part in b.plan.parts:
        if not isinstance(part, Transformer):
            continue
        feeds = [(at, fed_conductor(b, at)) for at in part.on]
        for at, name in feeds:
            if name is None:
                b.orphans.append(Orphan(part.id, "current transformer", f"nothing feeds {at}"))
        conductors = tuple(name for _, name in feeds if name is not None)
        if conductors:
            b.cts.append(
                Ct(
                    part.id,
                    part.name,
                    conductors=conductors,
                    serves=part.serves,
                    watches=part.watches,
                    proves_limit=part.proves_limit,
                    reversed=part.reversed,
                    phases=tuple(part.phases.split("+")) if part.phases else (),
                    obeyed_by=part.obeyed_by,
                )
            )
