"""Checks of the day on site: readings against what was expected, settings read back, balance, order,
instruments."""

from dataclasses import dataclass
from typing import Literal

from lodestaff.checks.check import check
from lodestaff.checks.finding import Findings, Verdict
from lodestaff.checks.makers import Words, noted, resting_on
from lodestaff.quantities import Input, Provenance, Source

PRACTICE = Source("commissioning records", Provenance.COMMON_PRACTICE)
GIVEN = {"passed": Verdict.PASSED, "doubtful": Verdict.WARNS, "failed": Verdict.BLOCKS}


@dataclass(frozen=True)
class StepProof:
    """A step with its reading as judged. `value` is None while nothing was read; bounds are None where
    there are none."""

    owner: str
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

    @property
    def said(self) -> str:
        return self.text.rstrip(".")

    def figure(self) -> Words:
        inputs = tuple(Input(name, value, unit, "measured") for name, value, unit in self.measured)
        if self.expected is not None:
            inputs += (Input("expected", self.expected, self.unit, "computed"),)
        by = ", ".join(part for part in (self.by, self.instrument) if part)
        return Words(
            name=self.text,
            formula="reading, held against what is expected for the measured conditions",
            inputs=inputs,
            source=Source(self.source or "read on site", Provenance.JOB),
            note=f"taken by {by}" if by else "",
        )


@check("COM-EXPECT", station="commission", rests_on="design, standards of the tests")
def com_expect(step: StepProof) -> Findings:
    """Is each reading what is expected for the measured conditions?"""
    return _held(step, "reading")


@check("COM-READBACK", station="commission", rests_on="settings sheet")
def com_readback(step: StepProof) -> Findings:
    """Is each setting read back and equal?"""
    return _held(step, "setting")


@check("COM-BALANCE", station="commission", rests_on="common practice")
def com_balance(step: StepProof) -> Findings:
    """Do sources and sinks add up within the meters' error?"""
    return _held(step, "balance")


@check("COM-ORDER", station="commission", rests_on="equipment's start order")
def com_order(step: StepProof) -> Findings:
    """Was anything read ahead of what it waits for?"""
    if step.status == "open" and step.value is not None and step.waits:
        yield noted(
            verdict=Verdict.WARNS,
            text=f"{step.said}: read ahead of its turn, {step.because}.",
            value=step.value,
            unit=step.unit,
            **resting_on(step.figure(), PRACTICE),
            advice="pass the steps before it, then read it again",
        )


@check("COM-AGE", station="commission", rests_on="calibration dates in the register")
def com_age(step: StepProof) -> Findings:
    """Were instruments in their calibration, and is each reading somebody's?"""
    if step.calibration_doubt:
        yield noted(
            verdict=Verdict.WARNS,
            text=f"{step.said}: not proven, {step.because}.",
            value=step.value,
            unit=step.unit,
            **resting_on(step.figure(), PRACTICE),
            advice="take the reading again, named, with an instrument in its calibration",
        )


def _held(step: StepProof, kind: str) -> Findings:
    """One finding for a step of a kind that was read and judged by its bounds."""
    value, failed = step.value, step.status == "failed"
    if step.kind != kind or value is None or step.status not in GIVEN or step.calibration_doubt:
        return
    bounds = [(abs(value - bound), bound) for bound in (step.low, step.high) if bound is not None]
    margin, limit = min(bounds) if bounds else (None, None)
    source = Source(step.source or "procedure", Provenance.DERIVED)
    yield noted(
        verdict=GIVEN[step.status],
        text=f"{step.said}: {step.because}.",
        value=value,
        unit=step.unit,
        limit=limit,
        margin=None if margin is None else -margin if failed else margin,
        **resting_on(step.figure(), source),
        advice="find the cause, mend it, read again" if failed else "",
    )
