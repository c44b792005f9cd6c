"""The pages of the pack: what must stand on each, and what is missing is said on it."""

from dataclasses import replace
from datetime import date

import pytest

from lodestaff.commissioning.record import as_data
from lodestaff.handover import Diagram, HandoverInput, Sign, Table, pages
from lodestaff.handover.serials import serial_data, serials, wanted_serials
from lodestaff.job import Change, edit
from lodestaff.job.journal import Entry
from lodestaff.measuring.rehearsal import rehearse
from lodestaff.plant import PlantStart
from lodestaff.register import load_register

AT = "2026-11-25T10:00:00+00:00"


@pytest.fixture(scope="module")
def register(larkmoor_path):
    return load_register(larkmoor_path.parent / "register" / "register.json")


@pytest.fixture(scope="module")
def rehearsed(larkmoor):
    return rehearse(larkmoor, PlantStart()).entries


def made(reckoner, job, entries=(), register=None):
    from lodestaff.register import Register

    found = pages(reckoner, HandoverInput(job, entries, register or Register(), date(2026, 11, 25)))
    return {page.id: page for page in found}


def tables(page):
    return {block.name: block for block in page.blocks if isinstance(block, Table)}


def test_every_page_is_there_in_order(reckoner, larkmoor):
    assert list(made(reckoner, larkmoor)) == [
        "owner",
        "owner-days",
        "owner-year",
        "owner-outage",
        "owner-doing",
        "owner-care",
        "owner-door",
        "owner-door-again",
        "summary",
        "permissions",
        "found",
        "split",
        "diagram",
        "schedules",
        "wiring",
        "places",
        "settings",
        "results",
        "isolation",
        "labels",
        "serials",
        "findings",
        "cautions",
        "signatures",
        "missing",
        "operator",
    ]


def test_what_is_missing_is_gathered_on_one_page(reckoner, larkmoor):
    found = made(reckoner, larkmoor)
    gathered = [row[2] for row in tables(found["missing"])["Missing"].rows]
    assert gathered == [gap for page in found.values() for gap in page.missing]
    assert len(gathered) > 5


def test_before_the_visit_everything_that_is_missing_is_said(reckoner, larkmoor):
    found = made(reckoner, larkmoor)
    assert any("62 of 62" in one for one in found["summary"].missing)
    assert any("firm" in one for one in found["summary"].missing)
    assert "12 of 12" in found["settings"].missing[0]
    assert any("62 of 62" in one for one in found["results"].missing)
    assert "23 of 23" in found["serials"].missing[0]
    assert found["signatures"].missing


def test_after_it_only_what_is_left_is_missing(reckoner, larkmoor, rehearsed, register):
    wanted = wanted_serials(larkmoor)
    entries = [
        *rehearsed,
        *(Entry("serial", "", AT, "", None, serial_data(one.id, f"S{n}")) for n, one in enumerate(wanted)),
    ]
    found = made(reckoner, larkmoor, entries, register)
    left = {name: page.missing for name, page in found.items() if page.missing}
    assert set(left) == {"results", "permissions", "found"}
    assert left["permissions"] == ("not granted: inspection",)
    assert left["found"] == ("not shown to the customer: Old feed to the kennels",)
    assert "62 readings were taken at the simulated site" in left["results"][0]
    real = [
        replace(one, data={**one.data, "simulated": False}) if one.kind == "reading" else one
        for one in entries
    ]
    after = made(reckoner, larkmoor, real, register)
    assert {name for name, page in after.items() if page.missing} == {"permissions", "found"}
    rest = edit(
        larkmoor,
        Change("site/permits/inspection/state", "granted"),
        Change("site/permits/inspection/date", "2026-11-20"),
        Change("site/found/kennel-feed/shown_to_customer", True),
    )
    assert not any(page.missing for page in made(reckoner, rest, real, register).values())
    assert "Fellbeck" in str(found["summary"].blocks)
    assert {row[3] for row in tables(found["settings"])["Settings"].rows} == {"passed"}


def test_a_failed_step_stands_on_the_results_and_the_findings(reckoner, larkmoor):
    from lodestaff.plant.faults import fault_named

    entries = rehearse(larkmoor, PlantStart(faults=(fault_named("module-missing"),))).entries
    found = made(reckoner, larkmoor, entries)
    assert any(
        "String 2: open-circuit voltage" in one and "failed" in one for one in found["results"].missing
    )
    assert any("COM-EXPECT" in one for one in found["findings"].missing)


def test_results_show_reading_conditions_and_bounds(reckoner, larkmoor, rehearsed):
    rows = {row[0]: row for row in tables(made(reckoner, larkmoor, rehearsed)["results"])["Results"].rows}
    voc = rows["String 1: open-circuit voltage and polarity at the isolator."]
    assert voc[1].endswith(" V")
    assert " to " in voc[2]
    assert "W/m²" in voc[3]
    assert "°C" in voc[3]
    assert "rehearsal" in voc[6]
    night = next(row for name, row in rows.items() if name.startswith("Charge window night"))
    assert night[1] == "01:00 to 05:00, to 80 % at 3.00 kW"
    assert next(row for name, row in rows.items() if name.startswith("Mode"))[1] == "time of use"


def test_what_was_put_off_says_what_it_needs(reckoner, larkmoor):
    from lodestaff.commissioning.reading import Reading

    entry = Entry(
        "reading",
        "",
        AT,
        "J. Marr",
        None,
        as_data(Reading("voc-string-2", put_off="sun", at=AT, by="J. Marr")),
    )
    missing = made(reckoner, larkmoor, [entry])["results"].missing
    assert any("needs sun" in one for one in missing)


