"""Schedules from which a person buys, wires and is inspected: rows of words and numbers, without a look."""

from collections.abc import Iterable
from dataclasses import dataclass

from lodestaff.job import Cable, Job
from lodestaff.job.holders import holders, sheet_names
from lodestaff.job.plan import Board
from lodestaff.quantities import text_of
from lodestaff.quantities.convention import plain
from lodestaff.reckoning.legs import load_of
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.records.fill import filled
from lodestaff.reckoning.records.glands import glands_of
from lodestaff.reckoning.records.label_ratings import label_ratings
from lodestaff.reckoning.records.runs import runs
from lodestaff.topology import Part, Topology
from lodestaff.wiring.isolation import isolation
from lodestaff.wiring.labels import labels
from lodestaff.wiring.terminations import PINS, READ, links, terminations

Cell = str | float | None
DEVICES = ("fuse", "meter", "isolator", "breaker", "rcd", "relay", "bypass", "throw", "interlock", "gateway",
           "contactor", "transmitter", "shutdown", "electrode", "generator")  # fmt: skip


@dataclass(frozen=True)
class Head:
    """A column: what stands in it, in which unit, and its part of the width."""

    heading: str
    unit: str = ""
    share: float = 12.0

    @property
    def words(self) -> str:
        return f"{self.heading}, {self.unit}" if self.unit else self.heading


@dataclass(frozen=True)
class Schedule:
    """One schedule: numbers stay numbers, None is what isn't known."""

    id: str
    title: str
    heads: tuple[Head, ...]
    rows: tuple[tuple[Cell, ...], ...]
    note: str = ""

    def texts(self) -> tuple[tuple[str, ...], ...]:
        """The rows as they are read."""
        return tuple(
            tuple(_text(cell, head) for cell, head in zip(row, self.heads, strict=True)) for row in self.rows
        )


def _text(cell: Cell, head: Head) -> str:
    if cell is None or cell == "":
        return "-"
    if isinstance(cell, str):
        return cell
    return text_of(cell, head.unit) if head.unit else plain(cell)


def cable_schedule(reckoner: Reckoner, job: Job) -> Schedule:
    cables, rows = {cable.id: cable for cable in job.cables}, list[tuple[Cell, ...]]()
    for run in runs(reckoner, job, False):
        cable, pack = cables.get(run.id), job.pack
        carries = None if run.unknown else run.design_a
        if cable is None:
            rows.append((run.name, carries, run.state, *([None] * 10)))
            continue
        guard = f"{plain(cable.rcd_ma)} mA {cable.rcd_type or ''}".strip() if cable.rcd_ma else None
        rows.append(
            (
                run.name,
                carries,
                run.state,
                pack.size_words(cable.size_mm2),
                pack.size_words(cable.cpc_mm2) if cable.cpc_mm2 else None,
                cable.length_m * run.pairs,
                cable.table,
                cable.device_a,
                cable.curve,
                guard,
                "lies there" if cable.existing else cable.known.words(),
                cable.why or None,
                job.sheets.cables[cable.sheet].name if cable.sheet else None,
            )
        )
    heads = (
        Head("Run", share=20), Head("Carries", "A", 8), Head("Most in", share=9), Head("Size", share=9),
        Head("PE", share=9), Head("Length", "m", 8), Head("Way", share=10), Head("Device", "A", 8),
        Head("Curve", share=6), Head("Residual current", share=9), Head("Known", share=9),
        Head("Chosen otherwise because", share=12),
    )  # fmt: skip
    return _with_sheets("cables", "Cables", heads, rows)


def _with_sheets(id: str, title: str, heads: tuple[Head, ...], rows: list[tuple[Cell, ...]]) -> Schedule:
    """A schedule whose last cells name data sheets: a column of them where a sheet was taken at all."""
    if any(row[-1] for row in rows):
        return Schedule(id, title, (*heads, Head("Sheet", share=12)), tuple(rows))
    return Schedule(id, title, heads, tuple(row[:-1] for row in rows))


def device_rows(reckoner: Reckoner, job: Job) -> list[tuple[Cell, ...]]:
    """Every device by its part or run; the last cell is the id of its sheet."""
    topology = reckoner.wiring(job).topology
    cables, names = {cable.id: cable for cable in job.cables}, {unit.id: unit.name for unit in job.units}
    ahead = {conductor.a[0]: conductor.run for conductor in topology.conductors if conductor.run}
    sheets = {holder.id: holder.sheet for holder in holders(job) if not isinstance(holder.thing, Cable)}
    rows: list[tuple[Cell, ...]] = []
    for part in topology.parts.values():
        if part.kind not in DEVICES:
            continue
        cable = cables.get(ahead.get(part.id, ""))
        cores = max((len(contact.cores) for contact in part.contacts), default=0)
        rows.append(
            (
                part.name,
                _kind(job, part.kind),
                names.get(part.of, "") or None,
                part.building or None,
                _rated(part, cable),
                cable.curve if cable is not None and part.kind == "breaker" else None,
                float(cores) if cores else None,
                part.rating or None,
                ", ".join(part.positions) or None,
                (_of_run(job, cable, part.kind == "isolator") if _in_run(part) else sheets.get(part.id))
                or None,
            )
        )
    for run in runs(reckoner, job, False):
        cable = cables.get(run.id)
        if cable is None or not run.dc:
            continue
        if run.kind == "battery":
            name, kind, rated = f"Fuse of {run.name.lower()}", "DC fuse", cable.device_a
        elif cable.string_fuse_a is not None:
            name, kind, rated = f"Fuses of {run.name.lower()}, each string", "gPV fuse", cable.string_fuse_a
        else:
            continue
        rows.append((name, kind, None, None, rated, None, 2.0, None, None, _of_run(job, cable, False)))
    return rows


