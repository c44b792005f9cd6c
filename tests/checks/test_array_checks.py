"""Shade, optimisers, mounting, bonding and connectors: where they pass, where they warn, where they stay
open."""

import pytest

from lodestaff.checks.array import StringVolts
from lodestaff.checks.branches import Branch, arr_micro
from lodestaff.checks.connectors import HomeRuns, arr_conn, arr_iso
from lodestaff.checks.mounting import Mounted, arr_earth, arr_mount
from lodestaff.checks.optimisers import Optimised, arr_opt
from lodestaff.checks.shade import FaceShade, arr_shade
from lodestaff.job import Change, edit, load_job
from lodestaff.reckoning import Reckoner
from lodestaff.reckoning.records import RECORDS
from lodestaff.roof.mounting import pitch_of, rails_of
from lodestaff.samples import sample_path

RECKONER = Reckoner()


@pytest.fixture(scope="module")
def job():
    found = {}

    def load(name, *changes):
        if name not in found:
            found[name] = load_job(sample_path(name))
        return edit(found[name], *changes) if changes else found[name]

    return load


def of(job, kind, check, place=0, deep=False):
    record = list(RECORDS[kind](RECKONER, job, deep))[place]
    return {finding.quantity: finding for finding in check(record)}


# --- shade ---
def test_shade_that_is_worth_naming_names_its_modules_and_what_would_help(job):
    """The chimney of the demo: one module loses more than a twentieth of its year (common practice)."""
    (found,) = of(job("larkmoor"), FaceShade, arr_shade, 1, deep=True).values()
    assert found.status == "warns"
    assert found.value > found.limit == 5
    assert [remedy.changes[0].path for remedy in found.remedies] == ["faces/south-west/modules/m8/optimiser"]
    fitted = edit(job("larkmoor"), *found.remedies[0].changes)
    (after,) = of(fitted, FaceShade, arr_shade, 1).values()
    assert after.status == "notes"
    gain = RECKONER.pv_dc_kw(fitted).sum() - RECKONER.pv_dc_kw(job("larkmoor")).sum()
    assert f"{round(gain / 4 / 0.99):d}"[:1] in found.remedies[0].name
    assert gain > 0


def test_an_unknown_height_leaves_shade_open_and_none_at_all_is_said(job):
    unknown = job("larkmoor", Change("faces/south-west/obstacles/obstacle-1/height_m", None))
    (found,) = of(unknown, FaceShade, arr_shade, 1).values()
    assert found.open
    (bare,) = of(unknown, FaceShade, arr_shade, 0).values()
    assert bare.status == "notes"
    assert "was told" in bare.text


# --- optimisers ---
SHEET = "sheets/optimisers/optimiser-700"


@pytest.mark.parametrize(
    ("field", "value", "quantity", "status"),
    [
        ("max_in_v", 40.0, "volts", "blocks"),
        ("max_in_a", 13.0, "current", "blocks"),
        ("rated_w", 400.0, "power", "blocks"),
        ("least_in_string", 12, "least", "blocks"),
        ("most_in_string", 8, "most", "blocks"),
        ("most_string_w", 3000.0, "string power", "blocks"),
        ("most_string_w", None, "string power", "open"),
        ("least_in_string", None, "least", "open"),
        ("safe_v", None, "rest", "open"),
        ("modules", 2, "pairs", "blocks"),
    ],
)
def test_optimisers_are_held_to_their_sheet(job, field, value, quantity, status):
    low = Change("site/record_low_c", {"value": -12.0, "known": "read on site"})
    found = of(job("ludd-hall-annexe", low, Change(f"{SHEET}/{field}", value)), Optimised, arr_opt)
    assert found[quantity].status == status
    others = [each.status for name, each in found.items() if name not in (quantity, "rest", "power", "volts")]
    assert field == "modules" or set(others) <= {"passed"}


def test_at_rest_a_volt_each_and_full_volts_where_some_have_none(job):
    """9 optimisers of 1 V; on the barn 4 of 8 modules have none and lie at 43.2 V each at -10 °C."""
    assert of(job("ludd-hall-annexe"), Optimised, arr_opt)["rest"].value == pytest.approx(9)
    some = of(job("larch-fold-barn"), Optimised, arr_opt)
    assert some["rest"].value == pytest.approx(4 + 4 * 43.2, rel=0.01)
    assert "live in daylight" in some["rest"].text
    assert some["some"].status == "passed"
    refused = of(job("larch-fold-barn", Change(f"{SHEET}/on_single_modules", False)), Optimised, arr_opt)
    assert refused["some"].status == "blocks"


