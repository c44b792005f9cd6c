"""From the procedure's results to the records of the checks of the day on site."""

from lodestaff.checks.commission import StepProof
from lodestaff.commissioning.record import Proof, StepResult

KINDS = {"setting": "setting", "setting by hand": "setting", "balance": "balance"}
MEASURED = (("irradiance", "poa_w_m2", "W/m²"), ("module temperature", "module_c", "°C"), ("supply", "voltage_v", "V"),
            ("known load", "load_kw", "kW"))  # fmt: skip


def step_proofs(proof: Proof) -> tuple[StepProof, ...]:
    """A record for each step that was read."""
    return tuple(_record(one) for one in proof.results if one.reading is not None and one.reading.numbers)


def _record(result: StepResult) -> StepProof:
    step, reading, judged = result.step, result.reading, result.judgement
    assert reading is not None
    conditions = reading.conditions
    measured = tuple(
        (name, value, unit) for name, field, unit in MEASURED if (value := getattr(conditions, field)) is not None
    )
    expected = judged.expected
    return StepProof(
        step.id,
        step.text,
        KINDS.get(step.measure.kind, "reading"),  # type: ignore[arg-type]
        judged.status.value,
        judged.words,
        reading.numbers[0],
        step.rule.unit,
        expected.value if expected else None,
        expected.low if expected else None,
        expected.high if expected else None,
        expected.source if expected else "",
        measured,
        bool(step.waits_for) and "waits for" in judged.words,
        reading.by,
        reading.instrument,
        judged.unproven_by,
        step.proves[:1],
    )
