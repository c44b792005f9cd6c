"""Checks of the day on site: readings against what was expected, settings read back, balance, order, instruments."""

from dataclasses import dataclass
from typing import Literal

from lodestaff.checks.finding import Finding, Verdict
from lodestaff.quantities import Figure, Input, Provenance, Source

PRACTICE = Source("commissioning records", Provenance.COMMON_PRACTICE)
GIVEN = {"passed": Verdict.PASSED, "doubtful": Verdict.WARNS, "failed": Verdict.BLOCKS}


@dataclass(frozen=True)
class StepProof:
    """A step with its reading as judged. `value` is None while nothing was read; bounds are None where there are none."""

    id: str
    text: str
    kind: Literal["reading", "setting", "balance"]
    status: Literal["passed", "doubtful", "failed", "open"]
    because: str
    value: float | None
    unit: str
    expected: float | None
    low: float | None
    high: float | None
    source: str
    measured: tuple[tuple[str, float, str], ...]
    waits: bool
    by: str
    instrument: str
    calibration_doubt: bool
    subjects: tuple[str, ...]


def com_expect(step: StepProof) -> list[Finding]:
    """COM-EXPECT: each reading against the value expected for the measured conditions."""
    return _held(step, "COM-EXPECT") if step.kind == "reading" else []


def com_readback(step: StepProof) -> list[Finding]:
    """COM-READBACK: each setting written is read back and equal."""
    return _held(step, "COM-READBACK") if step.kind == "setting" else []


def com_balance(step: StepProof) -> list[Finding]:
    """COM-BALANCE: sources and sinks add up within converter losses and the meters' error."""
    return _held(step, "COM-BALANCE") if step.kind == "balance" else []


def com_order(step: StepProof) -> list[Finding]:
    """COM-ORDER: a step whose prerequisite is open can't be passed."""
    if step.status != "open" or step.value is None or not step.waits:
        return []
    text = f"{step.text.rstrip('.')}: read ahead of its turn, {step.because}."
    return [Finding("COM-ORDER", Verdict.WARNS, text, _figure(step), limit_source=PRACTICE, subjects=step.subjects,
                    advice="pass the steps before it, then read it again")]  # fmt: skip


def com_age(step: StepProof) -> list[Finding]:
    """COM-AGE: instruments within their calibration; readings with person, time and instrument."""
    if not step.calibration_doubt:
        return []
    text = f"{step.text.rstrip('.')}: not proven, {step.because}."
    return [Finding("COM-AGE", Verdict.WARNS, text, _figure(step), limit_source=PRACTICE, subjects=step.subjects,
                    advice="take the reading again, named, with an instrument in its calibration")]  # fmt: skip


def _held(step: StepProof, code: str) -> list[Finding]:
    """One finding for a step that was read and judged by its bounds."""
    if step.value is None or step.status not in GIVEN or step.calibration_doubt:
        return []
    near = [abs(step.value - bound) for bound in (step.low, step.high) if bound is not None]
    margin = None if not near else min(near) * (-1 if step.status == "failed" else 1)
    limit = None
    if near:
        bounds = [bound for bound in (step.low, step.high) if bound is not None]
        limit = min(bounds, key=lambda bound: abs(step.value - bound) if step.value is not None else 0.0)
    source = Source(step.source or "procedure", Provenance.DERIVED)
    advice = "find the cause, mend it, read again" if step.status == "failed" else ""
    return [Finding(code, GIVEN[step.status], f"{step.text.rstrip('.')}: {step.because}.", _figure(step), limit, margin, source,
                    advice=advice, subjects=step.subjects)]  # fmt: skip


def _figure(step: StepProof) -> Figure:
    inputs = tuple(Input(name, value, unit, "measured") for name, value, unit in step.measured)
    if step.expected is not None:
        inputs += (Input("expected", step.expected, step.unit, "computed"),)
    by = ", ".join(part for part in (step.by, step.instrument) if part)
    return Figure(step.text, step.value if step.value is not None else float("nan"), step.unit,
                  "reading, held against what is expected for the measured conditions", inputs,
                  Source(step.source or "read on site", Provenance.JOB), f"taken by {by}" if by else "")  # fmt: skip