def test_without_a_sheet_or_without_a_module_it_stays_open(job):
    bare = of(job("ludd-hall-annexe", Change("strings/string-1/optimiser", "")), Optimised, arr_opt)
    assert bare["sheet"].open
    changes = [Change(f"faces/face-2/modules/m{n}/optimiser", False) for n in (2, 3, 4, 8)]
    assert of(job("larch-fold-barn", *changes), Optimised, arr_opt)["which"].open


# --- mounting and bonding ---
def test_supports_stand_on_whole_rafters_within_the_sheets_spacing():
    """1.40 m on rafters of 0.45 m: three of them, 1.35 m (by hand)."""
    assert pitch_of(1.4, 0.45) == pytest.approx(1.35)
    assert pitch_of(1.4, 0.7) == pytest.approx(1.4)
    assert pitch_of(1.4, 1.5) is None
    assert pitch_of(1.4, None) == 1.4


def test_rails_and_supports_are_what_one_counts_by_hand(job):
    """Two rows of five modules 1.134 m wide, some 0.016 m apart: 5.73 m of module, rails of 5.83 m; supports
    ceil((5.83 − 0.8) / 1.35) + 1 = 5 a rail: modules and none to two more (common practice)."""
    demo = job("larkmoor")
    face = demo.faces[0]
    rails = rails_of(face, demo.sheets.modules[face.module], demo.sheets.mountings["rail-roof"])
    assert [row.modules for row in rails.rows] == [5, 5]
    assert rails.supports == 20
    assert rails.end_clamps == 8
    assert rails.middle_clamps == 16
    assert rails.lengths(4.4) == 8
    weight = 10 * 22.5 + rails.rail_m * 0.9 + 20 * 0.7
    assert weight * 0.9 < rails.weight_kg < weight * 1.1
    assert all(row.modules <= row.supports <= row.modules + 2 for row in rails.rows)


def test_edges_rafters_and_missing_sheets(job):
    demo = job("larkmoor")
    good = of(demo, Mounted, arr_mount)
    assert {finding.status for finding in good.values()} == {"passed"}
    near = of(job("larkmoor", Change("pack/values/roof_edge_m/value", 0.5)), Mounted, arr_mount)
    assert near["edges"].status == "warns"
    assert near["edges"].value == pytest.approx(0.4)
    wide = job("larkmoor", Change("faces/south-east/rafter_m", {"value": 1.6, "known": "read on site"}))
    found = of(wide, Mounted, arr_mount)
    assert found["spacing"].status == "warns"
    assert "parts" not in found
    unknown = of(job("larkmoor", Change("faces/south-east/rafter_m", {"value": None})), Mounted, arr_mount)
    assert unknown["spacing"].open
    none = of(job("larkmoor", Change("faces/south-east/mounting_sheet", "")), Mounted, arr_mount)
    assert none["parts"].open
    light = of(job("larkmoor", Change("sheets/mountings/rail-roof/support_kg", None)), Mounted, arr_mount)
    assert light["parts"].open


def test_a_hip_is_measured_along_its_slanted_edge(job):
    hip = job("larkmoor", Change("faces/south-east/outline", [[0, 0], [7.6, 0], [7.0, 4.6], [0.6, 4.6]]))
    near = of(hip, Mounted, arr_mount)["edges"]
    square = of(job("larkmoor"), Mounted, arr_mount)["edges"]
    assert near.value <= square.value


@pytest.mark.parametrize(
    ("bonded", "listed", "status"),
    [
        ("by the clamps", True, "passed"), ("by the clamps", False, "warns"), ("by the clamps", None, "open"),
        ("every rail", False, "passed"), ("not bonded", True, "warns"), (None, True, "open"),
    ],
)  # fmt: skip
def test_bonding_goes_by_the_mountings_listing(job, bonded, listed, status):
    """Both schools: every rail its own bond, or listed clamps (common practice)."""
    fact = {"value": bonded, "known": "read on site" if bonded else "assumed"}
    changed = job(
        "larkmoor",
        Change("faces/south-east/bonded", fact),
        Change("sheets/mountings/rail-roof/listed_bonding", listed),
    )
    found = of(changed, Mounted, arr_earth)
    assert found["bonds"].status == status
    assert ("size" in found) == (bonded not in (None, "not bonded"))


