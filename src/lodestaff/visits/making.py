"""The tasks of a job, from its design: each part brings its work; nothing is asked for what isn't there."""

from dataclasses import replace

from lodestaff.catalogue.families import sealed
from lodestaff.job import Face, Job
from lodestaff.job.plan import OwnSun, Transformer
from lodestaff.job.visits import OwnTask
from lodestaff.places.supports import supports
from lodestaff.topology import Topology, normalised
from lodestaff.topology.model import Part
from lodestaff.topology.questions import asked
from lodestaff.visits import names
from lodestaff.visits.bench import Bench
from lodestaff.visits.evening import evening
from lodestaff.visits.task import Task

DEVICES = (
    "isolator",
    "breaker",
    "rcd",
    "meter",
    "bypass",
    "throw",
    "interlock",
    "gateway",
    "contactor",
    "transmitter",
)
INTO_SUPPLY = ("breaker", "gateway", "bypass", "throw", "interlock")


class Maker(Bench):
    """Makes the tasks of one job."""

    def make(self) -> tuple[Task, ...]:
        """All of them, in the order of the work."""
        self._before()
        self._roof()
        self._inside()
        self._switching()
        self._proof()
        self._own()
        known = {task.id for task in self.tasks if not task.others}
        return tuple(
            replace(task, after=tuple(name for name in dict.fromkeys(task.after) if name in known))
            for task in self.tasks
        )

    # --- before anything stands --------------------------------------------------------------------------
    def _before(self) -> None:
        self.add(names.SURVEY, "survey", self.counts.assumed)
        for passage in self.job.passages:
            if passage.way == "trench":
                walls = {wall.id: wall.name for wall in self.job.walls}
                name = f"Trench from {walls[passage.a]} to {walls[passage.b]}"
                self.add(
                    names.trench_of(passage.id), "trench", passage.length_m, name=name, after=[names.SURVEY]
                )
        self.add(names.WAYS, "ways", self.counts.cable_m, after=[names.SURVEY])

    # --- the roof ----------------------------------------------------------------------------------------
    def faces(self) -> list[tuple[Face, int]]:
        """Faces that get modules, with how many."""
        old = {string.id for string in self.job.strings if self.job.unit(string.unit).existing}
        counted = [
            (face, sum(module.string not in old for module in face.modules)) for face in self.job.faces
        ]
        return [(face, count) for face, count in counted if count]

    def _smart(self, face: Face) -> bool:
        """Whether the modules of a face have electronics of their own, each to be noted down."""
        strings = [string for string in self.job.strings if any(m.string == string.id for m in face.modules)]
        return any(
            self.job.optimisers_on(string) != "none"
            or self.job.sheet_of(self.job.unit(string.unit)).module_level
            for string in strings
        )

    def _roof(self) -> None:
        first = self.job.visits.order == "modules first"
        last = [names.runs_of(unit) for unit in self._run_units()]
        for face, count in self.faces():
            metal = names.brackets_on(face.id)
            self.add(
                metal,
                "brackets",
                count,
                name=f"Brackets and rails, {face.name}",
                of=face.id,
                after=[names.SURVEY],
            )
        metals = self.ids("brackets")
        if not first:
            self._runs(metals)
        for face, count in self.faces():
            sheet = self.job.sheets.modules[face.module]
            kind = "modules-smart" if self._smart(face) else "modules"
            before = [names.brackets_on(face.id), *([] if first else last)]
            self.add(
                names.modules_on(face.id),
                kind,
                count,
                name=f"Modules, {face.name}",
                of=face.id,
                after=before,
                weight_kg=sheet.weight_kg,
                weighed=True,
            )
        for part in normalised(self.job).parts:
            if isinstance(part, OwnSun):
                self.add(
                    names.modules_on(part.id),
                    "modules",
                    part.modules,
                    name=f"Modules, {part.name}",
                    of=part.id,
                    after=[names.SURVEY],
                )
        if first:
            self._runs([*metals, *self.ids("modules", "modules-smart")])

    def _run_units(self) -> dict[str, int]:
        """Units, and loads with modules of their own, with how many ways come to them from the roof."""
        ways: dict[str, int] = {}
        for part in self.new:
            if part.kind == "array":
                whose = part.of or part.id
                ways[whose] = ways.get(whose, 0) + 1
        return ways

    def _runs(self, after: list[str]) -> None:
        live = self.job.visits.order == "modules first"
        for unit, ways in self._run_units().items():
            smart = unit in {ports.unit for ports in self.topology.units if ports.module_level}
            end = "AC" if smart else "its modules are on: live in daylight" if live else "dead"
            name = f"Runs from the array to {self._name(unit)}, {end}"
            self.add(names.runs_of(unit), "roof-runs", ways, name=name, after=after, of=unit)

    # --- inside ------------------------------------------------------------------------------------------
    def _name(self, part: str) -> str:
        return self.topology.parts[part].name

    def _inside(self) -> None:
        held = supports(self.job, tuple(self.bodies.values()))
        self.add(names.SUPPORTS, "supports", len(held), after=[names.SURVEY])
        ready = [names.SUPPORTS] if held else [names.SURVEY]
        for part in (part for part in self.new if part.kind == "unit"):
            if self.topology.unit(part.id).module_level:
                continue
            weight = self.bodies[part.id].weight_kg if part.id in self.bodies else None
            self.add(
                names.unit_stands(part.id),
                "unit",
                1,
                name=f"{part.name}, put up",
                of=part.id,
                after=ready,
                weight_kg=weight,
                weighed=True,
            )
        self._batteries(ready)
        for part in self.new:
            if part.kind == "board":
                self.add(
                    names.board_stands(part.id),
                    "board",
                    1,
                    name=f"{part.name}, put up",
                    of=part.id,
                    after=ready,
                )
            elif part.kind == "generator":
                self.add(
                    names.generator_stands(part.id),
                    "generator",
                    1,
                    name=f"{part.name}, put up",
                    of=part.id,
                    after=ready,
                )
        devices = sum(part.kind in DEVICES for part in self.new) + len(self._transformers())
        self.add(names.DEVICES, "device", devices, after=ready)
        self.add(
            names.ELECTRODES, "electrode", sum(part.kind == "electrode" for part in self.new), after=ready
        )
        self.add(
            names.CABLES,
            "cables",
            self.counts.cable_m,
            after=[names.WAYS, *self.ids("trench"), *self.ids("unit", "battery", "board", "device")],
        )
        for part in (part for part in self.new if part.kind == "unit"):
            if not self.topology.unit(part.id).module_level:
                before = [names.unit_stands(part.id), names.CABLES, names.runs_of(part.id)]
                banks = [names.battery_stands(bank.id) for bank in self.job.banks if bank.unit == part.id]
                self.add(
                    names.connected(part.id),
                    "connect",
                    1,
                    name=f"{part.name} connected",
                    of=part.id,
                    after=[*before, *banks],
                )

    def _batteries(self, ready: list[str]) -> None:
        there = {part.id for part in self.new}
        for bank in self.job.banks:
            unit, sheet = self.job.unit(bank.unit), self.job.sheets.batteries[bank.sheet]
            if unit.id not in there or sealed(self.job.sheet_of(unit)):
                continue
            self.add(
                names.battery_stands(bank.id),
                "battery",
                bank.modules,
                name=f"{self._name(bank.id)}, put up",
                of=bank.id,
                after=[*ready, names.unit_stands(unit.id)],
                weight_kg=sheet.weight_kg,
                weighed=True,
            )

    def _transformers(self) -> tuple[Transformer, ...]:
        return tuple(part for part in normalised(self.job).parts if isinstance(part, Transformer))

    # --- the hours without power -------------------------------------------------------------------------
    def _switching(self) -> None:
        self.add(
            names.DEAD_TESTS,
            "dead-tests",
            self.counts.dead_steps,
            after=[*self.ids("connect", "electrode", "roof-runs", "generator"), names.CABLES],
        )
        into = sum(part.kind in INTO_SUPPLY for part in self.new) + len(self._transformers())
        name = "" if self.job.mains.grid else "The building onto its new supply"
        self.add(
            names.CUT_IN,
            "cut-in",
            into,
            name=name,
            building=True,
            after=[names.DEAD_TESTS, names.CABLES, names.DEVICES, *self.ids("board")],
        )
        for part in (part for part in self.new if part.kind == "board"):
            circuits = self._circuits_on(part)
            self.add(
                names.moved_to(part.id),
                "move",
                len(circuits),
                name=f"Circuits moved to {part.name}",
                dark=circuits,
                of=part.id,
                after=[names.CUT_IN],
            )
        for part in (part for part in self.new if part.kind == "unit"):
            self.add(
                names.started(part.id),
                "start",
                1,
                name=f"First start of {part.name}",
                of=part.id,
                after=[names.CUT_IN, names.DEAD_TESTS, *self.ids("modules", "modules-smart")],
            )

    def _circuits_on(self, board: Part) -> tuple[str, ...]:
        """Circuits that hang on a board and aren't new themselves."""
        ends = {conductor.b: conductor.a[0] for conductor in self.topology.conductors}
        return tuple(
            circuit for circuit, terminal in self.topology.circuits.items() if ends.get(terminal) == board.id
        )

    # --- proof and handing over --------------------------------------------------------------------------
    def _proof(self) -> None:
        running = [*self.ids("start"), *self.ids("move"), names.CUT_IN]
        self.add(names.PROVE, "prove", self.counts.live_steps, after=running)
        questions = asked(self.topology)
        if questions.has_backup and self.job.mains.grid:
            self.add(
                names.OUTAGE_TEST,
                "outage-test",
                len(questions.islands),
                after=[names.PROVE],
                dark=questions.dead() or questions.lives(),
            )
        self.add(names.LABELS, "labels", self.counts.labels, after=[*self.ids("connect"), names.CUT_IN])
        inspected = any(permit.kind == "inspection" and permit.needed for permit in self.job.site.permits)
        self.add(names.INSPECTION, "inspection", int(inspected), after=[names.PROVE, names.LABELS])
        self.add(
            names.HAND_OVER, "hand-over", 1, after=[names.PROVE, names.OUTAGE_TEST, names.LABELS, *running]
        )

    def _own(self) -> None:
        for own in self.job.visits.own:
            self.tasks.append(own_task(own))


