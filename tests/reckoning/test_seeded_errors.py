"""Wiring errors put into the samples on purpose, each found by its check and by no word of ours.

What a seed adds is a finding that the sound job hasn't got, or one that is graver there than before.
"""

import pytest

from lodestaff.checks import checks_named
from lodestaff.job import Change, edit, load_job
from lodestaff.reckoning.records import RECORDS
from lodestaff.samples import sample_path

GRAVER = {"passed": 0, "notes": 1, "open": 1, "warns": 2, "blocks": 3}
READ, MEASURED = {"known": "read on site"}, {"known": "measured"}
NO, YES = {"value": "no", **READ}, {"value": "yes", **READ}


def cable(run, **fields):
    return {f"cables/{run}/{name}": value for name, value in fields.items()}


# code that must find it, sample, what is wrong
SEEDS = [
    # conductors and devices, by the use of the run
    ("WIRE-AMP", "larkmoor", cable("tails", size_mm2=6)),
    ("WIRE-AMP", "larkmoor", cable("board-feed", size_mm2=4)),
    ("WIRE-AMP", "larkmoor", cable("hybrid-feed", device_a=100)),
    ("WIRE-AMP", "larkmoor", cable("hybrid-feed", device_a=25)),
    ("WIRE-AMP", "larkmoor", cable("hybrid-feed", device_a=None)),
    ("WIRE-AMP", "larkmoor", cable("hybrid-backup", grouping=6, insulation_mm=500)),
    ("WIRE-AMP", "larkmoor", cable("hybrid-array-a", size_mm2=1.5, ambient_c=90)),
    ("WIRE-AMP", "larkmoor", cable("battery-run", size_mm2=1.5)),
    ("WIRE-AMP", "wendle-row-14", cable("tails", size_mm2=2.5)),
    ("WIRE-AMP", "sallow-bank-cottage", cable("hybrid-backup", size_mm2=1, grouping=6)),
    ("WIRE-AMP", "old-tannery-house", cable("bypass-feed", size_mm2=2.5)),
    ("WIRE-AMP", "juniper-draw-ranch", cable("interlock-first-feed", size_mm2=5.26)),
    ("WIRE-AMP", "juniper-draw-ranch", cable("second-feed", size_mm2=3.31, device_a=60)),
    ("WIRE-AMP", "cinder-flat-house", cable("hybrid-feed", size_mm2=13.3)),
    ("WIRE-AMP", "cinder-flat-house", cable("battery-run", device_a=200)),
    ("WIRE-AMP", "cinder-flat-house", cable("hybrid-array-a", size_mm2=3.31, ambient_c=70, grouping=6)),
    ("WIRE-AMP", "brockle-vicarage", cable("gateway-feed", size_mm2=1.5, length_m=60, device_a=63)),
    ("WIRE-AMP", "brockle-vicarage", cable("charger-lock-feed", size_mm2=2.5)),
    ("WIRE-AMP", "pinfold-terrace-3", cable("branch-2-feed", size_mm2=1, device_a=32)),
    ("WIRE-AMP", "gannet-point-lodge", cable("second-feed", size_mm2=1.5, device_a=40)),
    ("WIRE-AMP", "gannet-point-lodge", cable("battery-unit-1-feed", ambient_c=60)),
    ("WIRE-AMP", "tern-quay-boatshed", cable("gateway-feed", size_mm2=4)),
    ("WIRE-AMP", "harrow-mill-flats", cable("battery-2-run", size_mm2=2.5)),
    ("WIRE-AMP", "ocotillo-wash-centre", cable("generator-run", size_mm2=5.26)),
    ("WIRE-AMP", "ocotillo-wash-centre", cable("grid-1-feed", table="Al")),
    ("WIRE-AMP", "brindle-mesa-field-station", cable("hybrid-2-backup", size_mm2=3.31)),
    ("WIRE-AMP", "brindle-mesa-field-station", cable("board-feed", device_a=60)),
    ("WIRE-AMP", "ludd-hall-annexe", cable("hybrid-1-feed", size_mm2=1, device_a=40)),
    ("WIRE-AMP", "sotol-ridge-house", cable("tails", size_mm2=67.43)),
    ("WIRE-AMP", "far-byre", cable("outbuilding-feed", size_mm2=2.5, length_m=60)),
    ("WIRE-AMP", "cobbler-s-yard-workshop", cable("hybrid-feed", size_mm2=6)),
    ("WIRE-AMP", "larch-fold-barn", cable("hybrid-array-a", size_mm2=1.5, grouping=6)),
    ("WIRE-AMP", "skerry-light-cottage", cable("generator-run", size_mm2=1.5)),
    ("WIRE-AMP", "quern-hall-joinery", cable("tails", size_mm2=6)),
    # drop and rise
    ("WIRE-DROP", "larkmoor", cable("hybrid-feed", length_m=120)),
    ("WIRE-DROP", "cinder-flat-house", cable("hybrid-array-b", length_m=90)),
    ("WIRE-DROP", "far-byre", cable("outbuilding-feed", length_m=150)),
    ("WIRE-DROP", "gannet-point-lodge", cable("branch-1-feed", length_m=70)),
    ("WIRE-DROP", "quern-hall-joinery", cable("hybrid-feed", length_m=200)),
    ("WIRE-DROP", "skerry-light-cottage", cable("battery-run", length_m=40)),
    # batteries
    ("STO-DC", "larkmoor", cable("battery-run", device_a=32)),
    ("STO-DC", "harrow-mill-flats", cable("battery-1-run", device_a=50)),
    ("STO-DC", "brindle-mesa-field-station", cable("battery-1-run", device_a=None)),
    # faults to earth
    ("WIRE-FAULT", "larkmoor", cable("hybrid-feed", curve="D")),
    ("WIRE-FAULT", "larkmoor", cable("hybrid-backup", rcd_ma=None)),
    ("WIRE-FAULT", "far-byre", cable("hybrid-backup", rcd_ma=None)),
    ("WIRE-FAULT", "wendle-row-14", cable("hybrid-feed", cpc_mm2=1, length_m=90)),
    ("WIRE-FAULT", "cinder-flat-house", cable("hybrid-feed", cpc_mm2=2.08)),
    ("WIRE-FAULT", "sotol-ridge-house", cable("gateway-feed", cpc_mm2=3.31)),
    ("WIRE-FAULT", "quern-hall-joinery", cable("board-feed", curve="D", length_m=80)),
    # residual-current devices
    ("WIRE-RCD", "larkmoor", cable("hybrid-feed", depth_mm=20)),
    ("WIRE-RCD", "larkmoor", cable("hybrid-feed", depth_mm=20, rcd_ma=300)),
    ("WIRE-RCD", "larkmoor", cable("hybrid-feed", rcd_ma=30, rcd_bidirectional=NO)),
    ("WIRE-RCD", "sallow-bank-cottage", cable("hybrid-backup", rcd_ma=300)),
    ("WIRE-RCD", "sallow-bank-cottage", cable("hybrid-backup", rcd_ma=None)),
    ("WIRE-RCD", "skerry-light-cottage", cable("hybrid-backup", rcd_ma=None)),
    ("WIRE-RCD", "far-byre", cable("outbuilding-feed", rcd_ma=30)),
    ("WIRE-RCD", "larkmoor", {
        "site/supply/earthing": {"value": "TT", **READ},
        "site/supply/electrode_ohm": {"value": 400, **MEASURED},
        **cable("hybrid-feed", rcd_ma=300)}),
    ("WIRE-RCD", "larch-fold-barn", {"sheets/hybrids/hybrid-5/residual_current_type": "B",
                                     **cable("hybrid-feed", rcd_ma=100, rcd_type="A")}),
    # earths and bonds
    ("SITE-EARTH", "sotol-ridge-house", {"site/supply/earthing_mm2": {"value": 8.37, **READ}}),
    ("WIRE-EARTH", "larkmoor", {"wiring/electrode": False}),
    ("WIRE-EARTH", "larkmoor", {"site/supply/electrode_ohm": {"value": 900, **MEASURED}}),
    ("WIRE-EARTH", "juniper-draw-ranch", {"parts/second-electrode": None}),
    ("WIRE-EARTH", "gannet-point-lodge", {"parts/second-electrode": None}),
    ("WIRE-EARTH", "far-byre", cable("outbuilding-feed", rcd_ma=None)),
    ("WIRE-EARTH", "skerry-light-cottage", {"parts/electrode": None}),
    ("WIRE-BOND", "far-byre", {"units/hybrid/bond": "none"}),
    ("WIRE-BOND", "juniper-draw-ranch", {"units/hybrid/bond": "link"}),
    ("WIRE-BOND", "brockle-vicarage", {"parts/gateway/bond": "link"}),
    ("WIRE-BOND", "brockle-vicarage", {"parts/gateway/bond": "none"}),
    ("WIRE-BOND", "sotol-ridge-house", {"parts/gateway/bond": "link"}),
    ("WIRE-BOND", "gannet-point-lodge", {"parts/second/link": True}),
    ("WIRE-BOND", "ocotillo-wash-centre", {"parts/generator/bonded": True}),
    ("WIRE-BOND", "brindle-mesa-field-station", {"parts/board/link": False}),
    # transfers
    ("WIRE-XFER", "old-tannery-house", {"parts/bypass/interlocked": False}),
    ("WIRE-XFER", "juniper-draw-ranch", {"parts/interlock/interlocked": False}),
    ("WIRE-XFER", "cinder-flat-house", {"parts/bypass/rated_a": 40}),
    ("WIRE-XFER", "brockle-vicarage", {"parts/gateway/rated_a": 63}),
    ("WIRE-XFER", "skerry-light-cottage", {"parts/surplus/rated_a": 6}),
    # transformers
    ("WIRE-CT", "far-byre", {"parts/ct/reversed": True}),
    ("WIRE-CT", "far-byre", {"parts/ct/on": ["board"]}),
    ("WIRE-CT", "quern-hall-joinery", {"parts/ct/phases": "L1"}),
    ("WIRE-CT", "ocotillo-wash-centre", {"parts/ct-1/on": ["main-isolator"]}),
    # arrays
    ("ARR-ISO", "larkmoor", cable("hybrid-array-a", isolator_v=300)),
    ("ARR-ISO", "larkmoor", cable("hybrid-array-a", isolator_a=10)),
    ("WIRE-SPD", "larkmoor", cable("hybrid-array-a", surge="none")),
    ("WIRE-SPD", "quern-hall-joinery", cable("hybrid-array-b", surge="one end", length_m=40)),
    ("WIRE-SPD", "larkmoor", cable("hybrid-array-a", surge="both ends", surge_lead_m=1.2)),
    ("WIRE-ISO", "juniper-draw-ranch", {"site/supply/outside_disconnect": NO}),
    ("LOAD-CONT", "brindle-mesa-field-station", {"circuits/well/running_w": 19_000}),
    ("WIRE-FILL", "larkmoor", cable("hybrid-feed", outside_mm=15.0, gland_least_mm=9.0, gland_most_mm=14.0)),
    ("WIRE-FILL", "larkmoor", cable("hybrid-backup", outside_mm=48.0)),
    ("WIRE-FILL", "larkmoor", {"containments": [
        {"id": "way", "name": "Attic", "size": "trunking 50x50", "runs": ["hybrid-feed", "battery-run"]}]}),
    ("WIRE-FILL", "cinder-flat-house", {"containments": [
        {"id": "way", "name": "Attic", "size": "EMT 1/2", "runs": ["hybrid-feed"], "metal": False}]}),
    ("ARR-RSD", "cinder-flat-house", {"parts/transmitter": None}),
    ("ARR-FUSE", "larch-fold-barn", cable("hybrid-array-a", string_fuse_a=63)),
    # boards, devices, meters, places
    ("WIRE-BUS", "far-byre", {"parts/outbuilding/busbar_a": {"value": 50, **READ}}),
    ("WIRE-BUS", "ocotillo-wash-centre", {
        "parts/grid-1/busbar_a": {"value": 125, **READ},
        "parts/grid-1/sources_sit": {"value": "elsewhere", **READ}}),
    ("WIRE-ICC", "quern-hall-joinery", {
        "mains/fault_ka": {"value": 16, **MEASURED}, **cable("hybrid-feed", breaking_ka=3)}),
    ("WIRE-ICC", "larkmoor", {
        "sheets/batteries/battery-48/fault_ka": 20, **cable("battery-run", breaking_ka=10)}),
    ("WIRE-SEL", "larkmoor", cable("hybrid-backup", selective=NO)),
    ("WIRE-METER", "wendle-row-14", {"adjustments/hybrid-meter/two_way": False}),
    ("WIRE-NEUTRAL", "ocotillo-wash-centre", {"circuits/lab-lights/neutral_board": "grid-1"}),
    ("WIRE-PLAN", "far-byre", {"adjustments/hybrid-isolator/into": "hybrid:nowhere"}),
    ("WIRE-ISO", "far-byre", {"adjustments": []}),
    ("WIRE-ISO", "larkmoor",
     {"reorderings": [{"part": "hybrid-array-a-isolator", "before": "hybrid", "why": "nearer"}]}),
    ("WIRE-LIVE", "far-byre", {"parts/essential/fed_from": "block"}),
    ("WIRE-LIVE", "brockle-vicarage", {"parts/charger-lock/closes": "in island mode"}),
]  # fmt: skip


def answers(reckoner, job, code):
    """What the checks of a code say of a job, by key."""
    return {
        one.key: one
        for check in checks_named(code)
        if check.applies(job.pack)
        for record in RECORDS[check.record](reckoner, job, True)
        for one in check.function(record)
    }


@pytest.mark.parametrize(
    ("code", "name", "wrong"), SEEDS, ids=[f"{n}-{seed[0]}" for n, seed in enumerate(SEEDS)]
)
def test_an_error_is_found_by_its_check(reckoner, code, name, wrong):
    job = load_job(sample_path(name))
    before = answers(reckoner, job, code)
    now = answers(reckoner, edit(job, *(Change(path, value) for path, value in wrong.items())), code)
    graver = [
        one
        for key, one in now.items()
        if one.status != "passed"
        and (
            key not in before
            or GRAVER[one.status] > GRAVER[before[key].status]
            or (one.blocks and not before[key].blocks)
        )
    ]
    assert graver, [(one.status, one.text) for one in now.values()][:6]


def test_there_are_enough_of_them():
    assert len(SEEDS) >= 80
    assert len({code for code, _, _ in SEEDS}) >= 18
    assert len({name for _, name, _ in SEEDS}) == 20
