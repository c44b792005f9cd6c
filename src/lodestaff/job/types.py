"""Constrained values that the parts of a job are made of."""

from typing import Annotated

from pydantic import Field

HOURS, MONTHS = 24, 12

Identifier = Annotated[str, Field(pattern=r"^[a-z0-9][a-z0-9-]*$", max_length=40)]
SheetName = Annotated[str, Field(max_length=40)]  # of the job's sheets; '' names none
Share = Annotated[float, Field(ge=0, le=1)]
NotNegative = Annotated[float, Field(ge=0, le=1e6)]
Positive = Annotated[float, Field(gt=0, le=1e6)]
Hour = Annotated[float, Field(ge=0, le=24)]
DayWeights = Annotated[tuple[NotNegative, ...], Field(min_length=HOURS, max_length=HOURS)]
MonthWeights = Annotated[tuple[NotNegative, ...], Field(min_length=MONTHS, max_length=MONTHS)]
MonthShares = Annotated[
    tuple[Annotated[float, Field(gt=0.05, lt=0.85)], ...], Field(min_length=12, max_length=12)
]
MonthTemperatures = Annotated[
    tuple[Annotated[float, Field(ge=-60, le=60)], ...], Field(min_length=12, max_length=12)
]
