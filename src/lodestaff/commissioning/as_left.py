"""What the delivered devices hold that the design doesn't: offered as changes, with the readings that each
makes void."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

from lodestaff.commissioning.again import Anew, read_anew
from lodestaff.commissioning.procedure import procedure
from lodestaff.commissioning.reading import Reading, Status
from lodestaff.commissioning.record import Proof, StepResult, last_readings, proof_of
from lodestaff.commissioning.rules import Named, SettingIs
from lodestaff.commissioning.settings_sheet import MODES as DEVICE_MODES
from lodestaff.commissioning.settings_sheet import Setting, settings_sheet, sheet_soc
from lodestaff.commissioning.shares import shares
from lodestaff.commissioning.supply_steps import setting_rule
from lodestaff.job import Change, Job, edit
from lodestaff.job.journal import Entry
from lodestaff.job.plan import Generator
from lodestaff.link.keys import unit_of, window_of
from lodestaff.quantities.convention import plain
from lodestaff.quantities.errors import JobError
from lodestaff.topology import Topology, build

MODES = {number: limits for limits, (_, number) in DEVICE_MODES.items()}
WHOLE = {"export_kw": "limits/export_kw", "import_kw": "limits/import_kw"}


@dataclass(frozen=True)
class AsLeft:
    """A device that was found otherwise than designed: in words, the changes that bring the design to it,
    or why none does, and what is then to be read anew."""

    step: str
    entry: str
    text: str
    changes: tuple[Change, ...] = ()
    why_not: str = ""
    anew: tuple[Anew, ...] = ()


def as_left(job: Job, topology: Topology, entries: Sequence[Entry]) -> tuple[AsLeft, ...]:
    """Every setting and type that was read and is not the design's, in the order of the procedure."""
    return tuple(_found(job, topology, proof_of(job, topology, entries), entries))


def taking(taken: Sequence[AsLeft], entries: Sequence[Entry]) -> list[tuple[str, str, str | None]]:
    """What the journal is told when differences are taken into the design: kind, text, and what it corrects.

    Readings that the change makes void are withdrawn: they are asked for again.
    """
    lines: list[tuple[str, str, str | None]] = [
        ("decision", f"As left: {difference.text}", None) for difference in taken
    ]
    last = last_readings(entries)
    gone = dict.fromkeys(again.step for difference in taken for again in difference.anew)
    for step in gone:
        if step in last:
            lines.append(("correction", f"Withdrawn, the design was changed: {step}", last[step][0]))
    return lines


def _found(job: Job, topology: Topology, proof: Proof, entries: Sequence[Entry]) -> Iterator[AsLeft]:
    sheet = {(setting.unit, setting.key): setting for setting in settings_sheet(job, topology)}
    for result in proof.results:
        reading, entry = result.reading, result.entry
        if result.status is not Status.FAILED or reading is None or entry is None:
            continue
        if isinstance(result.step.rule, Named) and reading.said:
            yield _type_left(job, result, reading, entry, entries)
        elif isinstance(result.step.rule, SettingIs) and reading.numbers:
            measure = result.step.measure
            setting = sheet[measure.unit, measure.subject]
            yield _setting_left(job, topology, setting, (entry, reading), entries)


def _setting_left(
    job: Job, topology: Topology, setting: Setting, taken: tuple[str, Reading], entries: Sequence[Entry]
) -> AsLeft:
    entry, reading = taken
    unit = unit_of(setting.key) or ("s" if setting.key == "clock" else "")
    held = ", ".join(f"{plain(number, 2)}{f' {unit}' if unit else ''}" for number in reading.numbers)
    text = (
        f"{job.unit(setting.unit).name}, {setting.name[0].lower()}{setting.name[1:]}: the device holds {held}"
    )
    text += f", the design {setting.shown}"
    left = AsLeft(reading.step, entry, text)
    if setting.key == "clock":
        return replace(left, why_not="a clock is set right; it is no part of the design")
    changes, why_not = _changes(job, topology, setting, reading.numbers)
    if why_not:
        return replace(left, why_not=why_not)
    return _tried(job, left, changes, entries, setting)