def test_the_isolation_page_ends_with_what_stays_live(reckoner, larkmoor):
    page = made(reckoner, larkmoor)["isolation"]
    stays = tables(page)["Stays live"].rows
    assert {source for _, sources in stays for source in sources.split(", ")} == {"grid", "battery", "array"}


def test_the_diagram_and_the_signatures_have_their_blocks(reckoner, larkmoor):
    found = made(reckoner, larkmoor)
    assert any(isinstance(block, Diagram) for block in found["diagram"].blocks)
    assert sum(isinstance(block, Sign) for block in found["signatures"].blocks) == 2


def test_assumed_cables_and_circuits_are_missing(reckoner, larkmoor):
    job = edit(
        larkmoor,
        Change("cables/hybrid-feed/known/known", "assumed"),
        Change("circuits/server/known/known", "assumed"),
    )
    found = made(reckoner, job)
    assert any("Hybrid feed" in one for one in found["schedules"].missing)
    assert found["split"].missing


def test_serials_by_part_the_last_stands(larkmoor):
    wanted = wanted_serials(larkmoor)
    assert len(wanted) == len(larkmoor.units) + 4 + 18
    assert len({one.id for one in wanted}) == len(wanted)
    first = wanted[0].id
    lines = [Entry("serial", "", AT, "", None, serial_data(first, serial)) for serial in ("A1", "B2")]
    assert serials(lines) == {first: "B2"}
    assert serials([*lines, Entry("correction", "", AT, "", 2)]) == {first: "A1"}
    assert serials([*lines, Entry("serial", "", AT, "", None, serial_data(first, ""))]) == {}


def test_calibrations_that_are_unknown_are_missing(reckoner, larkmoor):
    from lodestaff.commissioning.reading import Reading

    taken = Reading("bonding", (0.02,), by="T. Okoro", instrument="borrowed meter", at=AT)
    found = made(reckoner, larkmoor, [Entry("reading", "", AT, "T. Okoro", None, as_data(taken))])
    assert any("borrowed meter" in one for one in found["signatures"].missing)


def test_the_summary_says_what_a_two_way_meter_counts(reckoner, larkmoor):
    """Out less in is all that the unit gives in the year, however it is split between the registers."""
    from lodestaff.handover.design_pages import meter_year

    (out, into, net) = meter_year(reckoner, larkmoor)["Hybrid"]
    series = reckoner.year(larkmoor).series
    assert net == pytest.approx(float((series.pv_ac_kw + series.battery_ac_kw).sum()) / 4)
    assert out > 0 < into  # the night window charges from the grid
    assert "out less in" in str(made(reckoner, larkmoor)["summary"].blocks)


def test_snags_stand_in_the_pack_until_they_are_put_right(larkmoor):
    from lodestaff.commissioning.snags import closing_data, snag_data
    from lodestaff.handover.record_pages import found_page
    from lodestaff.job.journal import Entry

    at = "2026-06-18T12:00:00+00:00"
    label = Entry("snag", "Label missing", at, "Ann", None, snag_data("Bo", "2026-07-01"), "e1")
    page = found_page(larkmoor, [label])
    assert page.missing[-1] == "to be put right: Label missing (Bo, by 2026-07-01)"
    done = Entry("snag", "", at, "Bo", None, closing_data("e1", "fitted"), "e2")
    page = found_page(larkmoor, [label, done])
    assert not any("put right" in words for words in page.missing)
    assert page.blocks[-1].rows == (("Label missing", "Bo", "2026-07-01", "fitted", "Bo 2026-06-18"),)


@pytest.mark.parametrize(
    ("chosen", "why", "words"),
    [
        ("", "", "Way of backup: still to be chosen"),
        ("board B", "", "Way of backup: board B was chosen, which isn't among what was offered"),
        ("board A", "", "Way of backup: board A was chosen, whole house advised, and nobody said why"),
        ("board A", "the kiln stays off", None),
        ("whole house", "", None),
    ],
)
def test_what_will_be_asked_of_a_choice_later_is_missing(larkmoor, chosen, why, words):
    from lodestaff.handover.record_pages import found_page

    choice = {"id": "c", "about": "Way of backup", "offered": "Whole house: 9 h; board A: 20 h",
              "advised": "whole house", "chosen": chosen, "why": why}  # fmt: skip
    missing = found_page(edit(larkmoor, Change("choices", [choice])), []).missing
    assert [one for one in missing if one.startswith("Way of backup")] == ([words] if words else [])


def test_the_page_of_places_is_there_where_walls_are(reckoner, larkmoor):
    """Walls, parts and ways as they are planned; no word of places where no wall is drawn."""
    page = made(reckoner, larkmoor)["places"]
    found = tables(page)
    assert [row[0] for row in found["Walls"].rows] == [wall.name for wall in larkmoor.walls]
    assert len(found["Parts on the walls"].rows) == len(larkmoor.standing)
    assert any(row[0] == "Battery run" for row in found["Ways of the cables"].rows)
    assert page.missing == ()
    less = edit(larkmoor, Change("standing", [one.model_dump() for one in larkmoor.standing[1:]]))
    assert "no place yet" in made(reckoner, less)["places"].missing[0]
    bare = edit(
        larkmoor,
        Change("passages", []),
        Change("standing", []),
        Change("arrangements", []),
        Change("walls", []),
    )
    assert "places" not in made(reckoner, bare)
