"""Every figure, outage, finding, step and setting of a sample as lines of plain words and numbers.

What is shown to people is left out: words may be mended, numbers and verdicts change on purpose only.
`python -m tests.golden.lines` writes the files anew; a commit that does says which numbers changed, and why.
"""

from collections.abc import Iterator
from dataclasses import fields
from pathlib import Path

from lodestaff.commissioning.expect import Conditions
from lodestaff.commissioning.procedure import procedure
from lodestaff.commissioning.settings_sheet import settings_sheet
from lodestaff.job import Job
from lodestaff.reckoning import Moment, Reckoner
from lodestaff.reckoning.results import compute

FOLDER = Path(__file__).parent
MEASURED = Conditions(poa_w_m2=800.0, module_c=45.0, voltage_v=236.0, load_kw=2.8)


def lines_of(reckoner: Reckoner, job: Job) -> list[str]:
    """The lines of a job, in an order that no wording changes."""
    return [" ".join(parts) for parts in (*_figures(reckoner, job), *_steps(reckoner, job))]


def _number(value: float | None) -> str:
    return "-" if value is None else f"{value:.7g}" if abs(value) > 1e-9 else "0"


def _word(text: str) -> str:
    return text.replace(" ", "_") or "-"


def _figures(reckoner: Reckoner, job: Job) -> Iterator[tuple[str, ...]]:
    results = compute(reckoner, job, Moment(), deep=True, with_promise=True)
    for one in fields(results.figures):
        value = getattr(results.figures, one.name)
        if one.name == "money":
            for money in fields(value):
                yield "money", money.name, _number(getattr(value, money.name))
        else:
            yield "figure", one.name, _number(None if value is None else float(value))
    yield "promise", _number(results.promise_soc), _number(results.promise_cost)
    for view in results.outages:
        yield (
            "outage",
            view.unit,
            _number(view.outage.hours),
            str(view.outage.reason),
            _number(view.start_kwh),
        )
    rows = [
        (
            "finding",
            one.code,
            str(one.verdict),
            "open" if one.open else "firm",
            _word(one.state),
            _word(",".join(one.subjects)),
            _word(one.unit),
            _number(one.value),
            _number(one.limit),
            _number(one.margin),
            str(len(one.remedies)),
        )
        for one in results.findings
    ]
    yield from sorted(
        rows, key=lambda row: (*row[:7], *(float(cell) if cell != "-" else 0.0 for cell in row[7:10]))
    )


def _steps(reckoner: Reckoner, job: Job) -> Iterator[tuple[str, ...]]:
    topology = reckoner.wiring(job).topology
    for step in procedure(job, topology):
        try:
            expected = step.rule.expected(MEASURED)
        except ValueError:
            expected = None
        bounds = (
            (expected.unit, expected.value, expected.low, expected.high)
            if expected is not None
            else ("", *[None] * 3)
        )
        yield (
            "step",
            step.id,
            _word(step.stage),
            "needs" if step.needs else "ready",
            _word(bounds[0]),
            *(_number(value) for value in bounds[1:]),
        )
    for setting in settings_sheet(job, topology):
        value = _number(setting.value) if isinstance(setting.value, float) else _word(str(setting.value))
        yield "setting", setting.unit, setting.key, value, *(_number(one) for one in setting.numbers)


def _write() -> None:
    from lodestaff.job import load_job
    from lodestaff.job.attachments import read_attachment
    from lodestaff.samples import sample_names, sample_path

    for name in sample_names():
        path = sample_path(name)
        reckoner = Reckoner(lambda digest, path=path: read_attachment(path, digest))
        (FOLDER / f"{name}.txt").write_text("\n".join(lines_of(reckoner, load_job(path))) + "\n")


if __name__ == "__main__":
    _write()
