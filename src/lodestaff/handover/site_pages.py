"""Pages that follow from the day on site: settings as left, results, isolation, labels, serials,
signatures."""

from collections.abc import Sequence

from lodestaff.commissioning.reading import NOT_MEASURED, Reading, Status
from lodestaff.commissioning.record import Proof, StepResult
from lodestaff.commissioning.rules import Named
from lodestaff.commissioning.settings_sheet import settings_sheet
from lodestaff.commissioning.words import bounds_words, conditions_words, reading_words
from lodestaff.handover.built_page import photos_of
from lodestaff.handover.model import Block, Caution, ModuleMap, Page, Sign, Table, Text
from lodestaff.handover.schedule_pages import table_of
from lodestaff.handover.serials import serials, wanted_serials
from lodestaff.job import Job
from lodestaff.job.journal import Entry
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.schedules import label_schedule
from lodestaff.register import Register
from lodestaff.topology import Topology
from lodestaff.wiring.cautions import all_off
from lodestaff.wiring.isolation import HandStep, Isolation, isolation


def settings_page(job: Job, topology: Topology, proof: Proof) -> Page:
    """The settings sheet with what was read back."""
    by_id = {result.step.id: result for result in proof.results}
    rows, missing = [], []
    names = {unit.id: unit.name for unit in job.units}
    for setting in settings_sheet(job, topology):
        result = by_id.get(f"set-{setting.unit}-{setting.key}")
        status = result.status if result else Status.OPEN
        when = result.reading.at[:16].replace("T", " ") if result and result.reading else ""
        left = "as the sheet" if status is Status.PASSED else reading_words(result) if result else ""
        name = f"{names[setting.unit]}: {setting.name}" if len(names) > 1 else setting.name
        rows.append((name, setting.shown, left, str(status), setting.way, when))
        if status not in (Status.PASSED, Status.DOUBTFUL):
            missing.append(name)
    columns = ("Setting", "The sheet says", "Left at", "Read back", "Way in", "When")
    table = Table(columns, tuple(rows), (15, 30, 13, 11, 16, 15), mark=3, name="Settings")
    words = (
        (f"{len(missing)} of {len(rows)} settings were not read back: {', '.join(missing)}",)
        if missing
        else ()
    )
    return Page("settings", "Settings as left", (table,), words)


def results_page(proof: Proof) -> Page:
    """Every step with reading, conditions, bounds, verdict, and who took it with what."""
    rows, missing = [], []
    for result in proof.results:
        reading = result.reading
        by = _taken_by(reading)
        when = reading.at[:16].replace("T", " ") if reading else ""
        bounds = _passes(result)
        rows.append(
            (
                result.step.text,
                reading_words(result),
                bounds,
                conditions_words(reading),
                str(result.status),
                "" if result.status is Status.PASSED else result.judgement.words,
                f"{by} {when}".strip(),
            )
        )
        if result.status is Status.FAILED or (reading is not None and reading.put_off):
            missing.append(f"{result.step.text.rstrip('.')}: {result.status}, {result.judgement.words}")
    waiting = [result for result in proof.results if result.status is Status.OPEN]
    if waiting:
        missing.append(f"{len(waiting)} of {len(rows)} steps are open, the first: {waiting[0].step.text}")
    rehearsed = sum(result.reading is not None and result.reading.simulated for result in proof.results)
    if rehearsed:
        missing.append(
            f"{rehearsed} readings were taken at the simulated site: a rehearsal proves nothing of the "
            "real one"
        )
    columns = ("Step", "Reading", "Passes", "Measured beside it", "Verdict", "Because", "By, when")
    table = Table(columns, tuple(rows), (27, 10, 13, 12, 9, 12, 17), mark=4, name="Results")
    return Page("results", "Test results", (table,), tuple(missing))


def _taken_by(reading: Reading | None) -> str:
    """Who took it, with what; a reading of the simulated site says so."""
    if reading is None:
        return ""
    how = "over the link" if reading.way == "link" else reading.instrument if reading.numbers else ""
    return ", ".join(part for part in (reading.by, how, "rehearsed" if reading.simulated else "") if part)


def _passes(result: StepResult) -> str:
    """Within which bounds a step passes; what hangs on conditions is known once they are measured."""
    if result.judgement.expected is not None:
        return bounds_words(result.judgement.expected)
    if isinstance(result.step.rule, Named):
        return result.step.rule.name
    if result.step.rule.asks:
        return "by the measured conditions"
    return bounds_words(result.step.rule.expected(NOT_MEASURED))


