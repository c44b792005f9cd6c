"""No number, verdict, step or setting of a sample changes unseen: each against the file that was last
agreed on."""

import math

import pytest

from lodestaff.job import load_job
from lodestaff.job.attachments import read_attachment
from lodestaff.reckoning import Reckoner
from lodestaff.samples import sample_names, sample_path
from tests.golden.lines import FOLDER, lines_of


def same(one: str, other: str) -> bool:
    """Equal word by word; numbers to a part in a million, for processors round differently."""
    mine, theirs = one.split(), other.split()
    return len(mine) == len(theirs) and all(a == b or _close(a, b) for a, b in zip(mine, theirs, strict=True))


def _close(a: str, b: str) -> bool:
    try:
        return math.isclose(float(a), float(b), rel_tol=1e-6, abs_tol=1e-6)
    except ValueError:
        return False


@pytest.mark.parametrize("name", sample_names())
def test_every_number_is_the_one_agreed_on(name):
    path = sample_path(name)
    found = lines_of(Reckoner(lambda digest: read_attachment(path, digest)), load_job(path))
    agreed = (FOLDER / f"{name}.txt").read_text().splitlines()
    assert [line for line in zip(agreed, found, strict=False) if not same(*line)][:10] == []
    assert len(found) == len(agreed)


def test_the_comparison_sees_a_number_and_a_word():
    assert same("figure pv_kwh 4759.986", "figure pv_kwh 4759.9861")
    assert not same("figure pv_kwh 4759.986", "figure pv_kwh 4760.2")
    assert not same("finding LOAD-CONT passed open", "finding LOAD-CONT warns open")