def test_the_bonding_conductor_is_of_the_packs_size(job):
    thin = job("larkmoor", Change("faces/south-east/bond_mm2", {"value": 4.0, "known": "read on site"}))
    assert of(thin, Mounted, arr_earth)["size"].status == "blocks"
    unknown = job("larkmoor", Change("faces/south-east/bond_mm2", {"value": None}))
    assert of(unknown, Mounted, arr_earth)["size"].open


# --- connectors ---
def test_connectors_of_one_make_pass_and_unlike_ones_warn(job):
    same = of(job("larkmoor"), HomeRuns, arr_conn)
    assert same["make of string-1"].status == "passed"
    other = Change("strings/string-1/connector", {"value": "K2, invented", "known": "read on site"})
    assert of(job("larkmoor", other), HomeRuns, arr_conn)["make of string-1"].status == "warns"
    unknown = Change("strings/string-1/connector", {"value": None})
    assert of(job("larkmoor", unknown), HomeRuns, arr_conn)["make of string-1"].open


def test_a_shared_home_run_carries_the_sum_and_needs_fewer_terminals(job):
    """Two strings of 13.9 A joined on the roof: one home run of 27.8 A, six joints in place of four."""
    apart = of(job("brockle-vicarage"), HomeRuns, arr_conn, 1)
    assert apart["joints"].value == 4
    assert apart["inputs"].status == "passed"
    joined = job("brockle-vicarage", *(Change(f"strings/string-{n}/joined_on_roof", True) for n in (2, 3)))
    found = of(joined, HomeRuns, arr_conn, 1)
    assert found["joints"].value == 6
    assert found["joints"].figure.inputs[1].value == pytest.approx(27.8)
    assert found["inputs"].value == 1


def test_units_behind_modules_have_no_home_run(job):
    assert list(RECORDS[HomeRuns](RECKONER, job("gannet-point-lodge"), False)) == []


# --- units behind modules ---
def test_the_trunk_rises_by_every_unit_beyond(job):
    """11 units of 400 VA at 230 V: 1.739 A x 2 x 1.2 m x 4.95 mohm/m x 66 = 1.364 V, 0.593 % (by hand)."""
    low = job("gannet-point-lodge")
    found = of(low, Branch, arr_micro)
    assert found["rise"].value == pytest.approx(0.593, rel=2e-3)
    silent = job("gannet-point-lodge", Change("sheets/microinverters/micro-400/trunk_step_m", None))
    assert of(silent, Branch, arr_micro)["rise"].open
    thin = job("gannet-point-lodge", Change("sheets/microinverters/micro-400/trunk_ohm_per_km", 20.0))
    assert of(thin, Branch, arr_micro)["rise"].status == "warns"


def test_a_branch_too_long_for_its_device_blocks(job):
    """11 x 400 VA / 230 V = 19.1 A of 20 A; of 16 A it blocks (by hand)."""
    assert of(job("gannet-point-lodge"), Branch, arr_micro)["device"].value == pytest.approx(19.13, rel=1e-3)
    small = job("gannet-point-lodge", Change("sheets/microinverters/micro-400/branch_device_a", 16.0))
    assert of(small, Branch, arr_micro)["device"].blocks


def test_units_of_two_modules_are_counted_by_two(job):
    """Dual units: six of them for eleven modules."""
    dual = job(
        "gannet-point-lodge",
        Change("sheets/microinverters/micro-400/modules", 2),
        Change("sheets/microinverters/micro-400/rated_va", 800.0),
        Change("units/branch-1/count", 6),
    )
    assert of(dual, Branch, arr_micro)["units"].status == "passed"
    many = edit(dual, Change("units/branch-1/count", 11))
    assert of(many, Branch, arr_micro)["units"].blocks


