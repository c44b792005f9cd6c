"""The register lies outside the jobs, and a damaged one says what to mend."""

import json

import pytest

from lodestaff.quantities.errors import JobError
from lodestaff.register import Firm, Instrument, Person, Register, load_register, register_path, save_register


def test_none_yet_is_an_empty_one():
    assert load_register() == Register()


def test_it_comes_back():
    made = Register(
        firm=Firm(name="Firm", phone="0"),
        people=(Person(name="A", licence="roof"),),
        instruments=(Instrument(name="Meter", serial="1", calibrated_until="2027-01-31"),),
    )
    save_register(made)
    assert load_register() == made
    assert register_path().exists()
    assert made.calibrated_until("Meter") == "2027-01-31"
    assert made.calibrated_until("Other") == ""


@pytest.mark.parametrize(
    ("text", "where"),
    [
        ("{", "JSON"),
        (json.dumps({"version": 2}), "version"),
        (json.dumps({"instruments": [{"name": "M", "calibrated_until": "31/1/27"}]}), "2027-03-31"),
        (json.dumps({"people": [{"name": ""}]}), "people 0 name"),
        (json.dumps({"firm": {"colour": "red"}}), "firm colour"),
        ("[]", "register"),
    ],
)
def test_damage_says_where_and_what_would_be_right(tmp_path, text, where):
    path = tmp_path / "register.json"
    path.write_text(text)
    with pytest.raises(JobError, match=where):
        load_register(path)


def test_a_named_file_must_be_there(tmp_path):
    with pytest.raises(JobError, match="no such file"):
        load_register(tmp_path / "none.json")


def test_a_disk_that_refuses_is_said(tmp_path):
    (tmp_path / "file").write_text("")
    with pytest.raises(JobError):
        save_register(Register(), tmp_path / "file" / "register.json")


def test_the_shipped_sample_is_sound(larkmoor_path):
    found = load_register(larkmoor_path.parent / "register" / "register.json")
    assert found.firm.name
    assert all(one.calibrated_until for one in found.instruments)
