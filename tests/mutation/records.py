"""The records that faults are held to: those of all samples, of samples with a decision changed, and a few
by hand."""

from collections.abc import Iterator
from typing import Any

from tests.mutation.variants import variants

from lodestaff.checks.ageing import Life, Warmth
from lodestaff.checks.commission import StepProof
from lodestaff.checks.isolating import ShutdownSupply
from lodestaff.checks.live import Borrowed, Places
from lodestaff.checks.phases import Strange
from lodestaff.checks.transfer import Joining
from lodestaff.checks.windows import Overlaps
from lodestaff.job import Change, Job, edit, load_job
from lodestaff.job.attachments import read_attachment
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning import Reckoner
from lodestaff.reckoning.records import RECORDS
from lodestaff.samples import sample_names, sample_path

READ = {"value": "yes", "known": "read on site"}
FEED = {"id": "hybrid-feed", "length_m": 12, "ambient_c": 30, "known": READ}
SHEET, KA = {"value": "yes", "known": "data sheet"}, {"value": 3.0, "known": "measured"}
READ_OFF = {"selective": SHEET, "breaking_ka": 6.0}
FIRST = {"before": "hybrid", "why": "its lock hangs there"}
RUNS = ("board-feed", "hybrid-feed", "hybrid-backup", "hybrid-bypass-feed", "battery-run")
WAY = {"id": "way", "name": "Attic", "size": "EMT 2", "runs": ["hybrid-feed", "hybrid-array-a"],
       "known": READ, "bends_deg": 180.0, "metal": True}  # fmt: skip
PANEL = {"parts/grid-1/busbar_a": {"value": 150.0, "known": "read on site"}}
STUDS = {"id": "wall", "name": "Wall", "width_m": 5, "height_m": 3, "room": "garage",
         "build": {"value": "studs", "known": "read on site"},
         "behind": {"value": "bedroom", "known": "read on site"}}  # fmt: skip
BACKED = {"id": "battery-unit-1", "wall": "wall", "x_m": 1.5, "y_m": 0.2,
          "backing": {"value": "does not burn", "known": "read on site"}}  # fmt: skip
