"""A check: its code, what it asks, where it stands, which record it takes and which packs it is for, beside
its function."""

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, replace
from functools import wraps
from typing import Any, TypeVar, get_type_hints

from lodestaff.catalogue import Pack
from lodestaff.checks.finding import Finding

Record = TypeVar("Record")
Function = Callable[[Record], list[Finding]]


@dataclass(frozen=True)
class Check:
    """One registered check. `rules` are the conductor rules of the packs that it is for."""

    code: str
    question: str
    station: str
    record: type
    function: Callable[[Any], list[Finding]]
    limit_from: str
    rules: tuple[str, ...]
    part: str = ""  # where several checks answer under one code

    @property
    def rule(self) -> str:
        """What names this check alone: its code, and its part of it."""
        return f"{self.code}: {self.part}" if self.part else self.code

    def applies(self, pack: Pack) -> bool:
        return pack.conductor_rule in self.rules


REGISTERED: list[Check] = []


def check(
    code: str, part: str = "", *, station: str, rests_on: str, rules: tuple[str, ...] = ("IEC", "NEC")
) -> Callable[[Callable[[Record], Iterator[Finding]]], Function[Record]]:
    """Register a function as a check of the record that it takes; its docstring is the question that it
    answers.

    Its findings bear its code and rule, and the owner and, where they name none, the subjects of the record.
    """

    def register(function: Callable[[Record], Iterator[Finding]]) -> Function[Record]:
        rule = f"{code}: {part}" if part else code

        @wraps(function)
        def run(record: Record) -> list[Finding]:
            owner, subjects = owner_of(record), subjects_of(record)
            return [
                replace(finding, code=code, rule=rule, owner=owner, subjects=finding.subjects or subjects)
                for finding in function(record)
            ]

        takes = next(iter(get_type_hints(function).values()))
        question = (function.__doc__ or "").strip()
        REGISTERED.append(
            Check(
                code=code,
                question=question,
                station=station,
                record=takes,
                function=run,
                limit_from=rests_on,
                rules=rules,
                part=part,
            )
        )
        return run

    return register


class Owned:
    """A record of one part, whose findings are about it."""

    owner: str

    @property
    def subjects(self) -> tuple[str, ...]:
        return (self.owner,)


def subjects_of(record: object) -> tuple[str, ...]:
    """What the findings of a record are about, where they don't say it: its subjects, else the part that it
    is of."""
    subjects: Iterable[str] = getattr(record, "subjects", (getattr(record, "id", ""),))
    return tuple(subject for subject in subjects if subject)


def owner_of(record: object) -> str:
    """The unit, leg or bank that a record is of, by id; '' where it is of the whole installation."""
    return str(getattr(record, "owner", ""))
