"""What strings in parallel give through a tracker that takes less current than they work at."""

import pytest

from lodestaff.commissioning.clipping import Clip
from lodestaff.commissioning.expect import DC_DERATE, Conditions
from lodestaff.commissioning.rules import SunPower
from lodestaff.measuring.rehearsal import rehearse
from lodestaff.plant import PlantStart
from lodestaff.reckoning import Reckoner
from lodestaff.reckoning.cabling import with_cables
from lodestaff.templates import KINDS, compose
from lodestaff.templates.typed import changed

# two strings of ten modules of 440 W, 13.34 A at 33.0 V, 39.6 V open, on 16 A
CLIP = Clip(most_a=16.0, vmp_v=330.0, voc_v=396.0, gamma_pct_per_k=-0.33, imp_a=26.68)
RULE = SunPower(8800.0, -0.33, 10.0, clip=CLIP)


def test_in_full_sun_the_power_lies_between_the_limit_at_vmp_and_at_voc():
    """16 A x 330 V = 5.28 kW, less what wires and dirt take, and 16 A x 396 V = 6.34 kW; a tenth below, as
    without a limit."""
    asked = RULE.expected(Conditions(1000.0, 25.0))
    assert asked.low == pytest.approx(0.9 * 5.28 * DC_DERATE)
    assert asked.high == pytest.approx(6.336)
    assert asked.low < asked.value < asked.high
    assert "16 A" in asked.source


def test_in_less_sun_nothing_is_cut():
    """26.68 A x 0.55 = 14.7 A pass."""
    free = SunPower(8800.0, -0.33, 10.0)
    assert RULE.expected(Conditions(550.0, 25.0)) == free.expected(Conditions(550.0, 25.0))


def test_two_faces_add_their_currents():
    """13.34 A x (0.9 + 0.5) = 18.7 A are cut; with 0.9 and 0.2 they are 14.7 A and pass."""
    two = Clip(most_a=16.0, vmp_v=330.0, voc_v=396.0, gamma_pct_per_k=-0.33, imp_a=13.34, imp_2_a=13.34)
    rule = SunPower(4400.0, -0.33, 10.0, 4400.0, clip=two)
    cut = rule.expected(Conditions(900.0, 25.0, poa_2_w_m2=500.0, module_2_c=25.0))
    free = rule.expected(Conditions(900.0, 25.0, poa_2_w_m2=200.0, module_2_c=25.0))
    assert "cut" in cut.source
    assert "cut" not in free.source


@pytest.mark.parametrize(("letter", "pack"), [("E", "uk"), ("Q", "na")])
def test_a_sound_site_whose_tracker_cuts_current_passes(letter, pack):
    """Two strings that would work at 27 A on a tracker of 16 A: nothing is wrong with the wiring."""
    job = with_cables(Reckoner(), compose(changed(KINDS[letter].wanted, [f"pack={pack}"])))
    assert rehearse(job, PlantStart()).stopped_at is None
