"""Numbers as they are typed: never a thousand times too small without a word."""

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from lodestaff.quantities import text_of
from lodestaff.quantities.convention import CONVENTION, plain
from lodestaff.quantities.errors import JobError
from lodestaff.quantities.reader import awg_mm2, read_number


@pytest.mark.parametrize(
    ("text", "unit", "value"),
    [
        ("750", "", 750), (" 3.6 kW ", "kW", 3.6), ("3,6 kW", "kW", 3.6), ("1.2 kW", "W", 1200),
        ("850 W", "kW", 0.85),
        ("1,150.5", "", 1150.5), ("1.150,5", "", 1150.5), ("1,150,000", "", 1150000), ("12 345,6", "",
                                                                                       12345.6),
        ("7\u202f375", "kWh", 7375), ("0,125", "", 0.125), ("12,3456", "", 12.3456), ("1.150", "", 1.15),
        (".5", "", 0.5),
        ("−14", "°C", -14), ("14 °F", "°C", -10), ("30 %", "%", 30), ("1'250", "", 1250), ("2e3", "", 2000),
        ("16 mm2", "mm²", 16), ("350 mohm", "ohm", 0.35), ("8 AWG", "mm²", 8.366), ("2/0 AWG", "mm²", 67.431),
        ("90 min", "h", 1.5), ("4 ft", "m", 1.2192),
    ],
)  # fmt: skip
def test_what_is_typed_is_what_is_meant(text, unit, value):
    assert read_number(text, unit) == pytest.approx(value, rel=1e-4)


@pytest.mark.parametrize(
    ("text", "readings"), [("1,150", "1150 or 1.15"), ("1,000 Mohm", "1000 or 1"), ("-2,500", "2500 or 2.5")]
)
def test_one_comma_before_three_digits_is_asked_back(text, readings):
    with pytest.raises(JobError, match=readings):
        read_number(text, "Mohm" if "Mohm" in text else "")


@pytest.mark.parametrize(
    "text",
    ["", "abc", "1.2.3", "1,15,0", "12 34", "1,1500.0", "5 apples", "3 V", "nan", "inf", "1e999", "--3"],
)
def test_what_is_no_number_says_so(text):
    with pytest.raises(JobError):
        read_number(text, "kW")


def test_the_areas_of_the_gauges():
    """ASTM B258 (published, from memory): 10 AWG 5.261 mm², 4/0 AWG 107.2 mm²."""
    assert awg_mm2(10) == pytest.approx(5.261, rel=1e-3)
    assert read_number("4/0 AWG", "mm²") == pytest.approx(107.2, rel=1e-3)


@pytest.fixture(params=[".", ","], ids=["point", "comma"])
def convention(request, monkeypatch):
    monkeypatch.setattr(CONVENTION, "decimal", request.param)
    return CONVENTION


@settings(suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(value=st.floats(-5e6, 5e6, allow_nan=False), unit=st.sampled_from(["kW", "kWh", "V", "A", "ohm", "%"]))
def test_what_is_printed_reads_back_as_itself(convention, value, unit):
    """Under either convention, to the last digit printed: groups, sign and unit and all."""
    text = text_of(value, unit)
    assert text_of(read_number(text, unit), unit) == text
    assert read_number(plain(value)) == float(f"{value:g}")


@pytest.mark.parametrize(("decimal", "asked", "taken"), [(".", "1,150", "1.150"), (",", "1.150", "1,150")])
def test_only_the_other_sign_before_three_digits_is_asked_back(monkeypatch, decimal, asked, taken):
    monkeypatch.setattr(CONVENTION, "decimal", decimal)
    assert read_number(taken) == 1.15
    assert read_number("1,5") == read_number("1.5") == 1.5
    with pytest.raises(JobError, match=r"1150 or 1[.,]15"):
        read_number(asked)