def _type_left(
    job: Job, result: StepResult, reading: Reading, entry: str, entries: Sequence[Entry]
) -> AsLeft:
    rule = result.step.rule
    assert isinstance(rule, Named)
    text = f"{result.step.text} It reads {reading.said}; the design has {rule.name}"
    left = AsLeft(reading.step, entry, text)
    same = [id for id, name in rule.others if Named.alike(name, reading.said)]
    if not same:
        why_not = f"the job has no sheet of that name: add it to the shelf, then replace {rule.name} by it"
        return replace(left, why_not=why_not)
    return _tried(job, left, tuple(Change(path, same[0]) for path in rule.paths), entries)


def _tried(
    job: Job,
    left: AsLeft,
    changes: tuple[Change, ...],
    entries: Sequence[Entry],
    setting: Setting | None = None,
) -> AsLeft:
    """The changes, if the design can hold them and then asks for what the device holds."""
    try:
        after = edit(job, *changes)
    except JobError as trouble:
        return replace(left, why_not=f"the design can't hold it: {trouble}")
    topology = build(after)
    readings = {step: reading for step, (_, reading) in last_readings(entries).items()}
    if setting is not None:
        now = next(
            (s for s in settings_sheet(after, topology) if (s.unit, s.key) == (setting.unit, setting.key)),
            None,
        )
        rule = setting_rule(now) if now is not None else None
        if not isinstance(rule, SettingIs) or not rule.holds(readings[left.step].numbers):
            why_not = f"the design would still ask for {now.shown}" if now is not None else "it would be gone"
            return replace(left, why_not=why_not)
    before = procedure(job, build(job))
    anew = tuple(
        repeat
        for repeat in read_anew(before, procedure(after, topology))
        if repeat.step in readings and repeat.step != left.step and not readings[repeat.step].empty
    )
    return replace(left, changes=changes, anew=anew)


def _changes(
    job: Job, topology: Topology, setting: Setting, numbers: tuple[float, ...]
) -> tuple[tuple[Change, ...], str]:
    """Where the design keeps a setting, with the device's values; or why it can't be told."""
    key, first = setting.key, numbers[0]
    bank = job.bank_of(job.unit(setting.unit))
    if key in WHOLE:
        share = shares(job, topology)[setting.unit]
        if getattr(job.unit(setting.unit), key) is not None:
            return (Change(f"units/{setting.unit}/{key}", first),), ""
        own = share.export_kw if key == "export_kw" else share.import_kw
        whole = job.limits.export_kw if key == "export_kw" else job.limits.import_kw
        if own is None or share.split or abs(own - whole) > 0.0051:
            return (), "it is this unit's share, or holds meanwhile: set it again, or change the site's limit"
        return (Change(WHOLE[key], first),), ""
    if key in ("charge_kw", "discharge_kw") and bank is not None:
        path = f"banks/{bank.id}/{key}" if len(job.banks) > 1 else f"limits/{key}"
        own_path = getattr(bank, key) is not None
        return (Change(f"banks/{bank.id}/{key}" if own_path else path, first),), ""
    if key == "peak_kw" and len(job.banks) == 1:
        return (Change("limits/peak_kw", first),), ""
    if key == "late":
        return (Change("limits/keep_room", first >= 0.5),), ""
    if key == "mode":
        return (Change("limits/mode", MODES.get(first, "serve circuits")),), ""
    if bank is None:
        return (), "where the design keeps it isn't known"
    cells = job.sheets.batteries[bank.sheet]
    if key in ("reserve_soc", "shed_soc"):
        return (Change(f"limits/{key}", sheet_soc(first, cells)),), ""
    if (window := window_of(key)) is not None and len(numbers) == 4:
        start, end, target, kw = numbers
        values = {"start_h": start, "end_h": end, "target_soc": sheet_soc(target, cells), "power_kw": kw}
        return tuple(Change(f"limits/windows/{window}/{name}", value) for name, value in values.items()), ""
    part = next((p for p in job.parts if isinstance(p, Generator) and p.started_by == setting.unit), None)
    if part is not None and key in ("generator_start_soc", "generator_stop_soc"):
        name = key.removeprefix("generator_")
        return (Change(f"parts/{part.id}/{name}", sheet_soc(first, cells)),), ""
    return (), "where the design keeps it isn't known"
