"""Faults put into findings on purpose are seen by keys and numbers; the words are never looked at.

`./run mutate` tries them all; here a tenth of them. `python -m tests.mutation.test_faults` writes what was
agreed on anew, after a check was changed on purpose.
"""

import json
import sys
from pathlib import Path

import pytest
from tests.mutation.mutants import a_tenth, caught, mutants, same, tally
from tests.mutation.records import all_records

from lodestaff.checks import CHECKS

AGREED = Path(__file__).with_name("answers.json")
SEED = 20261127


@pytest.fixture(scope="module")
def records():
    return all_records()


@pytest.fixture(scope="module")
def agreed():
    return json.loads(AGREED.read_text())


def test_every_check_answers_as_was_agreed(records, agreed):
    assert [one.rule for one in CHECKS if not same(tally(one, records[one.record]), agreed[one.rule])] == []


@pytest.mark.parametrize("mutant", a_tenth(SEED), ids=str)
def test_a_fault_is_caught(mutant, records, agreed):
    assert caught(mutant, records, agreed)


def _every_fault() -> int:
    """All faults; says those that nothing sees, and how many."""
    records, agreed = all_records(), json.loads(AGREED.read_text())
    unseen = [one for one in mutants() if not caught(one, records, agreed)]
    for one in unseen:
        print(f"not caught: {one}")
    print(f"{len(mutants())} faults, {len(unseen)} not caught")
    return 1 if unseen else 0


def _write() -> None:
    records = all_records()
    rows = {
        one.rule: {
            name: float(f"{value:.9g}") for name, value in sorted(tally(one, records[one.record]).items())
        }
        for one in CHECKS
    }
    AGREED.write_text(
        "{\n" + ",\n".join(f"{json.dumps(rule)}: {json.dumps(row)}" for rule, row in rows.items()) + "\n}\n"
    )


if __name__ == "__main__":
    sys.exit(_every_fault()) if "--all" in sys.argv else _write()
