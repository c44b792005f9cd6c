"""Faults put into findings on purpose: value and limit swapped, the sense turned, two keywords swapped, a
verdict turned.

Each is put into one call of a maker in `checks/`, the module is run anew with it, and its checks are asked
the records of all samples, and those of samples with one decision changed. A fault is caught where any key or
number of the answers changes; words are not looked at.
"""

import ast
import math
import random
from collections import Counter
from collections.abc import Iterator
from copy import deepcopy
from dataclasses import dataclass
from functools import cache
from importlib import import_module
from pathlib import Path
from types import ModuleType

from lodestaff import checks
from lodestaff.checks import Verdict, makers
from lodestaff.checks import check as registry
from lodestaff.checks.check import Check
from lodestaff.quantities.errors import JobError

FOLDER = Path(checks.__file__).parent
SENSE = {"at_most": "at_least", "at_least": "at_most"}
PAIRS = (("value", "limit"), ("limit", "margin"), ("limit", "near"), ("value", "margin"))
ASIDE = (
    "makers",
    "check",
    "finding",
    "table",
    "__init__",
    "runs",
)  # modules that register no check of their own
MAKERS = ("at_most", "at_least", "one_of", "noted", "open_")


@dataclass(frozen=True)
class Mutant:
    """One fault: in which module, in the call that begins on which line, and which."""

    module: str
    line: int
    fault: str

    def __str__(self) -> str:
        return f"{self.module}.py:{self.line} {self.fault}"


def mutants() -> list[Mutant]:
    """All faults, in the order of the files."""
    found = []
    for path in sorted(FOLDER.glob("*.py")):
        if path.stem not in ASIDE:
            tree = ast.parse(path.read_text())
            found += [
                Mutant(path.stem, call.lineno, fault) for call in _calls(tree) for fault in _faults(call)
            ]
    return found


def a_tenth(seed: int) -> list[Mutant]:
    every = mutants()
    return random.Random(seed).sample(every, len(every) // 10)


def _calls(tree: ast.AST) -> Iterator[ast.Call]:
    for one in ast.walk(tree):
        if isinstance(one, ast.Call) and isinstance(one.func, ast.Name) and one.func.id in MAKERS:
            yield one


def _faults(call: ast.Call) -> Iterator[str]:
    assert isinstance(call.func, ast.Name)
    named = {one.arg: one.value for one in call.keywords if one.arg}
    alike = "value" in named and "limit" in named and ast.dump(named["value"]) == ast.dump(named["limit"])
    if call.func.id in SENSE and not alike:
        yield "the sense turned"
    for one, other in PAIRS:
        if one in named and other in named and ast.dump(named[one]) != ast.dump(named[other]):
            yield f"{one} and {other} swapped"
    if "verdict" in named or "worse" in named:
        yield "the verdict turned"


def _change(call: ast.Call, fault: str) -> None:
    assert isinstance(call.func, ast.Name)
    if fault == "the sense turned":
        call.func.id = SENSE[call.func.id]
    elif fault == "the verdict turned":
        for keyword in call.keywords:
            if keyword.arg in ("verdict", "worse"):
                turned = (
                    f"Verdict.BLOCKS if ({ast.unparse(keyword.value)}) is Verdict.PASSED else Verdict.PASSED"
                )
                keyword.value = ast.parse(turned, mode="eval").body
    else:
        one, _, other = fault.removesuffix(" swapped").partition(" and ")
        for keyword in call.keywords:
            keyword.arg = {one: other, other: one}.get(keyword.arg or "", keyword.arg)


@cache
def _tree(module: str) -> ast.Module:
    return ast.parse((FOLDER / f"{module}.py").read_text())


def checks_with(mutant: Mutant) -> list[Check]:
    """The checks of the module with the fault, registered nowhere."""
    tree = deepcopy(_tree(mutant.module))
    _change(next(one for one in _calls(tree) if one.lineno == mutant.line), mutant.fault)
    module, before = ModuleType(f"lodestaff.checks.{mutant.module}"), list(registry.REGISTERED)
    real = import_module(f"lodestaff.checks.{mutant.module}")
    module.__dict__.update({name: getattr(makers, name) for name in MAKERS} | {"Verdict": Verdict})
    try:
        # its records are those of the module itself, so only functions are run anew
        tree.body = [one for one in tree.body if not isinstance(one, ast.ClassDef)]
        module.__dict__.update({name: value for name, value in vars(real).items() if isinstance(value, type)})
        exec(compile(ast.fix_missing_locations(tree), str(FOLDER / mutant.module), "exec"), module.__dict__)
        return registry.REGISTERED[len(before) :]
    finally:
        registry.REGISTERED[:] = before


Tally = dict[str, float]


def tally(check: Check, records: list[object]) -> Tally:
    """What a check answers of its records, added up: how many of each verdict, and the sums of the
    numbers."""
    found: Tally = Counter()
    for record in records:
        try:
            answers = list(check.function(record))
        except (JobError, ArithmeticError, LookupError, TypeError, ValueError, AttributeError):
            found["refused"] += 1
            continue
        for one in answers:
            found[str(one.verdict)] += 1
            found["open"] += one.open
            found["cures"] += len(one.remedies)
            for name, value in (("value", one.value), ("limit", one.limit), ("margin", one.margin)):
                if value is not None and math.isfinite(value):
                    found[name] += value
    return found


def same(one: Tally, other: Tally) -> bool:
    """Equal counts; sums to a part in a million, for processors round differently."""
    return all(
        math.isclose(one.get(name, 0.0), other.get(name, 0.0), rel_tol=1e-6, abs_tol=1e-6)
        for name in {*one, *other}
    )


def caught(mutant: Mutant, records: dict[type, list[object]], agreed: dict[str, Tally]) -> bool:
    """Whether the checks of the module answer otherwise than was agreed, with the fault in it."""
    return any(not same(tally(one, records[one.record]), agreed[one.rule]) for one in checks_with(mutant))
