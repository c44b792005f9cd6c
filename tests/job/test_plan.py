"""Parts of the plan: what hangs together is taken, what doesn't is refused with where and what would be
right."""

import json

import pytest

from lodestaff.job import Change, edit
from lodestaff.job.edit import validated
from lodestaff.job.migrate import migrated
from lodestaff.quantities.errors import JobError
from lodestaff.templates import KINDS, compose


@pytest.fixture(scope="module")
def gateway_job():
    return compose(KINDS["F"].wanted)


@pytest.mark.parametrize(
    ("path", "value", "words"),
    [
        ("parts/board/fed_from", "nowhere", "'nowhere' is not there; choose from"),
        ("parts/board/fed_from", "board", "feeds itself"),
        ("parts/gateway/fed_from", "board", "feeds itself"),
        ("parts/gateway/rated_a", -5, "greater than 0"),
        ("parts/gateway/bond", "somewhere", "'relay'"),
        ("parts/ct/serves", "nobody", "'nobody' is not there"),
        ("parts/board/id", "gateway", "stands twice"),
        ("units/inverter/fed_from", "nowhere", "is not there"),
        ("units/inverter/sheet", "none", "choose from"),
        ("units/inverter/phase", "L1+L9", "'L9' is not there"),
        ("circuits/fridge/board", "attic", "'attic' is not there"),
        ("circuits/fridge/phase", "L2", "'L2' is not there"),
        ("mains/system", "steam", "single phase"),
        ("mains/system", "three phases", "three phases has 3 phases or legs, and site phases names L1"),
        ("site/supply/earthing/value", "TN-X", "TN-C-S"),
        (
            "adjustments",
            [{"kind": "insert", "id": "a", "name": "A", "what": "kettle", "into": "board"}],
            "isolator",
        ),
        ("adjustments", [{"kind": "wish", "id": "a"}], "insert"),
    ],
)
def test_what_does_not_hang_together_is_refused_with_words(gateway_job, path, value, words):
    with pytest.raises(JobError, match=words.replace("+", r"\+")):
        edit(gateway_job, Change(path, value))


def test_a_plan_survives_being_written_and_read(gateway_job):
    again = validated(json.loads(gateway_job.model_dump_json()))
    assert again == gateway_job


def test_version_3_is_taken_as_it_stands(larkmoor):
    """What version 3 knew is unchanged: the short decisions stand for the same installation, every value
    kept."""
    data = larkmoor.model_dump(mode="json")
    old = {key: value for key, value in data.items() if key not in ("mains", "parts", "adjustments")}
    old["schema_version"] = 3
    for circuit in old["circuits"]:
        for key in ("board", "neutral_board", "also_on"):
            del circuit[key]
    for unit in old["units"]:
        for key in ("fed_from", "group", "count", "existing", "bond"):
            del unit[key]
    for name in ("isolators_open_neutral", "disconnects_max"):
        del old["pack"]["values"][name]
    assert validated(migrated(old, "old job")) == larkmoor


def test_families_are_seen_by_what_they_can_do():
    """A string inverter forms no island; a battery unit has no changeover; microinverters count by the
    branch."""
    for letter, unit, transfer, forms, kva in (
        ("F", "inverter", False, False, 6.0),
        ("F", "battery-unit", False, True, 8.0),
        ("C", "hybrid", True, True, 8.0),
        ("H", "branch-1", False, False, 4.4),
        ("N", "battery-unit-1", False, True, 7.2),
    ):
        job = compose(KINDS[letter].wanted)
        sheet = job.sheet_of(next(one for one in job.units if one.id == unit))
        assert (sheet.transfer, sheet.forms_island, sheet.rated_kva) == (transfer, forms, pytest.approx(kva))