# --- DC isolators ---
def test_the_isolator_opens_cold_volts_and_the_short_circuit_current(job):
    """436 V at -14 °C, and 1.25 x 13.9 A = 17.4 A (by hand); its array side stays live by day."""
    found = of(job("larkmoor"), HomeRuns, arr_iso)
    assert found["volts"].value == pytest.approx(436, rel=2e-3)
    assert found["current"].value == pytest.approx(17.375)
    assert {each.status for each in found.values()} == {"passed"}
    assert "2 conductors stay live" in found["volts"].text
    weak = [
        Change("cables/hybrid-array-a/isolator_v", 400.0),
        Change("cables/hybrid-array-a/isolator_a", 16.0),
    ]
    assert {each.status for each in of(job("larkmoor", *weak), HomeRuns, arr_iso).values()} == {"blocks"}
    unknown = job("larkmoor", Change("cables/hybrid-array-a/isolator_v", None))
    assert of(unknown, HomeRuns, arr_iso)["volts"].open
    two = of(job("brockle-vicarage"), HomeRuns, arr_iso, 1)
    assert two["current"].value == pytest.approx(34.75)
    assert "4 conductors" in two["volts"].text


def test_the_guard_goes_around_the_modules_once(job):
    """Two rows of five, 5.73 x 3.52 m or so, some millimetres apart: about twice the sum of both (by
    hand)."""
    demo = job("larkmoor")
    face, sheet = demo.faces[0], demo.sheets.modules[demo.faces[0].module]
    rails = rails_of(face, sheet, demo.sheets.mountings["rail-roof"])
    assert rails.guard_m == pytest.approx(2 * (5 * sheet.width_m + 2 * sheet.length_m), rel=0.02)


def test_clamps_have_their_zone_and_a_module_that_is_better_turned_is_told(job):
    sheet = job("larkmoor").faces[0].module
    zone = [
        Change(f"sheets/modules/{sheet}/clamp_{end}_m", value) for end, value in (("from", 0.3), ("to", 0.5))
    ]
    assert "0.30 m to 0.50 m" in of(job("larkmoor", *zone), Mounted, arr_mount)["parts"].text
    record = list(RECORDS[FaceShade](RECKONER, job("larkmoor"), True))[1]
    (answer,) = record.answers
    first = answer.turned[0]
    assert first.path == "faces/south-west/modules/m8"
    assert abs(first.more_kwh) < 100


def test_a_module_is_turned_only_where_there_is_room(job):
    """What is offered can be taken: it lies on its face, on nothing else, and makes what was said."""
    demo = job("larkmoor")
    _, face = demo.faces
    record = list(RECORDS[FaceShade](RECKONER, demo, True))[1]
    (answer,) = record.answers
    assert [one.at for one in answer.turned] == [None] * len(answer.turned)  # between its neighbours
    (found,) = of(demo, FaceShade, arr_shade, 1, deep=True).values()
    assert "to turn m8 there is no room" in found.text
    lonely = edit(demo, *(Change(f"faces/{face.id}/modules/m{n}", None) for n in (4, 5, 6, 7)))
    (answer,) = list(RECORDS[FaceShade](RECKONER, lonely, True))[1].answers
    free = next(one for one in answer.turned if one.at is not None)
    places = (("x_m", free.at[0]), ("y_m", free.at[1]), ("turned", free.turned))
    changes = [Change(f"{free.path}/{name}", value) for name, value in places]
    made = edit(lonely, *changes)
    before, after = (
        next(m for m in list(RECORDS[FaceShade](RECKONER, each, False))[1].modules if m.path == free.path)
        for each in (lonely, made)
    )
    assert after.kwh - before.kwh == pytest.approx(free.more_kwh)


def test_modules_laid_into_the_roof_run_hotter(job):
    """No air behind them: less in a year, lower volts at the hottest (common practice)."""
    demo = job("larkmoor")
    inside = edit(demo, *(Change(f"faces/{face.id}/mounting", "in the roof") for face in demo.faces))
    assert RECKONER.pv_dc_kw(inside).sum() < RECKONER.pv_dc_kw(demo).sum()
    close, laid = (next(iter(RECORDS[StringVolts](RECKONER, each, False))) for each in (demo, inside))
    assert laid.volts.vmp_hot_v < close.volts.vmp_hot_v
