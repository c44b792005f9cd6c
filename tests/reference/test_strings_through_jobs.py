"""Worked values of strings that a job reaches: cold volts by coefficient and by table, lengths, plain and
coincident currents, reverse current."""

import pytest

from lodestaff.checks.array import OnTracker, StringVolts, arr_fuse, arr_isc, arr_par, arr_vmp, arr_voc
from lodestaff.job import Change, Job, edit, load_job
from lodestaff.reckoning import Reckoner
from lodestaff.reckoning.records import RECORDS
from lodestaff.samples import sample_path

RECKONER = Reckoner()
MODULE = {"pmp_w": 541.0, "voc_v": 49.62, "isc_a": 13.88, "vmp_v": 41.34, "imp_a": 13.07,
          "beta_voc_pct_per_k": -0.272, "gamma_pmp_pct_per_k": -0.335, "max_series_fuse_a": 25.0}  # fmt: skip
TRACKER = {"v_min": 120.0, "v_max": 450.0, "v_start": 150.0, "imp_max_a": 12.5, "isc_max_a": 18.0}


def fact(value):
    return {"value": value, "known": "read on site"}


def changed(name: str, *changes: Change) -> Job:
    return edit(load_job(sample_path(name)), *changes)


def with_module(job: Job, **fields) -> Job:
    sheet = job.faces[0].module
    return edit(job, *(Change(f"sheets/modules/{sheet}/{field}", value) for field, value in fields.items()))


def with_trackers(job: Job, unit: str, most_v: float, **fields) -> Job:
    found = job.sheets.hybrids[unit]
    rows = [{**tracker.model_dump(mode="json"), **fields} for tracker in found.trackers]
    return edit(
        job,
        Change(f"sheets/hybrids/{unit}/trackers", rows),
        Change(f"sheets/hybrids/{unit}/max_dc_v", most_v),
    )


def cold(name: str, most_v: float) -> Job:
    job = changed(
        name,
        Change("site/record_low_c", fact(-17.0)),
        Change("site/record_high_c", fact(38.0)),
        Change("pack/values/mounting_rise_roof_k/value", 32.0),
    )
    return with_trackers(with_module(job, **MODULE), job.units[0].sheet, most_v, **TRACKER)


def records(job: Job, kind):
    return list(RECORDS[kind](RECKONER, job, False))


@pytest.mark.parametrize(("most_v", "modules"), [(500.0, 9), (600.0, 10)])
def test_a_string_at_the_record_low_by_its_coefficient(most_v, modules):
    """A1: 55.29 V a module at -17 °C; 9 modules at 500 V (497.6 V), 10 at 600 V (552.9 V). Source: IEC 62548,
    array maximum voltage; NEC 690.7(A)(1) (from memory)."""
    record = records(cold("larkmoor", most_v), StringVolts)[0]
    assert record.volts.voc_cold_v == pytest.approx(55.29, rel=1e-3)
    assert record.lengths.most_hard == modules
    (found,) = arr_voc(record)
    assert found.value == pytest.approx(record.count * 55.29, rel=1e-3)


@pytest.mark.parametrize(("most_v", "modules"), [(500.0, 8), (600.0, 10)])
def test_without_a_coefficient_the_packs_table_decides(most_v, modules):
    """A2: -17 °C lies in the band to -20: factor 1.18, 58.55 V a module; 8 modules at 500 V, 10 at 600 V.
    Source: NEC Table 690.7(A) (from memory)."""
    job = cold("cinder-flat-house", most_v)
    informed = records(job, StringVolts)[0]
    assert informed.cold_factor == pytest.approx(1.18)
    (found,) = arr_voc(informed)
    table = next(each for each in found.figure.inputs if "table" in each.name)
    assert table.value == pytest.approx(informed.count * 58.55, rel=1e-3)
    record = records(with_module(job, beta_voc_pct_per_k=None), StringVolts)[0]
    assert record.volts.voc_cold_v == pytest.approx(58.55, rel=1e-3)
    assert record.lengths.most_hard == modules
    (decided,) = arr_voc(record)
    assert not decided.open
    assert decided.value == pytest.approx(record.count * 58.55, rel=1e-3)


def test_without_a_coefficient_and_without_a_table_it_stays_open():
    """By common practice 0.3 % a kelvin fills the place; nothing passes on it."""
    record = records(with_module(cold("larkmoor", 1000.0), beta_voc_pct_per_k=None), StringVolts)[0]
    (found,) = arr_voc(record)
    assert found.open
    assert "coefficient" in found.open_because[0]


def test_lengths_between_start_window_and_maximum():
    """A3: 70 °C and -17 °C: Vmp 35.11 V and 47.16 V, Voc hot 43.55 V: 4 to 9 modules. Source: IEC 62548
    string design; the mounting's rise is common practice."""
    record = records(cold("larkmoor", 500.0), StringVolts)[0]
    volts = record.volts
    assert (volts.hot_c, volts.vmp_hot_v) == (pytest.approx(70.0), pytest.approx(35.11, rel=1e-3))
    assert (volts.vmp_cold_v, volts.voc_hot_v) == (
        pytest.approx(47.16, rel=1e-3),
        pytest.approx(43.55, rel=1e-3),
    )
    assert (record.lengths.least, record.lengths.most) == (4, 9)
    (found,) = arr_vmp(record)
    assert found.value == pytest.approx(record.count * 35.11, rel=1e-3)


