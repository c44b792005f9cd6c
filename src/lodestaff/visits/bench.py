"""Where tasks are made: one of a kind for so many, with its hours, hands and what it wants."""

from collections.abc import Iterable
from dataclasses import dataclass

from lodestaff.catalogue.lifting import lifting, people_for, wants_aid
from lodestaff.job import Job
from lodestaff.places import bodies
from lodestaff.topology import Topology
from lodestaff.visits.library import Library
from lodestaff.visits.news import new_parts
from lodestaff.visits.task import Task


@dataclass(frozen=True)
class Counts:
    """What other parts of the program know of the work: facts that are only assumed, metres of cable to pull
    on AC and inside on DC, steps before and after anything is switched on, labels."""

    assumed: int = 0
    cable_m: float = 0.0
    dead_steps: int = 0
    live_steps: int = 0
    labels: int = 0


class Bench:
    """The tasks of one job while they are made."""

    def __init__(self, job: Job, topology: Topology, counts: Counts, library: Library) -> None:
        self.job, self.topology, self.counts, self.library = job, topology, counts, library
        self.new = new_parts(job, topology)
        self.bodies = {body.id: body for body in bodies(job, topology)}
        self.tasks: list[Task] = []

    def add(
        self,
        id: str,
        kind: str,
        count: float,
        *,
        name: str = "",
        after: Iterable[str] = (),
        weight_kg: float | None = None,
        weighed: bool = False,
        dark: Iterable[str] = (),
        building: bool = False,
        of: str = "",
    ) -> None:
        """One task of a kind for so many; nothing for none."""
        if count <= 0:
            return
        work = self.library.kinds[kind]
        said = next((saying for saying in self.job.visits.said if saying.task == id), None)
        hours = self.library.hours(kind, count)
        fixed, each = self.library.rates(kind)
        many = "" if count == 1 or work.by == "m" else "s"
        formula = f"{fixed:g} h + {each:g} h × {count:g} {work.by}{many}"
        whence = self.library.whence(kind)
        if said is not None and said.hours is not None:
            hours, formula = said.hours, "typed for this job"
            whence = f"typed: {said.why or 'no reason given'}"
        people, lift, tools = work.people, "", work.tools
        if work.lifts and weighed:
            people = max(people, people_for(self.job.pack, weight_kg))
            lift = lifting(self.job.pack, weight_kg)
            if wants_aid(self.job.pack, weight_kg):
                tools = (*tools, f"lifting aid for {weight_kg:g} kg")
        if said is not None and said.people is not None:
            people = said.people
        roof = work.roof and not self._on_ground(of)
        self.tasks.append(
            Task(
                id=id,
                kind=kind,
                name=name or work.name,
                hours=hours,
                plain_h=self.library.plain_hours(kind, count),
                people=people,
                skill=work.skill if roof or work.skill != "roof" else "general",
                why_hours=whence,
                formula=formula,
                after=tuple(after),
                dark=tuple(dark),
                building=building,
                alone=not work.company and people == 1,
                roof=roof,
                daylight=work.daylight,
                wind_m_s=work.wind_m_s if roof else None,
                dry=work.dry,
                frost_free=work.frost_free,
                tools=tools,
                lift=lift,
                of=of,
                others=said is not None and said.by_others,
            )
        )

    def _on_ground(self, of: str) -> bool:
        """Whether it is about an array on the ground: that face, or all of them where it is about no face."""
        faces = [face for face in self.job.faces if face.id == of] or list(self.job.faces)
        return bool(faces) and all(face.covering.value == "ground" for face in faces)

    def ids(self, *kinds: str) -> list[str]:
        return [task.id for task in self.tasks if task.kind in kinds]