def device_schedule(reckoner: Reckoner, job: Job) -> Schedule:
    heads = (
        Head("Device", share=26), Head("Kind", share=11), Head("Of", share=13), Head("Building", share=11),
        Head("Rated", "A", 8), Head("Curve", share=7), Head("Poles", share=7), Head("Rating", share=12),
        Head("Positions", share=14),
    )  # fmt: skip
    names = sheet_names(job)
    rows = [(*row[:-1], names[str(row[-1])] if row[-1] else None) for row in device_rows(reckoner, job)]
    return _with_sheets("devices", "Devices", heads, rows)


def _in_run(part: Part) -> bool:
    """Whether a part is what was chosen for its run: what protects it, or an array's isolator."""
    return part.kind in ("breaker", "fuse") or (part.kind == "isolator" and part.way == "array")


def _of_run(job: Job, cable: Cable | None, isolator: bool) -> str | None:
    """The sheet of a run's device; of an array's it is the fuse's, or the isolator's."""
    if cable is None or not cable.device_sheet:
        return None
    fuse = job.sheets.devices[cable.device_sheet].curve == "gPV"
    of_array = isolator or cable.string_fuse_a is not None
    return None if of_array and isolator == fuse else cable.device_sheet


SAID = {"breaker": "protective_device", "rcd": "residual_current_device", "isolator": "isolator"}
KINDS = {"throw": "changeover", "shutdown": "shutdown switch"}


def _kind(job: Job, kind: str) -> str:
    """A kind of device in the pack's words."""
    return job.pack.word(SAID[kind]) if kind in SAID else KINDS.get(kind, kind)


def _rated(part: Part, cable: Cable | None) -> float | None:
    """What a device is rated for, A: a breaker and an array's isolator as chosen for their run."""
    if cable is not None and part.kind in ("breaker", "fuse"):
        return cable.device_a
    if cable is not None and part.kind == "isolator" and part.way == "array":
        return cable.isolator_a
    return part.rated_a


def board_schedule(reckoner: Reckoner, job: Job) -> Schedule:
    """Boards with their circuits by leg, at running power."""
    wiring, plans = reckoner.wiring(job), {part.id: part for part in job.parts if isinstance(part, Board)}
    cables, rows = {cable.id: cable for cable in job.cables}, []
    for place in wiring.boards:
        plan, feed = plans.get(place.id), cables.get(f"{place.id}-feed")
        circuits = [job.circuit(name) for name in place.circuits]
        legs = tuple(leg for leg in job.site.phases if leg in place.legs)
        several = load_of(job, circuits, legs) if len(legs) > 1 and circuits else None
        kva = [va / 1000 for va in several.va] if several else [sum(c.running_kva for c in circuits)]
        rows.append(
            (
                place.name,
                place.building or None,
                feed.device_a if feed is not None else None,
                plan.busbar_a.value if plan is not None else None,
                float(len(place.circuits)),
                "; ".join(f"{leg} {text_of(on, 'kVA')}" for leg, on in zip(legs, kva, strict=False)),
                several.imbalance_pct if several else None,
                several.neutral_a if several else None,
                " and ".join(job.unit(name).name for name in place.forming) or None,
            )
        )
    heads = (
        Head("Board", share=24), Head("Building", share=12), Head("Main", "A", 8), Head("Busbar", "A", 8),
        Head("Circuits", share=8), Head("Running together", share=20), Head("Apart", "%", 8),
        Head("Neutral", "A", 8),
        Head("Fed in an outage by", share=16),
    )  # fmt: skip
    if not reckoner.asked(job).has_backup:  # nothing is fed in an outage
        return Schedule("boards", "Boards", heads[:-1], tuple(row[:-1] for row in rows))
    return Schedule("boards", "Boards", heads, tuple(rows))


TICKS = ("[  ]", "[x]")