def test_the_design_current_of_one_string():
    """B1: 1.25 x 13.88 = 17.35 A of 18 A; 0.57 A of operating current are clipped. Source: IEC 62548."""
    record = records(cold("larkmoor", 500.0), OnTracker)[0]
    (found,) = arr_isc(record)
    assert found.value == pytest.approx(17.35, rel=1e-3)
    assert not found.blocks
    own = with_trackers(cold("larkmoor", 500.0), "hybrid-6", 500.0, **{**TRACKER, "isc_with_factor": True})
    (inside,) = arr_isc(records(own, OnTracker)[0])
    assert inside.value == pytest.approx(13.88), "the rating allows for it already"
    both = with_module(cold("larkmoor", 500.0), bifacial_gain=0.1)
    (gained,) = arr_isc(records(both, OnTracker)[0])
    assert gained.value == pytest.approx(17.35 * 1.1, rel=1e-3)
    assert gained.blocks


@pytest.mark.parametrize(
    ("azimuths", "sum_a", "apart_a", "share"),
    [((180, 180), 20.0, 20.0, 1.0), ((95, 275), 14.60, 18.37, 0.7946)],
)
def test_how_far_unlike_faces_coincide_and_that_the_rating_takes_the_plain_sum(
    azimuths, sum_a, apart_a, share
):
    """B2, B3: 9.85 A each at 52.2 N 0.1 E, 35 degrees: plain sum 19.70 A x 1.25 = 24.62 A of 22 A; under a
    clear sky together 20.00 A, or 14.60 A on opposite faces. Source: pvlib, Ineichen and Hay-Davies."""
    job = changed(
        "larch-fold-barn",
        Change("site/latitude_deg", 52.2),
        Change("site/longitude_deg", 0.1),
        Change("site/altitude_m", 20.0),
        *(Change(f"faces/{f}/tilt_deg", 35.0) for f in ("face-1", "face-2")),
        *(
            Change(f"faces/{f}/azimuth_deg", float(a))
            for f, a in zip(("face-1", "face-2"), azimuths, strict=True)
        ),
    )
    job = with_module(job, isc_a=9.85, imp_a=9.35, pmp_w=308.0)
    job = with_trackers(job, job.units[0].sheet, 1000.0, isc_max_a=22.0)
    record = records(job, OnTracker)[0]
    (found,) = arr_isc(record)
    assert found.value == pytest.approx(24.62, rel=1e-3)
    assert found.blocks, "the rating goes by the plain sum, whatever the azimuths"
    assert record.coincidence.sum_a == pytest.approx(sum_a, rel=5e-3)
    assert record.coincidence.apart_a == pytest.approx(apart_a, rel=5e-3)
    assert record.coincidence.share == pytest.approx(share, rel=5e-3)
    amps = next(each for each in found.figure.inputs if "clear sky" in each.name)
    assert (amps.value, amps.unit) == (pytest.approx(sum_a, rel=5e-3), "A")


def test_reverse_current_and_string_fuses():
    """B4: two strings 13.88 A of 25 A: none; three 27.76 A: fuses between 20.82 and 25 A: 25 A. Source: IEC
    62548 (from memory)."""
    job = with_module(changed("larch-fold-barn"), **MODULE)
    (two,) = arr_fuse(records(job, OnTracker)[0])
    assert two.value == pytest.approx(13.88)
    assert two.status == "passed"
    third = {"id": "string-3", "name": "3", "unit": "hybrid", "tracker": "A"}
    rows = [string.model_dump(mode="json") for string in job.strings]
    moved = [Change(f"faces/face-1/modules/m{n}/string", "string-3") for n in (5, 6, 7, 8)]
    (three,) = arr_fuse(records(edit(job, Change("strings", [*rows, third]), *moved), OnTracker)[0])
    assert three.value == pytest.approx(27.76, rel=1e-3)
    assert "25" in three.text


def test_strings_on_opposite_faces_lose_almost_nothing_side_by_side_and_much_in_one():
    """Equal strings in parallel on faces of 30 degrees to east and west lose under 0.1 % a year; the same
    modules in one string many per cent (common practice; by added curves, and by bypass diodes)."""
    job = changed(
        "larch-fold-barn",
        *(Change(f"faces/{f}/tilt_deg", 30.0) for f in ("face-1", "face-2")),
        Change("surroundings", []),
        *(Change(f"faces/face-2/modules/m{n}/optimiser", False) for n in (2, 3, 4, 8)),
        *(Change(f"strings/string-{n}/optimisers", "none") for n in (1, 2)),
    )
    record = next(iter(RECORDS[OnTracker](RECKONER, job, True)))
    (found,) = arr_par(record)
    assert record.mismatch_share is not None
    assert 0 < record.mismatch_share < 0.0015, "0.11 % here: 53.6 N, close to the roof"
    assert found.status == "passed"
    apart = RECKONER.pv_dc_kw(job).sum()
    one = edit(job, *(Change(f"faces/face-2/modules/m{n}/string", "string-1") for n in range(1, 5)),
               *(Change(f"faces/face-1/modules/m{n}/string", "string-2") for n in range(1, 5)))  # fmt: skip
    lost = 1 - RECKONER.pv_dc_kw(one).sum() / apart
    assert 0.04 < lost < 0.2
