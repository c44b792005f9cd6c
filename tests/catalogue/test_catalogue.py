"""Sheets refuse what cannot be; packs carry a source with every value."""

import pytest
from pydantic import ValidationError

from lodestaff.catalogue import BatterySheet, HybridSheet, ModuleSheet, Pack, load_pack, pack_names
from lodestaff.catalogue.parts import BatteryUnitSheet, InverterSheet
from lodestaff.quantities import Provenance
from lodestaff.quantities.errors import JobError

MODULE = dict(
    name="module",
    pmp_w=440,
    voc_v=39.6,
    isc_a=13.9,
    vmp_v=33.0,
    imp_a=13.34,
    alpha_isc_pct_per_k=0.046,
    beta_voc_pct_per_k=-0.26,
    gamma_pmp_pct_per_k=-0.33,
    length_m=1.76,
    width_m=1.13,
)
HYBRID = dict(
    name="hybrid",
    rated_kw=5.8,
    rated_kva=6,
    surge_kva=8,
    surge_s=10,
    pass_through_a=60,
    max_dc_kw=9,
    max_dc_v=550,
    trackers=[dict(name="A", v_min=120, v_max=480, v_start=150, imp_max_a=16, isc_max_a=20)],
    eta_mppt=0.99,
    charge_kw=5,
    discharge_kw=5,
    eta_dcdc=0.98,
    efficiency=[[0.5, 0.96]],
    own_use_kw=0.04,
    neutral_switched=True,
    bond_relay=True,
    transfer_s=0.02,
)
BATTERY = dict(
    name="battery",
    module_kwh=4.8,
    charge_c_per_h=0.5,
    discharge_c_per_h=0.5,
    floor_soc=0.1,
    eta_round_trip=0.95,
    max_modules=6,
)


INVERTER = {key: HYBRID[key] for key in ("name", "rated_kw", "rated_kva", "max_dc_v", "trackers")}
UNIT = {
    **{key: HYBRID[key] for key in ("name", "rated_kw", "rated_kva", "surge_kva", "surge_s", "charge_kw")},
    "discharge_kw": 5,
    "eta_inverter": 0.96,
}


def test_whole_sheets_are_taken():
    assert ModuleSheet.model_validate(MODULE).vmp_v == 33.0
    assert HybridSheet.model_validate(HYBRID).derate_from_c is None
    assert BatterySheet.model_validate(BATTERY).top_soc == 1.0


@pytest.mark.parametrize(
    ("kind", "base", "change", "words"),
    [
        (ModuleSheet, MODULE, {"vmp_v": 40.0}, "operating point"),
        (ModuleSheet, MODULE, {"imp_a": 14.0}, "operating point"),
        (ModuleSheet, MODULE, {"pmp_w": 500}, "differs from vmp_v x imp_a"),
        (ModuleSheet, MODULE, {"beta_voc_pct_per_k": 0.26}, "less than 0"),
        (HybridSheet, HYBRID, {"rated_kw": 7}, "above rated_kva"),
        (HybridSheet, HYBRID, {"surge_kva": 5}, "below rated_kva"),
        (InverterSheet, INVERTER, {"rated_kw": 7}, "above rated_kva"),
        (BatteryUnitSheet, UNIT, {"rated_kw": 7}, "above rated_kva"),
        (BatteryUnitSheet, UNIT, {"surge_kva": 5}, "below rated_kva"),
        (HybridSheet, HYBRID, {"efficiency": [[0.5, 96]]}, "efficiency points"),
        (HybridSheet, HYBRID, {"efficiency": []}, "at least 1"),
        (BatterySheet, BATTERY, {"floor_soc": 1.0}, "must lie below"),
        (BatterySheet, BATTERY, {"eta_round_trip": 95}, "less than or equal to 1"),
        (BatterySheet, BATTERY, {"module_kwh": float("inf")}, "finite"),
        (BatterySheet, BATTERY, {"modul_kwh": 4.8}, "Extra inputs"),
    ],
)
def test_a_sheet_that_cannot_be_is_refused(kind, base, change, words):
    with pytest.raises(ValidationError, match=words):
        kind.model_validate({**base, **change})


@pytest.mark.parametrize("name", pack_names())
class TestEveryPack:
    def test_each_value_names_its_source(self, name):
        for key, value in load_pack(name).values.items():
            assert len(value.source) > 10, key
            assert value.provenance in Provenance

    def test_words_and_cautions_are_there(self, name):
        pack = load_pack(name)
        for idea in ("board", "essential_board", "isolator", "bond", "residual_current_device", "permission"):
            assert pack.word(idea)
        for caution in ("prove_dead", "live_in_daylight", "bypass", "all_off", "not_emergency", "licence"):
            assert pack.cautions[caution].endswith(".")

    def test_a_missing_word_or_value_is_named(self, name):
        pack = load_pack(name)
        with pytest.raises(JobError, match="no word for 'flux'"):
            pack.word("flux")
        with pytest.raises(JobError, match="no value 'flux'"):
            pack.value("flux")


def test_an_unknown_pack_is_refused_with_the_choices():
    with pytest.raises(JobError, match="uk"):
        load_pack("mars")


def test_a_corrected_value_says_so():
    value = load_pack("uk").value("notify_a_per_phase").model_copy(update={"value": 20, "corrected": True})
    assert "corrected in this job" in str(value.cite())


def test_a_further_pack_is_data_alone(larkmoor):
    """A pack with other words and values serves the same calculations."""
    data = larkmoor.pack.model_dump(mode="json")
    data["name"] = "elsewhere"
    data["words"]["bond"] = "system link"
    assert Pack.model_validate(data).word("bond") == "system link"
