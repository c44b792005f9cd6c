"""Every family of converter as the program reckons with it: nothing added that its sheet doesn't say."""

import pytest

from lodestaff.catalogue import unit_sheet
from lodestaff.catalogue.families import BRANCH, WITHOUT_EFFICIENCY
from lodestaff.catalogue.kinds import checked, kind_named
from lodestaff.shelf.model import starter


def of(name, count=1):
    entry = next(one for one in starter().entries if one.id == name)
    return unit_sheet(checked(kind_named(entry.kind), dict(entry.values), name), count), entry.values


def test_a_hybrid_is_itself():
    sheet, values = of("hybrid-6")
    assert sheet.rated_kva == values["rated_kva"]
    assert sheet.transfer
    assert sheet.forms_island


def test_a_string_inverter_follows():
    sheet, values = of("inverter-6")
    assert not sheet.transfer
    assert not sheet.forms_island
    assert [one.name for one in sheet.trackers] == ["A", "B"]
    assert sheet.efficiency == ((1.0, values["eta_euro"]),)
    assert sheet.max_dc_kw == values["max_dc_kw"]


@pytest.mark.parametrize("count", [1, 6, 13])
def test_a_branch_is_so_many_converters(count):
    sheet, values = of("micro-400", count)
    assert sheet.rated_kva == pytest.approx(count * values["rated_va"] / 1000)
    assert sheet.module_level
    assert [one.name for one in sheet.trackers] == [BRANCH]
    assert sheet.efficiency == ((1.0, WITHOUT_EFFICIENCY),)  # the sheet gives none; common practice stands in


def test_a_battery_unit_forms_an_island_behind_a_gateway():
    sheet, values = of("battery-unit-8")
    assert not sheet.transfer
    assert sheet.forms_island
    assert sheet.trackers == ()
    assert sheet.own_use_kw == values["own_use_kw"]
    with_sun, _ = of("battery-unit-sun")
    assert len(with_sun.trackers) == 2
