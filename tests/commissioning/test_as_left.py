"""What the delivered devices hold flows back as changes, and what those make void is asked for again."""

from dataclasses import replace

import pytest

from lodestaff.commissioning.as_left import as_left, taking
from lodestaff.commissioning.procedure import procedure
from lodestaff.commissioning.reading import Reading, Status
from lodestaff.commissioning.record import as_data, proof_of
from lodestaff.job import Change, edit, load_job
from lodestaff.job.journal import Entry
from lodestaff.samples import sample_path
from lodestaff.topology import build

AT = "2026-06-18T12:00:00+00:00"


def entries_of(*readings):
    return [
        Entry("reading", "", AT, "Ann", None, as_data(replace(one, by="Ann", at=AT)), f"e{number}")
        for number, one in enumerate(readings, start=1)
    ]


def left_of(job, entries):
    return {one.step: one for one in as_left(job, build(job), entries)}


def passed(job):
    """Whatever is confirmed, so that settings can be judged."""
    return [Reading(step.id, confirmed=True) for step in procedure(job, build(job)) if not step.needs]


def settings_read(job, **held):
    """Each setting as designed, some as they were found."""
    topology = build(job)
    found = []
    for step in procedure(job, topology):
        if step.measure.kind in ("setting", "setting by hand") and not step.needs:
            numbers = held.get(step.measure.subject, step.rule.wanted)
            found.append(Reading(step.id, tuple(numbers), way="link"))
    return found


@pytest.fixture(scope="module")
def demo():
    return load_job(sample_path("larkmoor"))


def test_nothing_was_left_otherwise(demo):
    assert left_of(demo, entries_of(*passed(demo), *settings_read(demo))) == {}


@pytest.mark.parametrize(
    ("key", "numbers", "path", "value"),
    [
        ("export_kw", (2.5,), "limits/export_kw", 2.5),
        ("reserve_soc", (60.0,), "limits/reserve_soc", None),
        ("charge_kw", (2.0,), "limits/charge_kw", 2.0),
    ],
)
def test_a_setting_flows_back(demo, key, numbers, path, value):
    entries = entries_of(*passed(demo), *settings_read(demo, **{key: numbers}))
    (left,) = left_of(demo, entries).values()
    assert not left.why_not
    assert [change.path for change in left.changes] == [path]
    if value is not None:
        assert left.changes[0].value == value
    made = edit(demo, *left.changes)
    after = proof_of(made, build(made), entries)
    assert after.result(left.step).status is Status.PASSED


def test_what_the_change_makes_void_is_asked_for_again(demo):
    entries = entries_of(*passed(demo), *settings_read(demo, export_kw=(2.5,)))
    limit = next(step for step in procedure(demo, build(demo)) if step.id == "export")
    entries += [replace(entries_of(Reading("export", (limit.rule.value,), way="link"))[0], id="e900")]
    (left,) = left_of(demo, entries).values()
    assert "export" in [again.step for again in left.anew]
    told = taking([left], entries)
    assert ("correction", "Withdrawn, the design was changed: export", "e900") in told
    entries += [Entry(kind, text, AT, "Ann", corrects, None, f"t{n}") for n, (kind, text, corrects)
                in enumerate(told)]  # fmt: skip
    made = edit(demo, *left.changes)
    proof = proof_of(made, build(made), entries)
    assert proof.result("export").reading is None or proof.result("export").reading.numbers == ()
    assert proof.result(left.step).status is Status.PASSED


def test_what_cant_flow_back_says_why(demo):
    clock = settings_read(demo, clock=(7200.0,))
    (left,) = left_of(demo, entries_of(*passed(demo), *clock)).values()
    assert "set right" in left.why_not
    (left,) = left_of(demo, entries_of(*passed(demo), *settings_read(demo, charge_kw=(99.0,)))).values()
    assert left.why_not.startswith("the design ")
    shares = load_job(sample_path("harrow"))
    found = left_of(shares, entries_of(*passed(shares), *settings_read(shares, export_kw=(9.9,))))
    assert found
    assert all("share" in one.why_not for one in found.values())


def test_another_type_was_delivered(demo):
    """A sheet of that name makes it a change; without one it is said what to do."""
    first = next(step for step in procedure(demo, build(demo)) if step.id == "type-hybrid")
    steps = {step.id for step in procedure(demo, build(demo))}
    assert {"type-hybrid", "type-battery", "type-of-module-440"} <= steps
    reading = Reading(first.id, said="hybrid 8 KVA")
    (left,) = left_of(demo, entries_of(*passed(demo), reading)).values()
    assert left.changes == (Change("units/hybrid/sheet", "hybrid-8"),)
    assert left.anew
    (left,) = left_of(demo, entries_of(*passed(demo), replace(reading, said="Hybrid 7"))).values()
    assert "add it to the shelf" in left.why_not
    same = Reading(first.id, said=first.rule.name.upper().partition(",")[0])
    assert left_of(demo, entries_of(*passed(demo), same)) == {}
