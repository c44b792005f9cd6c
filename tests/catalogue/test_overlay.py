"""A pack of one's own laid over a shipped one: source and date in each working, damage said."""

import json

import pytest

from lodestaff.catalogue import load_pack
from lodestaff.catalogue.overlay import laid_over, parse_overlay
from lodestaff.quantities.errors import JobError

OWN = {
    "name": "fellbeck", "over": "uk",
    "values": {"meter_error_share": {"value": 0.03, "source": "operator's letter", "date": "2026-10-12"}},
    "words": {"essential_board": "backup board"},
    "tables": {"cables": {"source": "edition in force, page 1", "date": "2026-10-12",
                          "rows": [[10.0, 65.0, None, None, None, None, None], [25.0, 112.0, 1.8, None,
                                                                                None, None, None]]}},
}  # fmt: skip


def test_values_words_and_rows_are_laid_over():
    uk = load_pack("uk")
    made = laid_over(uk, parse_overlay(json.dumps(OWN).encode(), "own.json"))
    assert made.value("meter_error_share").value == 0.03
    assert "operator's letter, 2026-10-12" in str(made.value("meter_error_share").cite())
    assert made.word("essential_board") == "backup board"
    cables = made.table("cables")
    assert cables.at(10.0, "4D5 C A") == 65.0
    assert cables.at(10.0, "4D5 C mV/A/m") == uk.table("cables").at(10.0, "4D5 C mV/A/m")
    assert cables.at(25.0, "4D5 C A") == 112.0
    assert cables.row_keys() == tuple(sorted(cables.row_keys()))
    assert "page 1" in str(cables.cite())
    assert uk.value("meter_error_share").value != 0.03
    assert "fellbeck" in made.edition


@pytest.mark.parametrize(
    ("change", "word"),
    [
        ({"over": "moon"}, "no rule pack"),
        ({"values": {"luck": {"value": 1, "source": "x", "date": "2026-01-01"}}}, "no value 'luck'"),
        ({"values": {"rcd_ma": {"value": 30, "date": "2026-01-01"}}}, "values rcd_ma source"),
        ({"values": {"rcd_ma": {"value": 30, "source": "x", "date": "today"}}}, "values rcd_ma date"),
        ({"words": {"kite": "x"}}, "no word"),
        ({"tables": {"cables": {"source": "x", "date": "2026-01-01", "rows": [[1.0]]}}}, "cells"),
        ({"tables": {"stars": {"source": "x", "date": "2026-01-01", "rows": [[1.0]]}}}, "no table"),
        ({"colour": "red"}, "colour"),
    ],
)
def test_damage_says_where(change, word):
    with pytest.raises(JobError, match=word):
        parse_overlay(json.dumps({**OWN, **change}).encode(), "own.json")


def test_what_is_no_json_is_said():
    with pytest.raises(JobError, match="is not JSON"):
        parse_overlay(b"{", "own.json")
