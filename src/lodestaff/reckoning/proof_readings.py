"""The handful of figures of the Commission and Handover stations."""

from lodestaff.commissioning.reading import Status
from lodestaff.commissioning.record import Proof, StepResult
from lodestaff.commissioning.words import bounds_words
from lodestaff.quantities import Figure, Input, Provenance, Source
from lodestaff.reckoning.readings import Reading

JOURNAL = Source("the job's journal", Provenance.JOB)


def commission_readings(proof: Proof) -> list[Reading]:
    """How many steps are passed, doubtful, failed and open, and the last number that was read."""
    count = max(1, len(proof.results))
    rows = (
        (Status.PASSED, "passed"),
        (Status.DOUBTFUL, "warns"),
        (Status.FAILED, "blocks"),
        (Status.OPEN, "open"),
    )
    readings = []
    for status, look in rows:
        number = proof.count(status)
        inputs = tuple(
            Input(result.step.id, result.judgement.words)
            for result in proof.results
            if result.status is status
        )
        figure = Figure(
            f"Steps {status}",
            number,
            unit="",
            formula="counted in the procedure",
            inputs=inputs[:12],
            source=JOURNAL,
        )
        shown = look if number or status is Status.PASSED else "passed"
        readings.append(
            Reading(
                f"Steps {status}",
                figure,
                f"of {len(proof.results)}",
                shown,
                number / count,
                better_up=status is Status.PASSED,
            )
        )
    last = _last_number(proof)
    return [*readings, _as_reading(last)] if last is not None else readings


def _last_number(proof: Proof) -> StepResult | None:
    read = [
        result
        for result in proof.results
        if result.reading is not None and result.reading.numbers and result.step.rule.unit
    ]
    return max(reversed(read), key=lambda result: result.reading.at if result.reading else "", default=None)


def _as_reading(result: StepResult) -> Reading:
    assert result.reading is not None
    expected = result.judgement.expected
    inputs = () if expected is None else (Input("expected", expected.value, expected.unit),)
    source = Source(expected.source, Provenance.DERIVED) if expected else JOURNAL
    figure = Figure(
        "Last reading",
        result.reading.numbers[0],
        unit=result.step.rule.unit,
        formula=result.step.text,
        inputs=inputs,
        source=source,
    )
    status = {Status.PASSED: "passed", Status.DOUBTFUL: "warns", Status.FAILED: "blocks", Status.OPEN: "open"}
    return Reading(
        "Last reading", figure, bounds_words(expected) if expected else "", status[result.status], 0.0
    )


def handover_readings(proof: Proof, pages: int, whole: int, missing: int) -> list[Reading]:
    """How much of the pack stands: pages with nothing missing, and steps passed."""
    share = whole / pages if pages else 0.0
    figure = Figure(
        "Pages complete",
        whole,
        unit="",
        formula="pages with nothing missing",
        inputs=(Input("missing", missing),),
        source=JOURNAL,
    )
    done = Reading(
        "Pages complete",
        figure,
        f"of {pages}",
        "passed" if pages and whole == pages else "open",
        share,
        better_up=True,
    )
    return [done, *commission_readings(proof)[:1]]
