"""What is kept on disk is what would be made anew: by its whole question, or not at all."""

from dataclasses import replace

import numpy as np
import pytest

from lodestaff.energy import kept as home
from lodestaff.energy.kept import kept
from lodestaff.energy.sun import Place, sun_over_year

PLACE = Place(51.0, -2.0, altitude_m=80.0, utc_offset_h=0.0)


@pytest.fixture
def folder(tmp_path, monkeypatch):
    monkeypatch.setattr(home, "folder", lambda: tmp_path / "years")
    return tmp_path / "years"


@pytest.fixture
def counted(folder):
    """A kept function, and what it was asked for each time that it had to work."""
    asked = []

    @kept
    def height(*given):
        asked.append(given)
        return np.arange(5.0) + len(asked)

    return height, asked


def test_the_second_answer_is_the_first_without_work(counted):
    height, asked = counted
    first, second = height(PLACE), height(PLACE)
    assert len(asked) == 1
    assert (first == second).all()


UNLIKE = [
    (PLACE,),
    *[(replace(PLACE, **{name: 1.25}),) for name in ("latitude_deg", "longitude_deg", "altitude_m")],
    (replace(PLACE, utc_offset_h=1.0),),
    (PLACE, PLACE),
    (1,),
    (1.0,),
    ("1",),
    (b"1",),
    (np.array([1, 2]),),
    (np.array([1.0, 2.0]),),
    (np.array([[1.0, 2.0]]),),
    (((1.0,), 2.0),),
    ((1.0, (2.0,)),),
    ("a", "bc"),
    ("ab", "c"),
]


def test_unlike_questions_never_share_an_answer(counted):
    height, asked = counted
    for question in UNLIKE * 2:
        height(*question)
    assert len(asked) == len(UNLIKE)


def test_the_layout_of_an_array_in_memory_makes_no_difference(counted):
    height, asked = counted
    table = np.arange(12.0).reshape(3, 4)
    height(table)
    height(np.asfortranarray(table))
    assert len(asked) == 1


@pytest.mark.parametrize("damage", [b"", b"\x00" * 10, None], ids=["empty", "short", "one bit"])
def test_what_is_damaged_is_made_anew(counted, folder, damage):
    height, asked = counted
    height(PLACE)
    (file,) = folder.iterdir()
    data = bytearray(file.read_bytes())
    data[-3] ^= 1
    file.write_bytes(bytes(data) if damage is None else damage)
    height(PLACE)
    height(PLACE)
    assert len(asked) == 2


def test_other_source_or_libraries_begin_anew(counted, monkeypatch):
    height, asked = counted
    height(PLACE)
    monkeypatch.setattr(home, "made_by", lambda: b"another")
    height(PLACE)
    assert len(asked) == 2


def test_where_nothing_can_be_written_nothing_is_kept(tmp_path, monkeypatch):
    (tmp_path / "file").write_text("no folder")
    monkeypatch.setattr(home, "folder", lambda: tmp_path / "file" / "years")
    assert kept(len)("four") == 4


def test_the_longest_unused_go_first(counted, folder, monkeypatch):
    height, asked = counted
    monkeypatch.setattr(home, "MOST_FILES", 3)
    for latitude in range(6):
        height(latitude)
    assert len(list(folder.iterdir())) == 3
    height(5)
    assert len(asked) == 6


def test_a_kept_sun_is_the_sun_itself(folder):
    """To the last bit, and the same object's types: nothing is rounded on its way to the disk and back."""
    made = sun_over_year.__wrapped__.__wrapped__(PLACE)
    sun_over_year.__wrapped__(PLACE)
    again = sun_over_year.__wrapped__(PLACE)
    for name in ("apparent_zenith_deg", "azimuth_deg", "extra_normal_w_m2"):
        assert (getattr(made, name) == getattr(again, name)).all()
        assert getattr(again, name).dtype == float
