"""Every starting point as each pack has it: what is proposed is bonded, earthed and supplied as the trade
does."""

import pytest

from lodestaff.catalogue import pack_names
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning.findings import answers
from lodestaff.templates import KINDS, compose
from lodestaff.templates.typed import changed, options_of

OWN_DOING = (
    "WIRE-BOND",
    "WIRE-EARTH",
    "WIRE-EARTH: building",
    "SITE-RATING",
    "WIRE-NEUTRAL",
    "WIRE-XFER: joining",
)


@pytest.mark.parametrize("letter", sorted(KINDS))
def test_a_starting_point_in_another_pack_proposes_nothing_that_blocks(reckoner, letter):
    for pack in pack_names():
        job = compose(changed(KINDS[letter].wanted, [f"pack={pack}"]))
        wrong = [finding.text for finding in answers(reckoner, job, *OWN_DOING) if finding.blocks]
        assert wrong == [], pack


@pytest.mark.parametrize(
    ("start", "pack", "system", "earthing"),
    [
        (None, "anz", "single phase", "MEN"),
        (None, "na", "120/240 V", "TN-C-S"),
        ("H", "uk", "single phase", "TN-C-S"),
        ("L", "anz", "single phase", "MEN"),
        ("J", "na", "120/208 V", "TN-C-S"),
        ("P", "anz", "single phase", "TN-C"),
        ("S", "na", "three phases", "TN-S"),
    ],
)
def test_supply_and_earthing_go_by_the_pack(start, pack, system, earthing):
    """Supplies of 120 V legs, and the MEN system, are of their own trades (common practice, no source)."""
    made = changed(KINDS[start].wanted if start else None, [f"pack={pack}"])
    assert (made.system, made.earthing) == (system, earthing)


def test_what_is_chosen_beside_the_pack_stays():
    made = changed(KINDS["C"].wanted, ["pack=anz", "earthing=TT", "unit_sheet=hybrid-10", "rating_a=63"])
    assert (made.earthing, made.unit_sheet, made.rating_a) == ("TT", "hybrid-10", 63.0)


@pytest.mark.parametrize(
    ("letter", "pack", "sheet"),
    [("C", "anz", "hybrid-8-through"), ("Q", "anz", "hybrid-5-array-through"), ("M", "anz", "hybrid-5-open"),
     ("R", "anz", "hybrid-6-through"), ("C", "na", ""), ("C", "uk", "hybrid-8")],
)  # fmt: skip
def test_a_unit_gives_way_to_its_like_of_the_trade(letter, pack, sheet):
    assert changed(KINDS[letter].wanted, [f"pack={pack}"]).unit_sheet == sheet


@pytest.mark.parametrize("letter", sorted(KINDS))
def test_a_starting_point_takes_any_other_choice_or_says_why_not(reckoner, letter):
    """Its sheets go with its family, number and backup: with others the usual ones are taken."""
    start = KINDS[letter].wanted
    for key in ("family", "units", "backup", "arrangement", "existing"):
        for value in options_of(key) or ("1", "2", "3"):
            try:
                job = compose(changed(start, [f"{key}={value}"]))
            except JobError:
                continue
            wrong = [finding.text for finding in answers(reckoner, job, *OWN_DOING) if finding.blocks]
            assert wrong == [], (key, value)
            hybrid = changed(start, [f"{key}={value}"]).family == "hybrid"
            assert bool(job.sheets.hybrids) == hybrid
            assert bool(job.sheets.battery_units) != hybrid
