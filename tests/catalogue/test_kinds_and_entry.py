"""One declaration per kind; what is typed from a data sheet in its own units; cross-checks while typing."""

import math

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from lodestaff.catalogue.cross import remarks
from lodestaff.catalogue.entry import awg_mm2, shown, typed
from lodestaff.catalogue.kinds import KINDS, checked, kind_named
from lodestaff.quantities.errors import JobError

MODULE = kind_named("module")
GOOD = {"pmp_w": 540.3, "voc_v": 49.62, "isc_a": 13.88, "vmp_v": 41.34, "imp_a": 13.07,
        "alpha_isc_pct_per_k": 0.046,
        "beta_voc_pct_per_k": -0.272, "gamma_pmp_pct_per_k": -0.34}  # fmt: skip


def test_every_kind_declares_words_for_every_field():
    for kind in KINDS:
        assert kind.rows[0].key == "name"
        for row in kind.rows:
            assert row.words != row.key.replace("_", " ") or row.words in ("cores", "poles", "phases"), (
                kind.id,
                row.key,
            )
    assert len({kind.id for kind in KINDS}) == len(KINDS) == 15
    with pytest.raises(JobError, match="kinds:"):
        kind_named("windmill")
    with pytest.raises(JobError, match="fields:"):
        MODULE.row("colour")


@pytest.mark.parametrize(
    ("key", "text", "value"),
    [
        ("pmp_w", "440", 440.0),
        ("pmp_w", "440 W", 440.0),
        ("voc_v", "39,6", 39.6),
        ("voc_v", " 39.60 V ", 39.6),
        ("length_m", "1762 mm", 1.762),
        ("length_m", "1 762 mm", 1.762),
        ("beta_voc_pct_per_k", "-0.272 %/K", -0.272),
        ("beta_voc_pct_per_k", "−0.272 %/°C", -0.272),
        ("beta_voc_pct_per_k", "-135 mV/K", -13.5 / 49.62),
        ("beta_voc_pct_per_k", "-0.135 V/°C", -13.5 / 49.62),
        ("alpha_isc_pct_per_k", "6.4 mA/K", 0.64 / 13.88),
        ("gamma_pmp_pct_per_k", "-1.84 W/K", -184 / 540.3),
        ("cells_in_series", "54", 54),
        ("voc_v", "", None),
        ("name", "Module", "Module"),
    ],
)
def test_typed_as_sheets_give_it(key, text, value):
    found = typed(MODULE.row(key), text, GOOD)
    assert found == (pytest.approx(value, rel=1e-8) if isinstance(value, float) else value)


@pytest.mark.parametrize(
    ("kind", "key", "text", "word"),
    [
        ("module", "voc_v", "forty", "not a number"),
        ("module", "voc_v", "39.6 A", "not given in"),
        ("module", "voc_v", "1e999", "not a number"),
        ("module", "cells_in_series", "54.5", "whole"),
        ("hybrid", "neutral_switched", "perhaps", "yes nor no"),
        ("hybrid", "on_meter_loss", "explodes", "choices"),
        ("hybrid", "trackers", "[{", "no list"),
        ("hybrid", "trackers", "A 120 V", "like A 120-480 V"),
        ("hybrid", "efficiency", "0.1; 0.2", "pairs like"),
    ],
)
def test_what_is_none_says_what_would_be_right(kind, key, text, word):
    with pytest.raises(JobError, match=word):
        typed(kind_named(kind).row(key), text, {})


def test_an_absolute_coefficient_needs_the_value_it_belongs_to():
    with pytest.raises(JobError, match="voc_v first"):
        typed(MODULE.row("beta_voc_pct_per_k"), "-135 mV/K", {})


@pytest.mark.parametrize(
    # Source: ASTM B258 sizes, mm² (published): 12 AWG 3.309, 10 AWG 5.261, 6 AWG 13.30, 1/0 53.49, 4/0 107.2.
    ("text", "mm2"),
    [
        ("12 AWG", 3.309),
        ("10 AWG", 5.261),
        ("6 AWG", 13.30),
        ("1/0 AWG", 53.49),
        ("4/0 AWG", 107.2),
        ("250 kcmil", 126.7),
    ],
)
def test_wire_gauges(text, mm2):
    assert typed(kind_named("cable").row("size_mm2"), text, {}) == pytest.approx(mm2, rel=1e-3)


def test_gauges_halve_every_three_numbers_nearly():
    """A fact of the trade: three gauges are a factor of two in area (common practice)."""
    assert awg_mm2(10) / awg_mm2(13) == pytest.approx(2.0, rel=0.01)


