"""Busbar rules reached by a job's findings: a unit on a panel of its own main and busbar.

Source of all examples: NEC 705.12(B) (from memory; the numbering of its paragraphs differs between cycles).
"""

import pytest

from lodestaff.checks import checks_named
from lodestaff.job import Change, edit, load_job
from lodestaff.reckoning.records import RECORDS
from lodestaff.samples import sample_path

READ = {"known": "read on site"}
PANEL = "grid-1"


@pytest.fixture(scope="module")
def centre():
    return load_job(sample_path("ocotillo-wash-centre"))


def panel(job, inverter_w, busbar_a, main_a, far=True):
    """The first grid panel with one inverter on it."""
    sheet = f"sheets/hybrids/{job.unit('hybrid-1').sheet}"
    where = {"value": "opposite the main" if far else "elsewhere", **READ}
    return edit(
        job,
        Change(f"{sheet}/rated_kva", inverter_w / 1000),
        Change(f"{sheet}/rated_kw", inverter_w / 1000),
        Change(f"{sheet}/surge_kva", 2 * inverter_w / 1000),
        Change(f"parts/{PANEL}/busbar_a", {"value": busbar_a, **READ}),
        Change(f"parts/{PANEL}/sources_sit", where),
        Change(f"cables/{PANEL}-feed/device_a", main_a),
    )


def bus(reckoner, job):
    (check,) = checks_named("WIRE-BUS")
    rows = [one for record in RECORDS[check.record](reckoner, job, False) for one in check.function(record)]
    return next(one for one in rows if PANEL in one.subjects)


def inputs(finding):
    return {one.name: one.value for one in finding.figure.inputs}


def test_the_120_per_cent_rule(reckoner, centre):
    """200 A busbar and main, 7.6 kW: room 40 A, need 39.58 A; at the far end only; 7.68 kW at most."""
    kept = bus(reckoner, panel(centre, 7600, 200, 200))
    assert kept.status == "passed", kept.text
    assert kept.figure.value == pytest.approx(39.58, rel=1e-3)
    assert kept.limit == pytest.approx(40.0)
    assert inputs(kept)["largest sources by the 120 % rule"] == pytest.approx(32.0)
    assert bus(reckoner, panel(centre, 7600, 200, 200, far=False)).blocks
    assert not bus(reckoner, panel(centre, 7679, 200, 200)).blocks
    assert bus(reckoner, panel(centre, 7681, 200, 200)).blocks


def test_a_larger_busbar_or_a_smaller_main(reckoner, centre):
    """11.4 kW: 225 A leaves 70 A for 59.38 A; 200 A does not; main at most 180.6 A: 175 A."""
    assert bus(reckoner, panel(centre, 11400, 225, 200)).status == "passed"
    small = bus(reckoner, panel(centre, 11400, 200, 200))
    assert small.blocks
    assert inputs(small)["need"] == pytest.approx(59.38, rel=1e-3)
    assert inputs(small)["largest main by the 120 % rule"] == pytest.approx(180.6, rel=1e-3)
    (remedy,) = small.remedies
    assert remedy.changes[0].value == 175
    cured = bus(reckoner, edit(panel(centre, 11400, 200, 200), *remedy.changes))
    assert cured.status == "passed"


def test_the_100_per_cent_rule_needs_no_end(reckoner, centre):
    """By hand: 125 A of main and 1.25 x 31.67 A = 39.58 A are 164.58 A, below 200 A at either end."""
    assert bus(reckoner, panel(centre, 7600, 200, 125, far=False)).status == "passed"


def test_the_sum_of_breakers(reckoner, centre):
    """125 A: 20 + 20 + 15 + 15 + 30 of loads and 20 of the source are 120 A; 15 more are 135 A, too many."""
    job = panel(centre, 3800, 125, 125, far=False)
    wiring = reckoner.wiring(job)
    board = next(board for board in wiring.boards if board.id == PANEL)
    branches = [20, 20, 15, 15, 30]
    moved = list(board.circuits)[: len(branches)]
    job = edit(job, *(Change(f"circuits/{c.id}/board", "grid-2") for c in job.circuits
                      if c.id in board.circuits and c.id not in moved))  # fmt: skip
    feeders = [one.run for one in wiring.topology.conductors if one.a[0] == PANEL and one.run]
    others = [run for run in dict.fromkeys(feeders) if run != "hybrid-1-feed"]
    rest = branches[len(moved) :]
    assert len(others) <= len(rest) or not others
    changes = [Change(f"circuits/{name}/device_a", {"value": amps, **READ})
               for name, amps in zip(moved, branches, strict=False)]  # fmt: skip
    changes += [Change(f"cables/{run}/device_a", amps) for run, amps in zip(others, rest, strict=False)]
    total = sum(branches[: len(moved) + len(others)]) + 20
    job = edit(job, *changes, Change("cables/hybrid-1-feed/device_a", 20))
    kept = bus(reckoner, job)
    assert inputs(kept)["sum of branch and source devices"] == pytest.approx(total)
    assert kept.status == "passed"
    over = edit(
        job, Change(f"circuits/{moved[0]}/device_a", {"value": branches[0] + 125 - total + 1, **READ})
    )
    assert bus(reckoner, over).blocks


def test_what_was_not_read_stays_open(reckoner, centre):
    assert bus(reckoner, centre).status == "open"
    job = edit(panel(centre, 7600, 200, 200), Change(f"parts/{PANEL}/sources_sit", {"value": None}))
    assert bus(reckoner, job).status == "open"
    job = edit(panel(centre, 7600, 200, 200), Change(f"cables/{PANEL}-feed/device_a", None))
    assert bus(reckoner, job).status == "open"


def test_other_packs_hold_the_sum_of_devices(reckoner):
    """Source: BS 7671 551.7.2 (from memory): 100 A for 63 A of supply and 40 A of a source is too little."""
    job = load_job(sample_path("far-byre"))
    main, source = Change("cables/outbuilding-feed/device_a", 63), Change("cables/hybrid-feed/device_a", 40)

    def found(busbar_a):
        rated = Change("parts/outbuilding/busbar_a", {"value": busbar_a, **READ})
        (check,) = checks_named("WIRE-BUS")
        records = RECORDS[check.record](reckoner, edit(job, main, source, rated), False)
        return next(one for record in records for one in check.function(record))

    assert found(100).blocks
    assert found(125).status == "passed"
    anz = load_job(sample_path("gannet-point-lodge"))
    (check,) = checks_named("WIRE-BUS")
    assert all(one.status == "open" for record in RECORDS[check.record](reckoner, anz, False)
               for one in check.function(record))  # fmt: skip
