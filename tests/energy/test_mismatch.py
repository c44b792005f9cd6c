"""Adding I-V curves: fits give back their points; equal strings lose nothing, unequal ones what they
should."""

import numpy as np
import pvlib
import pytest

from lodestaff.energy.array import FAIMAN, Plane, plane_conditions
from lodestaff.energy.mismatch import ModulePoints, curve, desoto, parallel_loss
from lodestaff.energy.modules import in_parallel_kw
from lodestaff.energy.sun import Place, sun_over_year
from lodestaff.energy.synthetic import Climate, synthetic_year
from lodestaff.quantities.errors import JobError

SQUARE = ModulePoints(33.0, 13.34, 39.6, 13.9, 0.00639, -0.103, 60)
MODULES = pvlib.pvsystem.retrieve_sam("CECMod")
# Crystalline rows of the open module table, by index only.
ROWS = [column for column in MODULES.columns if MODULES[column]["Technology"] == "Mono-c-Si"][::2500]


def points_of(row):
    m = MODULES[row]
    return ModulePoints(
        float(m["V_mp_ref"]),
        float(m["I_mp_ref"]),
        float(m["V_oc_ref"]),
        float(m["I_sc_ref"]),
        float(m["alpha_sc"]),
        float(m["beta_oc"]),
        int(m["N_s"]),
    )


@pytest.mark.parametrize(
    "points",
    [SQUARE, *map(points_of, ROWS)],
    ids=lambda points: f"{points.cells_in_series} cells, {points.isc_a:g} A",
)
def test_a_fit_gives_back_the_sheets_points(points):
    """Isc, Voc and the operating point at standard conditions, each within 1 %."""
    parameters = curve(points, np.array([1000.0]), np.array([25.0]))
    found = pvlib.pvsystem.singlediode(*parameters)
    assert float(found["i_sc"][0]) == pytest.approx(points.isc_a, rel=0.01)
    assert float(found["v_oc"][0]) == pytest.approx(points.voc_v, rel=0.01)
    assert float(pvlib.pvsystem.i_from_v(points.vmp_v, *parameters)[0]) == pytest.approx(
        points.imp_a, rel=0.01
    )


def test_points_that_fit_no_diode_are_refused():
    with pytest.raises(JobError, match="fit no diode"):
        desoto(ModulePoints(39.5, 13.88, 39.6, 13.9, 0.006, -0.1, 120))


@pytest.fixture(scope="module")
def faces():
    place = Place(54.3, -2.4, 140, 0)
    climate = Climate(
        (0.29, 0.34, 0.38, 0.43, 0.46, 0.45, 0.44, 0.43, 0.41, 0.36, 0.31, 0.27),
        (2.0,) * 12,
        (12.0,) * 12,
        (4.0,) * 12,
        3,
    )
    sun, weather = sun_over_year(place), synthetic_year(place, climate)
    return [
        plane_conditions(Plane(34, azimuth, 1, -0.33, *FAIMAN["close roof"]), sun, weather)
        for azimuth in (95, 275)
    ]


def test_equal_strings_on_one_face_lose_nothing(faces):
    assert parallel_loss([(SQUARE, 10, *faces[0]), (SQUARE, 10, *faces[0])]) < 1e-6


def test_equal_strings_on_opposite_faces_lose_almost_nothing(faces):
    """Far under 1 % a year (common practice)."""
    assert 0 < parallel_loss([(SQUARE, 10, *faces[0]), (SQUARE, 10, *faces[1])]) < 0.005


def test_unequal_strings_lose_percents(faces):
    """10 beside 9 modules: between 1 and 6 % (common practice); the more unequal the more."""
    nine = parallel_loss([(SQUARE, 10, *faces[0]), (SQUARE, 9, *faces[0])])
    eight = parallel_loss([(SQUARE, 10, *faces[0]), (SQUARE, 8, *faces[0])])
    assert 0.01 < nine < 0.06
    assert eight > nine


@pytest.mark.parametrize(("more", "fewer"), [(10, 9), (10, 8), (12, 9)])
def test_the_year_knows_of_unequal_strings_what_added_curves_say(faces, more, fewer):
    """The common voltage by one curve at standard conditions, against curves added step by step."""
    strings, rows = [], []
    for (poa, cell), count in zip(faces, (more, fewer), strict=True):
        kw = np.clip(poa / 1000 * (1 - 0.0033 * (cell - 25)), 0, None) * 0.44 * count
        rows.append((kw, count * SQUARE.vmp_v))
        strings.append((SQUARE, count, poa, cell))
    together = in_parallel_kw(rows, SQUARE)
    lost = 1 - together.sum() / sum(kw.sum() for kw, _ in rows)
    assert lost == pytest.approx(parallel_loss(strings), abs=0.006)
    assert (together <= rows[0][0] + rows[1][0] + 1e-9).all()


def test_strings_of_like_volts_lose_nothing_in_the_year(faces):
    """0.1 % a year at most is left out by this (the case above, by added curves)."""
    rows = [(poa / 1000, 330.0) for poa, _ in faces]
    assert in_parallel_kw(rows, SQUARE) == pytest.approx(rows[0][0] + rows[1][0])
    thirty = [(SQUARE, 10, *each) for each in faces]
    assert parallel_loss(thirty) < 0.005
