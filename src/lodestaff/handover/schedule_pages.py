"""The schedules: what carries the modules, strings and branches, runs of cable."""

from lodestaff.handover.model import Block, Page, Table, Text
from lodestaff.job import Job
from lodestaff.quantities import text_of
from lodestaff.quantities.convention import plain
from lodestaff.reckoning.array_orders import array_orders
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.records.array import string_limits
from lodestaff.reckoning.records.runs import runs
from lodestaff.reckoning.schedules import (
    Schedule,
    board_schedule,
    cable_schedule,
    containment_schedule,
    device_schedule,
    gland_schedule,
    link_schedule,
    termination_schedule,
)
from lodestaff.reckoning.single_cores import single_core_schedule
from lodestaff.roof.mounting import rails_of


def schedules_page(reckoner: Reckoner, job: Job) -> Page:
    """Strings and runs of cable."""
    strings = []
    branches = []
    for string in job.strings:
        limits = string_limits(job, string)
        if limits is None:
            continue
        volts, _ = limits
        parts = job.modules_in(string.id)
        count = sum(n for _, n in parts)
        unit = job.unit(string.unit)
        if job.sheet_of(unit).module_level:
            branches.append(
                (
                    unit.name,
                    f"{count}",
                    ", ".join(f"{n} {face.name}" for face, n in parts),
                    text_of(volts.voc_cold_v, "V"),
                    job.sheets.modules[parts[0][0].module].name,
                )
            )
            continue
        if job.optimisers_on(string) == "all":
            strings.append(
                (
                    string.name,
                    string.tracker,
                    ", ".join(f"{n} {face.name}" for face, n in parts),
                    f"about {count} V at rest",
                    "set by the optimisers",
                    job.sheets.modules[parts[0][0].module].name,
                )
            )
            continue
        span = f"{plain(count * volts.vmp_hot_v, 0)} to {plain(count * volts.vmp_cold_v, 0)} V"
        sheet = job.sheets.modules[parts[0][0].module]
        strings.append(
            (
                string.name,
                string.tracker,
                ", ".join(f"{n} {face.name}" for face, n in parts),
                text_of(count * volts.voc_cold_v, "V"),
                span,
                sheet.name,
            )
        )
    low, high = job.site.record_low_c, job.site.record_high_c
    words = (
        f"Record low {low.value if low.value is not None else 'unknown'} °C ({low.words()}), "
        f"record high {high.value if high.value is not None else 'unknown'} °C ({high.words()})."
    )
    heads = ("String", "Tracker", "Modules", "Cold open circuit", "Works between", "Module")
    micro = ("Branch", "Units", "Modules", "One module, cold open circuit", "Module")
    blocks = (
        *_mounting(job),
        *(
            (Text("Strings", "head"), Table(heads, tuple(strings), (9, 10, 24, 19, 20, 18), name="Strings"))
            if strings
            else ()
        ),
        *(
            (
                Text("Units behind modules", "head"),
                Table(micro, tuple(branches), (20, 10, 26, 24, 20), name="Branches"),
            )
            if branches
            else ()
        ),
        Text(words, "small"),
        *_orders(job),
        Text("Runs of cable", "head"),
        table_of(cable_schedule(reckoner, job)),
    )
    names = {run.id: run.name for run in runs(reckoner, job, False)}
    missing = [
        f"cable of {names.get(cable.id, cable.id)} is {cable.known.words()}"
        for cable in job.cables
        if not cable.known.firm
    ]
    if not job.cables:
        missing.append("no run of cable was entered")
    return Page("schedules", "Schedules", blocks, tuple(missing))


def wiring_page(reckoner: Reckoner, job: Job) -> Page:
    """Devices, boards, terminations and what carries signals: from these a person wires."""
    lists = (
        device_schedule(reckoner, job),
        single_core_schedule(reckoner, job),
        board_schedule(reckoner, job),
        termination_schedule(reckoner, job),
        containment_schedule(reckoner, job),
        gland_schedule(reckoner, job),
        link_schedule(reckoner, job),
    )
    blocks: list[Block] = []
    for schedule in lists:
        if schedule.rows:
            blocks += [Text(schedule.title, "head"), table_of(schedule)]
            blocks += [Text(schedule.note, "small")] if schedule.note else []
    return Page("wiring", "Devices and terminations", tuple(blocks))


def table_of(schedule: Schedule) -> Table:
    """A schedule as a table of the pack, its numbers kept for the workbook."""
    heads = schedule.heads
    return Table(
        tuple(head.heading for head in heads),
        schedule.texts(),
        tuple(head.share for head in heads),
        name=schedule.title,
        plain=schedule.rows,
        units=tuple(head.words for head in heads),
    )


def _mounting(job: Job) -> tuple[Block, ...]:
    """Rails, supports and clamps of the faces that have a mounting chosen: to order, and for the
    structure."""
    rows = []
    for face in job.faces:
        if not face.mounting_sheet or not face.modules:
            continue
        mounting = job.sheets.mountings[face.mounting_sheet]
        rails = rails_of(face, job.sheets.modules[face.module], mounting)
        if rails.pitch_m is None:
            continue
        lengths = (
            ""
            if mounting.rail_m is None
            else f", {rails.lengths(mounting.rail_m)} of {plain(mounting.rail_m)} m"
        )
        weight = "unknown"
        if rails.weight_kg is not None:
            weight = f"{plain(rails.weight_kg, 0)} kg, {plain(rails.weight_kg / rails.area_m2, 1)} kg/m²"
        rows.append(
            (
                face.name,
                str(len(face.modules)),
                f"{text_of(rails.rail_m, 'm', 1)}{lengths}",
                f"{rails.supports}, at most {text_of(rails.pitch_m, 'm', 2)} apart",
                f"{rails.end_clamps} + {rails.middle_clamps}",
                weight,
            )
        )
    if not rows:
        return ()
    heads = ("Face", "Modules", "Rail", "Supports", "Clamps, end + middle", "Weight")
    return (
        Text("Mounting", "head"),
        Table(heads, tuple(rows), (16, 9, 23, 22, 16, 14), name="Mounting"),
        Text("For whoever answers for the structure; wind and snow by the maker's tables.", "small"),
    )


def _orders(job: Job) -> tuple[Block, ...]:
    """When what of the array becomes live, by the order of the work."""
    rows = tuple(
        (order.name, order.order, moment.work, moment.live)
        for order in array_orders(job)
        for moment in order.moments
    )
    if not rows:
        return ()
    heads = ("Of", "Working order", "Work", "Live from then on")
    return (
        Text("When the array becomes live", "head"),
        Table(heads, rows, (12, 14, 34, 40), name="Live by order"),
        Text("In daylight. Whatever is left open at the end of a day is capped, and written down.", "small"),
    )