BY_VOLTS = {
    "parts/generator/start_by": "volts", "parts/generator/start_v": 48.5, "parts/generator/stop_v": 54.5,
    "sheets/batteries/battery-48/rest_v": [[0.0, 46.0], [0.2, 49.0], [0.9, 53.0], [1.0, 55.0]],
    "sheets/batteries/battery-48/inner_mohm": 40.0, "sheets/batteries/battery-48/wired": "parallel",
}  # fmt: skip
CABLE = {"name": "Cable, invented", "size_mm2": 10.0, "cores": 4, "conductor_c": 90.0, "max_v": 1000.0}
CHANGED: dict[str, tuple[dict[str, Any], ...]] = {
    "brindle-mesa-field-station": (
        {"circuits/well/running_w": 19_000, "circuits/well/known": READ},
        {"circuits/well/running_w": 17_000, "circuits/well/known": READ},
    ),
    "gannet-point-lodge": (
        {"parts/second/busbar_a": {"value": 63.0, "known": "read on site"}},
        {"walls": [STUDS], "standing": [{**BACKED, "reach_side_m": 0.5, "reach_above_m": 0.4}]},
        {"walls": [STUDS], "standing": [{**BACKED, "reach_side_m": 0.7, "reach_above_m": 0.8}]},
    ),
    "larkmoor": (
        {"circuits/car-charger/running_w": 7000.0},
        {"sheets/cables": {"c": CABLE}, "cables/hybrid-feed/sheet": "c"},
        {"sheets/cables": {"c": {**CABLE, "max_v": 200.0}}, "cables/hybrid-feed/sheet": "c"},
        {
            "cables/hybrid-feed/outside_mm": 11.2,
            "cables/hybrid-feed/gland_least_mm": 9.0,
            "cables/hybrid-feed/gland_most_mm": 14.0,
        },
        {
            "cables/hybrid-feed/outside_mm": 44.0,
            "cables/hybrid-feed/gland_least_mm": 9.0,
            "cables/hybrid-feed/gland_most_mm": 14.0,
        },
        {
            "cables/hybrid-feed/outside_mm": 7.0,
            "cables/hybrid-feed/gland_least_mm": 9.0,
            "cables/hybrid-feed/gland_most_mm": 14.0,
        },
        {"standing/battery/x_m": 1.2, "walls/plant/flood_m": {"value": 0.3, "known": "read on site"}},
        {"standing/battery/y_m": 0.6, "walls/plant/flood_m": {"value": 0.2, "known": "read on site"}},
        {"walls/plant/height_m": 2.4, "standing/battery/y_m": 0.5},
        {"units/hybrid/export_kw": 1.5, "units/hybrid/import_kw": 5.0},
        {"units/hybrid/export_kw": 9.0, "units/hybrid/import_kw": 99.0},
        {"cables/hybrid-array-a/surge": "both ends", "cables/hybrid-array-a/surge_lead_m": 1.2},
        {"cables/hybrid-array-a/surge": "both ends", "cables/hybrid-array-a/surge_lead_m": 0.3},
        {"containments": [{**WAY, "size": "trunking 50x50", "runs": ["hybrid-feed", "battery-run"]}]},
        {"site/supply/rating_a/value": None},
        {"site/supply/rating_a/value": 20.0},
        {"site/permission/export_kw/value": None},
        {"circuits/car-charger/role": "held", "circuits/car-charger/wish": ""},
        {"cables": [{**FEED, "table": "4D5 C", "size_mm2": 7.0}]},
        {
            "cables": [
                {
                    **FEED,
                    "table": "4D5 C",
                    "size_mm2": 10.0,
                    "device_a": 100.0,
                    "curve": "D",
                    "cpc_mm2": 1.5,
                    "rcd_ma": 300.0,
                    "rcd_type": "AC",
                    "depth_mm": 20.0,
                    "rcd_bidirectional": {"value": "no", "known": "read on site"},
                }
            ],
            "site/supply/earthing/value": "TT",
            "site/supply/electrode_ohm": {"value": 400.0, "known": "measured"},
        },
        {f"sheets/hybrids/{one}/on_meter_loss": "export goes on" for one in ("hybrid-6",)},
        {"pack/values/dc_ac_high/value": 0.5},
        {"strings/string-2/tracker": "A"},
        {"strings/string-2/tracker": "A", "sheets/modules/module-440/max_series_fuse_a": 1.0},
        {"faces/south-west/obstacles/obstacle-1/height_m": None},
        {"cables/hybrid-feed/rcd_ma": 30.0, "cables/hybrid-array-a/surge": "none"},
        {"limits/mode": "shave the peak", "limits/peak_kw": 4.0},
        {"limits/mode": "shave the peak", "limits/peak_kw": 60.0},
        {"limits/mode": "hold for outages"},
        {
            "reorderings": [
                {**FIRST, "part": "hybrid-array-a-isolator"},
                {**FIRST, "part": "battery-isolator"},
            ]
        },
        {"reorderings": [{**FIRST, "part": "hybrid-feed"}]},
        {"cables/hybrid-feed/rcd_ma": 300.0, "cables/hybrid-array-a/surge": "both ends"},
        {f"cables/{run}/selective": SHEET for run in RUNS}
        | {f"cables/{run}/breaking_ka": 6.0 for run in RUNS},
        {"cables/hybrid-feed/selective": {"value": "no", "known": "data sheet"}, "mains/fault_ka": KA},
    ),
    "ocotillo-wash-centre": (
        {"parts/grid-1/busbar_a": {"value": 400.0, "known": "read on site"}},
        {
            "parts/grid-1/busbar_a": {"value": 225.0, "known": "read on site"},
            "parts/grid-1/sources_sit": {"value": "opposite the main", "known": "read on site"},
        },
        {"walls/yard/rain": READ, "walls/yard/quiet": READ},
        {**PANEL, "parts/grid-1/sources_sit": {"value": "opposite the main", "known": "read on site"}},
        {**PANEL, "parts/grid-1/sources_sit": {"value": "elsewhere", "known": "read on site"}},
        {**PANEL, "cables/grid-1-feed/device_a": None},
    ),
    "far-byre": (
        {"parts/outbuilding/busbar_a": {"value": 63.0, "known": "read on site"}},
        {"cables/outbuilding-feed/rcd_ma": None},
        {"parts/outbuilding-electrode": None},
    ),
    "juniper-draw-ranch": (
        {"site/supply/outside_disconnect": {"value": "no", "known": "read on site"}},
        {"site/supply/outside_disconnect": READ},
        {"site/supply/storage_shutdown": {"value": "no", "known": "read on site"}},
        {"site/supply/storage_shutdown": READ},
        {"parts/second-electrode/ohm": {"value": 10.0, "known": "measured"}},
        {"parts/second-electrode/ohm": {"value": 60.0, "known": "measured"}},
        {"parts/second-electrode": None, "cables/hybrid-feed/cpc_mm2": 2.08},
        {"site/supply/earthing_mm2": {"value": 8.37, "known": "read on site"}},
        {f"sheets/hybrids/hybrid-9-split/rated_{unit}": 3.0 for unit in ("kva", "kw")},
    ),
    "wendle-row-14": ({"adjustments/hybrid-meter/two_way": False}, {"limits/mode": "hold for outages"}),
    "skerry-light-cottage": (
        {"walls/lee/quiet": READ, "walls/lee/rain": READ},
        {"parts/generator/least_load_share": {"value": 0.3, "known": "data sheet"}},
        {"parts/generator/least_load_share": {"value": 0.95, "known": "data sheet"}},
        {"parts/generator/least_load_share": {"value": 0.2, "known": "data sheet"}},
        BY_VOLTS,
        {**BY_VOLTS, "parts/generator/start_v": 49.9},
        {**BY_VOLTS, "parts/generator/stop_v": 50.2},
        {**BY_VOLTS, "parts/generator/stop_v": 70.0},
        {**BY_VOLTS, "parts/generator/stop_v": None},
    ),
    "cinder-flat-house": (
        {"cables": [{**FEED, "table": "Cu", "size_mm2": 5.26, "device_a": 20.0, "terminals_c": "75"}]},
        {"cables": [{**FEED, "table": "Cu", "size_mm2": 107.2, "device_a": 150.0, "terminals_c": "75"}]},
        {"containments": [WAY]},
        {"containments": [{**WAY, "inside": False, "sun_proof": False}]},
        {"containments": [{**WAY, "inside": False, "sun_proof": True}]},
        {"containments": [{**WAY, "size": "EMT 1/2", "metal": False, "bends_deg": 400}]},
        {"containments": [{**WAY, "runs": ["hybrid-array-a", "nowhere"], "metal": True, "bends_deg": None}]},
    ),
}