def _hands(steps: tuple[HandStep, ...], job: Job, down: bool) -> Table:
    rows = []
    for number, step in enumerate(steps, start=1):
        caution = job.pack.caution(step.caution) if step.caution else ""
        live = f"{step.live} conductors, from {', '.join(step.live_from) or 'nothing'}"
        words = step.words + (f" ({step.place})" if step.place else "")
        words += f". Put here by hand: {step.why}" if step.why else ""
        words += ". Under load: its unit still runs" if step.loaded else ""
        proofs = (", ".join(step.proofs) or "-",) if down else ()
        rows.append((str(number), step.group, words, *proofs, live, caution))
    heads = ("", "Group", "Switch", *(("Prove dead at",) if down else ()), "Then still live", "Caution")
    shares = (4, 12, 22, 20, 14, 28) if down else (4, 12, 28, 18, 38)
    return Table(heads, tuple(rows), shares, name="")


def isolation_page(job: Job, topology: Topology) -> Page:
    """Shutting this site down and starting it again, with its own devices."""
    steps = isolation(job, topology)
    stays = tuple((words, ", ".join(sources)) for words, sources in steps.stays_live)
    blocks: tuple[Block, ...] = (
        Text("Shutting down", "head"),
        Text(_derived_words(steps), "small"),
        _hands(steps.shutdown, job, down=True),
        *photos_of(job, (step.part for step in steps.shutdown)),
        Caution(job.pack.caution("prove_dead")),
        Text("Live with everything off", "head"),
        Table(("Conductor", "Live from"), stays, (75, 25), name="Stays live"),
        Caution(all_off(job, topology)),
        Text("Starting again", "head"),
        _hands(steps.restart, job, down=False),
    )
    return Page("isolation", "Shutdown and restart", blocks)


def _derived_words(shutdown: Isolation) -> str:
    moved = sum(bool(step.why) for step in shutdown.shutdown)
    words = "In this order, derived from this site's own devices; each source by itself."
    if moved:
        words += f" Put elsewhere by hand: {moved} of {len(shutdown.shutdown)}, each with its reason."
    gone = ", ".join(f"{reordering.part} ({reordering.why})" for reordering in shutdown.strays)
    return f"{words} Moved by hand, but not there any more: {gone}." if gone else words


def labels_page(reckoner: Reckoner, job: Job) -> Page:
    """What is to be stuck where."""
    return Page("labels", "Labels", (table_of(label_schedule(reckoner, job)),))


def serials_page(job: Job, entries: Sequence[Entry]) -> Page:
    """Serial numbers of every unit, and of the modules by position."""
    held, wanted = serials(entries), wanted_serials(job)
    rows = tuple((photo.name, photo.place, held.get(photo.id, "")) for photo in wanted)
    none = [photo for photo in wanted if photo.id not in held]
    missing = (f"{len(none)} of {len(wanted)} serial numbers were not taken",) if none else ()
    table = Table(("Part", "Place", "Serial number"), rows, (35, 40, 25), name="Serials")
    mapped = (ModuleMap(),) if any(face.modules for face in job.faces) else ()
    return Page("serials", "Serial numbers and module map", (*mapped, table), missing)


def signatures_page(job: Job, proof: Proof, register: Register) -> Page:
    """Who answers for it, the instruments used, and places to sign."""
    took = dict.fromkeys(
        result.reading.by for result in proof.results if result.reading and result.reading.by
    )
    licences = {person.name: person.licence for person in register.people}
    people = tuple((name, licences.get(name, "not in the register")) for name in took)
    used = dict.fromkeys(
        (r.instrument, r.calibrated_until)
        for result in proof.results
        if (r := result.reading) and r.instrument and r.numbers
    )
    serial = {instrument.name: instrument.serial for instrument in register.instruments}
    instruments = tuple((name, serial.get(name, ""), until or "unknown") for name, until in used)
    none = Text("None named so far.", "small")
    blocks: tuple[Block, ...] = (
        Text("People", "head"),
        Table(("Name", "Licence"), people, (50, 50), name="People") if people else none,
        Text("Instruments", "head"),
        Table(
            ("Instrument", "Serial number", "Calibrated until"), instruments, (40, 30, 30), name="Instruments"
        )
        if instruments
        else none,
        Text("Signatures", "head"),
        Sign("Installed and tested", next(iter(took), "")),
        Sign("Taken over by the customer"),
        Caution(job.pack.caution("licence")),
    )
    missing = []
    if not took:
        missing.append("nobody is named who took the readings")
    unknown = [name for name, until in used if not until]
    missing += [f"calibration of {name} is unknown" for name in unknown]
    return Page("signatures", "People and signatures", blocks, tuple(missing))