def termination_schedule(reckoner: Reckoner, job: Job) -> Schedule:
    done = set(job.handed.made_off)
    rows = tuple(
        (
            termination.at,
            termination.terminal,
            termination.to,
            termination.colour,
            termination.size,
            termination.end or None,
            termination.torque_nm if termination.torque_nm is not None else READ,
            TICKS[termination.key in done],
        )
        for termination in terminations(job, reckoner.wiring(job).topology)
    )
    heads = (
        Head("At", share=18), Head("Terminal", share=14), Head("From or to", share=20),
        Head("Colour", share=12), Head("Size", share=10), Head("End", share=12), Head("Torque", "Nm", 12),
        Head("Done", share=6),
    )  # fmt: skip
    note = "Factory-made terminals arrive loose: every one is tightened to its torque and marked."
    return Schedule("terminations", "Terminations", heads, rows, note)


def link_schedule(reckoner: Reckoner, job: Job) -> Schedule:
    rows = tuple(
        (
            link.start,
            link.end,
            link.carries,
            link.cable,
            link.longest_m,
            link.ports,
            link.protocol,
            link.address,
            link.terminator or None,
        )
        for link in links(job, reckoner.wiring(job).topology)
    )
    heads = (
        Head("From", share=14), Head("To", share=13), Head("Carries", share=11), Head("Cable", share=18),
        Head("Longest", "m", 7), Head("Ports", share=11), Head("Protocol", share=10),
        Head("Address", share=10), Head("Terminator", share=11),
    )  # fmt: skip
    return Schedule("links", "Communication", heads, rows, PINS)


def containment_schedule(reckoner: Reckoner, job: Job) -> Schedule:
    """Conduits and trunkings with their fill."""
    rows = []
    for filling in filled(reckoner, job, False):
        area, inside = [run[3] for run in filling.runs], job.pack.containment_sizes[filling.containment.size]
        known = [value for value in area if value is not None]
        rows.append(
            (
                filling.containment.name,
                filling.containment.size,
                ", ".join(run[1] for run in filling.runs) or None,
                float(sum(run[2] for run in filling.runs)),
                100 * sum(known) / inside if len(known) == len(area) else None,
                filling.containment.bends_deg,
                {True: "metal", False: "not metal", None: None}[filling.containment.metal],
                "inside" if filling.containment.inside else "outside",
                {True: "yes", False: "no", None: None}[filling.containment.sun_proof],
            )
        )
    heads = (
        Head("Containment", share=18), Head("Size", share=12), Head("Runs", share=24), Head("Cores", share=8),
        Head("Fill", "%", 8), Head("Bends", "°", 8), Head("Of", share=8), Head("Where", share=7),
        Head("Stands sun", share=7),
    )  # fmt: skip
    return Schedule("containment", "Containment", heads, tuple(rows))


def gland_schedule(reckoner: Reckoner, job: Job) -> Schedule:
    """Cables that enter cases through glands."""
    rows = tuple(
        (
            gland.name,
            gland.outside_mm,
            f"{plain(gland.least_mm)} to {plain(gland.most_mm)} mm"
            if gland.least_mm and gland.most_mm
            else None,
            gland.entry_mm,
        )
        for gland in glands_of(reckoner, job)
    )
    heads = (
        Head("Cable", share=40), Head("Outside", "mm", 16), Head("Glands that seal it", share=28),
        Head("Widest entry", "mm", 16),
    )  # fmt: skip
    note = "The range is marked on the gland; each cable's own, at both ends."
    return Schedule("glands", "Glands", heads, rows, note if rows else "")


def label_schedule(reckoner: Reckoner, job: Job) -> Schedule:
    made = labels(job, reckoner.wiring(job).topology, label_ratings(reckoner, job))
    rows = tuple((label.place, label.text, label.reason) for label in made)
    heads = (Head("Place", share=28), Head("Text", share=48), Head("Because", share=24))
    return Schedule("labels", "Labels", heads, rows)


def shutdown_schedule(reckoner: Reckoner, job: Job) -> Schedule:
    """The steps of shutting down, in the order that they are printed in."""
    steps = isolation(job, reckoner.wiring(job).topology).shutdown
    rows = tuple(
        (
            float(number),
            step.words,
            step.place,
            step.why,
            ", ".join(step.proofs),
            float(step.live),
            step.group,
        )
        for number, step in enumerate(steps, start=1)
    )
    heads = (
        Head("Step", share=6), Head("Switch", share=26), Head("Of", share=12),
        Head("Put here because", share=14), Head("Prove dead at", share=22), Head("Still live", share=8),
        Head("Group", share=12),
    )  # fmt: skip
    return Schedule("shutdown", "Shutdown", heads, rows)


def bought(topology: Topology, devices: Iterable[tuple[Cell, ...]]) -> tuple[tuple[Cell, ...], ...]:
    """The rows of devices without the operator's, the service's own, and what is built into a unit or a
    gateway."""
    there = {
        part.name
        for part in topology.parts.values()
        if part.way == "supply" or part.decided_by.startswith("site/supply") or part.kind == "relay"
    }
    return tuple(row for row in devices if row[0] not in there)
