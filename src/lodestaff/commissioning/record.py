"""From the journal to the state of the procedure: the last uncorrected reading of each step, judged in
order."""

from collections.abc import Iterable, Sequence
from dataclasses import asdict, dataclass
from typing import Any

from lodestaff.commissioning.expect import Conditions
from lodestaff.commissioning.procedure import procedure
from lodestaff.commissioning.reading import Judgement, Reading, Status, judge
from lodestaff.commissioning.step import Step
from lodestaff.commissioning.string_steps import unnoted, voltage_step
from lodestaff.job import Job
from lodestaff.job.journal import Entry, standing
from lodestaff.quantities.errors import JobError
from lodestaff.topology import Topology

BUILT_ON = (Status.PASSED, Status.DOUBTFUL)


@dataclass(frozen=True)
class StepResult:
    """A step, its last reading with the id of its journal entry, and what that says."""

    step: Step
    reading: Reading | None
    entry: str | None
    judgement: Judgement

    @property
    def status(self) -> Status:
        return self.judgement.status


@dataclass(frozen=True)
class Proof:
    """The whole procedure as it stands."""

    results: tuple[StepResult, ...]

    def result(self, step: str) -> StepResult:
        return next(result for result in self.results if result.step.id == step)

    def count(self, status: Status) -> int:
        return sum(result.status is status for result in self.results)

    @property
    def first_open(self) -> StepResult | None:
        """The first step that is neither passed nor waiting for something from outside."""
        waits = [result for result in self.results if result.status in (Status.OPEN, Status.FAILED)]
        ready = [
            wait for wait in waits if not (wait.reading and wait.reading.put_off) and not wait.step.needs
        ]
        return next(iter(ready), None)

    def proven(self) -> frozenset[str]:
        """Parts and conductors whose every step has passed."""
        good: dict[str, bool] = {}
        for result in self.results:
            for name in result.step.proves:
                good[name] = good.get(name, True) and result.status in BUILT_ON
        return frozenset(name for name, proven in good.items() if proven)


def as_data(reading: Reading) -> dict[str, Any]:
    """A reading as the journal keeps it."""
    return asdict(reading)


def from_data(data: dict[str, Any], where: str) -> Reading:
    """A reading from its journal line. Raises JobError for a damaged one."""
    try:
        conditions = Conditions(**data.get("conditions", {}))
        numbers = tuple(float(number) for number in data.get("numbers", ()))
        rest = {key: value for key, value in data.items() if key not in ("conditions", "numbers")}
        reading = Reading(**rest, conditions=conditions, numbers=numbers)
    except (TypeError, ValueError) as trouble:
        raise JobError(f"is no reading: {trouble}", where, "correct the line by a further entry") from trouble
    return reading


def usable(entries: Sequence[Entry]) -> tuple[tuple[Entry, ...], tuple[str, ...]]:
    """Entries without readings whose data can't be used, and of each of those what is wrong."""
    kept, wrong = [], []
    for entry in entries:
        try:
            if entry.kind == "reading" and entry.data is not None:
                from_data(entry.data, f"journal entry {entry.id}")
        except JobError as trouble:
            wrong.append(f"{trouble}; it is left out")
        else:
            kept.append(entry)
    return tuple(kept), tuple(wrong)


def last_readings(entries: Sequence[Entry]) -> dict[str, tuple[str, Reading]]:
    """Of each step the last reading that was not withdrawn, with its entry's id."""
    readings: dict[str, tuple[str, Reading]] = {}
    for id, entry in standing(entries, "reading"):
        reading = from_data(entry.data or {}, f"journal entry {id}")
        if reading.state and reading.step in readings:
            continue  # the link gave nothing: what was read before stands
        readings[reading.step] = (id, reading)
    return readings


def absent_strings(job: Job, readings: Iterable[Reading]) -> frozenset[str]:
    """Strings whose voltage test was put off: they are not in yet. One of which the job knows too little to
    hold it against anything may be in all the same."""
    put_off = {r.step for r in readings if r.put_off}
    return frozenset(
        string.id for string in job.strings if voltage_step(string.id) in put_off and not unnoted(job, string)
    )


def proof_of(job: Job, topology: Topology, entries: Sequence[Entry]) -> Proof:
    """The procedure of a job as its journal leaves it."""
    last = last_readings(entries)
    steps = procedure(job, topology, absent_strings(job, (reading for _, reading in last.values())))
    passed: dict[str, bool] = {}
    results = []
    taken = {step: reading for step, (_, reading) in last.items()}
    for step in steps:
        entry, reading = last.get(step.id, (None, None))
        judgement = judge(step, reading, passed, taken)
        passed[step.id] = judgement.status in BUILT_ON
        results.append(StepResult(step, reading, entry, judgement))
    return Proof(tuple(results))


def words_of(step: Step, reading: Reading) -> str:
    """A reading in a line for people, as the journal's text."""
    if reading.put_off:
        return f"{step.text} Put off: needs {reading.put_off}."
    if reading.state:
        return f"{step.text} No reading: {reading.state}."
    if reading.said:
        return f"{step.text} It reads {reading.said}."
    value = (
        ", ".join(f"{number:.6g}" for number in reading.numbers)
        if reading.numbers
        else ("yes" if reading.confirmed else "no")
    )
    return f"{step.text} {value} {step.rule.unit}".strip()