@given(st.floats(1e-6, 1e6))
def test_a_value_that_is_shown_can_be_typed_again(value):
    row = MODULE.row("voc_v")
    assert math.isclose(typed(row, shown(row, value), {}), value, rel_tol=1e-8)


@pytest.mark.parametrize(
    ("key", "text", "value"),
    [
        ("start_order", "grid, battery, array", ["grid", "battery", "array"]),
        ("efficiency", "0.1: 0.925; 0,5: 0,965", [[0.1, 0.925], [0.5, 0.965]]),
        ("trackers", "A 120-480 V, start 150 V, 16 A, Isc 20 A; B 90 to 560, start 100, 13,5, isc 17, 2 "
                     "inputs",
         [{"name": "A", "v_min": 120.0, "v_max": 480.0, "v_start": 150.0, "imp_max_a": 16.0,
           "isc_max_a": 20.0, "inputs": 1},
          {"name": "B", "v_min": 90.0, "v_max": 560.0, "v_start": 100.0, "imp_max_a": 13.5,
           "isc_max_a": 17.0, "inputs": 2}]),
        ("trackers", "[]", []),
    ],
)  # fmt: skip
def test_lists_are_written_by_hand(key, text, value):
    row = kind_named("hybrid").row(key)
    assert typed(row, text, {}) == value
    if value:
        assert typed(row, shown(row, value), {}) == value


# --- cross-checks ---------------------------------------------------------------------------------------
def wrongs(kind, **values):
    return {one.fields[0] for one in remarks(kind, values) if one.weight == "wrong"}


def unusual(kind, **values):
    return {one.fields[0] for one in remarks(kind, values) if one.weight == "unusual"}


def test_a_sound_sheet_has_no_remark():
    assert remarks("module", GOOD) == ()


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"pmp_w": 600.0}, "pmp_w"),
        ({"vmp_v": 50.0}, "voc_v"),
        ({"imp_a": 14.0}, "isc_a"),
        ({"beta_voc_pct_per_k": 0.272}, "beta_voc_pct_per_k"),
        ({"gamma_pmp_pct_per_k": 0.34}, "gamma_pmp_pct_per_k"),
    ],
)
def test_what_can_t_stand_together(change, field):
    assert field in wrongs("module", **{**GOOD, **change})


def test_what_is_unusual_asks_for_its_unit():
    assert unusual("module", beta_voc_pct_per_k=-0.135) == {"beta_voc_pct_per_k"}
    assert unusual("hybrid", rated_kw=6000.0, rated_kva=6000.0) == {"rated_kw"}
    assert unusual("battery", module_kwh=4800.0) == {"module_kwh"}


def test_windows_and_limits():
    tracker = {"name": "A", "v_min": 480.0, "v_max": 120.0, "imp_max_a": 20.0, "isc_max_a": 16.0}
    assert "trackers" in wrongs("hybrid", trackers=[tracker], max_dc_v=100.0)
    assert wrongs("hybrid", rated_kw=6.0, rated_kva=5.0, surge_kva=4.0) == {"rated_kw", "surge_kva"}
    assert wrongs("battery", floor_soc=0.9, top_soc=0.1, v_min=60.0, v_nominal=50.0) == {"floor_soc", "v_min"}


@example({"pmp_w": 0.0, "vmp_v": 0.0, "imp_a": 0.0})
@given(
    st.dictionaries(
        st.sampled_from(sorted(GOOD)), st.one_of(st.none(), st.floats(-1e6, 1e6), st.text(max_size=3))
    )
)
def test_any_half_typed_sheet_is_looked_at_without_guessing(values):
    """Missing values, words and nonsense are passed over; a remark speaks only of fields that were typed."""
    for one in remarks("module", values):
        assert set(one.fields) <= {key for key, value in values.items() if value is not None}


def test_a_sheet_names_all_that_is_missing_and_what_is_wrong():
    with pytest.raises(JobError, match=r"Open-circuit voltage Voc.*missing"):
        checked(MODULE, {"name": "x", "pmp_w": 400.0}, "m")
    with pytest.raises(JobError, match="operating point"):
        checked(
            MODULE, {**GOOD, "name": "x", "vmp_v": 60.0, "pmp_w": 784.0, "length_m": 1.0, "width_m": 1.0}, "m"
        )
    with pytest.raises(JobError, match="Voc"):
        checked(MODULE, {**GOOD, "name": "x", "voc_v": -1.0, "length_m": 1.0, "width_m": 1.0}, "m")


def test_the_reference_page_is_current():
    from pathlib import Path

    from lodestaff.catalogue.reference import reference_page

    page = Path(__file__).parents[2] / "docs" / "equipment.md"
    assert page.read_text(encoding="utf-8") == reference_page(), (
        "run: lodestaff shelf fields --page > docs/equipment.md"
    )
