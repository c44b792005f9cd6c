"""Prices of the tariff that can hardly be meant."""

import pytest

from lodestaff.checks.finding import Verdict
from lodestaff.checks.prices import Prices, tariff_prices


def verdicts(*prices):
    return {found.quantity: found for found in tariff_prices(Prices(*prices))}


def test_usual_prices_pass_with_their_margin():
    found = verdicts("GBP", 0.30, 0.12, 0.15)
    assert {each.verdict for each in found.values()} == {Verdict.PASSED}
    assert found["bands"].margin == pytest.approx(0.18)


@pytest.mark.parametrize("pence", [(28, 0.12, 0.15), (0.28, 12, 0.15), (0.28, 0.12, 15)])
def test_a_price_in_pence_is_asked_back(pence):
    dearest = verdicts("GBP", *pence)["usual"]
    assert dearest.verdict is Verdict.WARNS
    assert f"{max(pence) / 100:.2f}" in dearest.text


def test_a_low_band_that_is_the_dearer_one_warns():
    assert verdicts("AUD", 0.22, 0.36, 0.05)["bands"].verdict is Verdict.WARNS


def test_a_currency_without_a_usual_price_leaves_it_open():
    assert verdicts("JPY", 31.0, 20.0, 16.0)["usual"].open_because
