"""Ten seeded years: the same each time, around the typical one, with no more digits than they allow."""

import pytest

from lodestaff.job import load_job
from lodestaff.reckoning import Reckoner
from lodestaff.reckoning.spread import Range, seeded, spread
from lodestaff.samples import sample_path


@pytest.fixture(scope="module")
def barn():
    return load_job(sample_path("far-byre"))


@pytest.fixture(scope="module")
def ranges(barn):
    return spread(Reckoner(), barn)


def test_years_are_seeded_and_no_two_alike(barn):
    assert seeded(barn, 3) == seeded(barn, 3)
    assert seeded(barn, 3).site.weather != seeded(barn, 4).site.weather
    assert seeded(barn, 3).circuits != seeded(barn, 4).circuits
    assert all(c.kwh_year <= c.running_w * 8.76 + 1e-9 for n in range(10) for c in seeded(barn, n).circuits)


def test_the_typical_year_lies_among_them(barn, ranges):
    """Sun of a year varies by 3 to 6 % (common practice, no source): the range is of that order."""
    figures = Reckoner().figures(barn)
    for name in ("bill", "pv_kwh", "load_kwh", "import_kwh", "self_sufficiency"):
        one = ranges[name]
        assert one.low <= one.middle <= one.high
        assert one.low - (one.high - one.low) <= getattr(figures, name) <= one.high + (one.high - one.low)
    assert 0.02 < (ranges["pv_kwh"].high - ranges["pv_kwh"].low) / figures.pv_kwh < 0.25


def test_a_stop_stops(barn):
    told = []
    assert spread(Reckoner(), barn, lambda share: told.append(share) or len(told) < 2) is None
    assert told == [0.0, 0.1]


@pytest.mark.parametrize(
    ("low", "high", "value", "shown"),
    [(2840.0, 3300.0, 3091.4, 3090.0), (0.91, 0.94, 0.9262, 0.926), (5, 5, 5.3, 5.3)],
)
def test_digits_by_the_range(low, high, value, shown):
    assert Range(low, low, high).rounded(value) == pytest.approx(shown)