def own_task(own: OwnTask) -> Task:
    """A person's own task."""
    return Task(
        id=own.id,
        kind="own",
        name=own.name,
        hours=own.hours,
        plain_h=own.hours,
        people=own.people,
        skill=own.skill,
        why_hours="typed by you",
        formula="typed for this job",
        after=own.after,
        building=own.power_off,
        alone=own.people == 1,
        roof=own.outside and own.skill == "roof",
        daylight=own.outside,
        dry=own.outside,
        own=True,
    )


def same_day(job: Job, topology: Topology, tasks: tuple[Task, ...]) -> tuple[tuple[str, ...], ...]:
    """Tasks that must be done on one day, or circuits have no power in the evening: by the graph, with what
    isn't started off and locked. Each with those starts without which its circuits stay dark."""
    every = tuple(task.id for task in tasks)
    if names.CUT_IN not in every:
        return ()
    starts = [task.id for task in tasks if task.kind == "start"]
    moves = [task.id for task in tasks if task.kind == "move"]
    before = {name for name in every if name not in (*starts, *moves)}
    rows = []
    for step in (names.CUT_IN, *moves):
        now = {*before, step}
        if evening(job, topology, now, every).dark:
            needed = [
                start for start in starts if evening(job, topology, {*now, *starts} - {start}, every).dark
            ]
            rows.append((step, *(needed or starts)))
    return tuple(rows)
