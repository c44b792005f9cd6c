"""From the procedure's results to the records of the checks of the day on site."""

from lodestaff.checks.commission import StepProof
from lodestaff.commissioning.record import Proof, StepResult

KINDS = {"setting": "setting", "setting by hand": "setting", "balance": "balance"}
MEASURED = (("irradiance", "poa_w_m2", "W/m²"), ("module temperature", "module_c", "°C"),
            ("supply", "voltage_v", "V"), ("known load", "load_kw", "kW"))  # fmt: skip


def step_proofs(proof: Proof) -> tuple[StepProof, ...]:
    """A record for each step that was read."""
    return tuple(
        _record(result) for result in proof.results if result.reading is not None and result.reading.numbers
    )


def _record(result: StepResult) -> StepProof:
    step, reading, judged = result.step, result.reading, result.judgement
    assert reading is not None
    values = [(name, getattr(reading.conditions, field), unit) for name, field, unit in MEASURED]
    expected = judged.expected
    return StepProof(
        owner=step.id,
        text=step.text,
        kind=KINDS.get(step.measure.kind, "reading"),  # type: ignore[arg-type]
        status=judged.status.value,
        because=judged.words,
        value=reading.numbers[0],
        unit=step.rule.unit,
        expected=expected.value if expected else None,
        low=expected.low if expected else None,
        high=expected.high if expected else None,
        source=expected.source if expected else "",
        measured=tuple((name, value, unit) for name, value, unit in values if value is not None),
        waits=bool(step.waits_for) and "waits for" in judged.words,
        by=reading.by,
        instrument=reading.instrument,
        calibration_doubt=judged.unproven_by,
        subjects=step.proves[:1],
    )