def all_records() -> dict[type, list[object]]:
    """By kind; a few of each kind also with one of their values changed."""
    found: dict[type, list[object]] = {}
    for reckoner, job in _jobs():
        for kind, make in RECORDS.items():
            try:
                found.setdefault(kind, []).extend(make(reckoner, job, False))
            except JobError:
                continue  # what the pack of the job doesn't know
    for one in _by_hand():
        found.setdefault(type(one), []).append(one)
    for rows in found.values():
        some = rows[:: max(1, len(rows) // 3)][:3] + rows[-1:]
        rows += [changed for one in some for changed in variants(one)]
    return found


def _jobs() -> Iterator[tuple[Reckoner, Job]]:
    for name in sample_names():
        path = sample_path(name)
        reckoner, job = Reckoner(lambda digest, path=path: read_attachment(path, digest)), load_job(path)
        yield reckoner, job
        for changes in CHANGED.get(name, ()):
            yield reckoner, edit(job, *(Change(path, value) for path, value in changes.items()))


def _by_hand() -> Iterator[object]:
    yield Joining((("backfeed", ("hybrid", "grid"), ("bypass on",)), ("joined", ("a", "b"), ())), 4)
    yield ShutdownSupply(
        id="s",
        name="S",
        fed_from="board",
        states=(("grid", True), ("island", False)),
        dead_when_off=False,
        switches=2,
    )
    for returns, devices in ((False, ()), (True, ("rcd",)), (True, ())):
        yield Borrowed(
            circuit="c",
            name="C",
            line_board="a",
            neutral_board="b",
            returns=returns,
            devices=devices,
            state="grid",
            cures=(),
        )
    yield Places(
        orphans=(("x", "insert", "gone"),), unwired=(("c", "C"),), adjustments=1, stray_cables=("run",)
    )
    yield Places(orphans=(), unwired=(), adjustments=0)
    yield Overlaps(pairs=(("night", "day", 90.0),), short=(("night", 0.1, 0.2),), reserve_soc=0.2, count=2)
    for cycles, mwh in ((6000.0, 30.0), (5000.0, 27.0), (2000.0, 10.0), (None, None)):
        yield Life(
            owner="battery",
            name="B",
            cycles_year=250.0,
            mwh_year=2.0,
            warranty_cycles=cycles,
            warranty_mwh=mwh,
            warranty_years=10.0,
        )
    for coldest, hottest in ((5.0, 30.0), (4.0, 31.0), (-5.0, 50.0), (None, None)):
        yield Warmth(
            owner="battery",
            name="B",
            low_c=coldest,
            high_c=hottest,
            charge_from_c=0.0,
            works_to_c=45.0,
            because=() if coldest is not None else ("no range",),
        )
    yield Strange(circuits=load_job(sample_path("old-tannery-house")).circuits[:2], gives="L1")
    for kind in ("reading", "setting", "balance"):
        for status in ("passed", "doubtful", "failed", "open"):
            for doubt in (False, True):
                yield StepProof(
                    owner="step",
                    text="Step.",
                    kind=kind,
                    status=status,
                    because="so",
                    value=4.0,
                    unit="V",
                    expected=5.0,  # type: ignore[arg-type]
                    low=3.5,
                    high=6.0,
                    source="sheet",
                    measured=(),
                    waits=status == "open",
                    by="A",
                    instrument="B",
                    calibration_doubt=doubt,
                    subjects=("x",),
                )
