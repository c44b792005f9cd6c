"""Packs are data: a fourth one composes every kind; an old job keeps its edition, a newer one is offered as
one step."""

import json

import pytest

from lodestaff.catalogue import load_pack, pack_names
from lodestaff.catalogue.editions import newer_edition
from lodestaff.catalogue.pack import own_packs
from lodestaff.job import Change, edit
from lodestaff.reckoning.findings import findings
from lodestaff.templates import KINDS, compose
from lodestaff.topology import build


@pytest.fixture
def fourth():
    """A pack of nobody's: the southern one with other names of phases, dates, prices and a place of its
    own."""
    made = load_pack("anz").model_dump(mode="json")
    made |= {
        "name": "fourth",
        "title": "Nobody's rules",
        "edition": "fourth 1",
        "phase_names": ["R", "S", "T"],
        "time_zones": {"3": "Africa/Nairobi"},
    }
    made["begins"] |= {
        "latitude_deg": 2.0,
        "longitude_deg": 38.0,
        "utc_offset_h": 3.0,
        "time_zone": "Africa/Nairobi",
        "currency": "XTS",
        "opens_neutral": True,
        "essential_rcd": True,
    }
    own_packs().mkdir(parents=True)
    (own_packs() / "fourth.json").write_text(json.dumps(made))
    load_pack.cache_clear()
    yield "fourth"
    load_pack.cache_clear()


@pytest.mark.parametrize("letter", list(KINDS)[::3])
def test_a_fourth_pack_composes_every_kind(reckoner, fourth, letter):
    """What is wanted of each kind, on supplies that the pack has; every check is asked."""
    assert fourth in pack_names()
    data = KINDS[letter].wanted.model_dump(mode="json")
    system = {"120/240 V": "two of three phases", "120/208 V": "two of three phases"}.get(
        data["system"], data["system"]
    )
    sheet = "" if data["unit_sheet"].endswith("-split") else data["unit_sheet"]
    job = compose(
        type(KINDS[letter].wanted).model_validate(
            {
                **data,
                "pack": fourth,
                "system": system,
                "unit_sheet": sheet,
                "earthing": "MEN",
                "shutdown": False,
            }
        )
    )
    assert set(job.site.phases) <= {"R", "S", "T"}
    assert (job.tariff.currency, job.time_zone) == ("XTS", "Africa/Nairobi")
    topology = build(job)
    assert (topology.orphans, topology.unwired) == ((), ())
    assert {one.code for one in findings(reckoner, job, deep=False)} >= {
        "SITE-PLACE",
        "WIRE-LIVE",
        "WIRE-ISO",
    }


def test_a_person_may_keep_a_pack_but_none_takes_a_shipped_ones_name(fourth):
    (own_packs() / "uk.json").write_text("{}")
    load_pack.cache_clear()
    assert load_pack("uk").values


class TestEditions:
    def old(self, larkmoor):
        pack = larkmoor.pack
        values = {name: one for name, one in pack.values.items() if name != "isc_factor"}
        mine = values["voltage_high_v"].model_copy(update={"value": 250.0, "corrected": True})
        return edit(
            larkmoor,
            Change(
                "pack",
                pack.model_copy(
                    update={"edition": "uk 1", "values": {**values, "voltage_high_v": mine}}
                ).model_dump(mode="json"),
            ),
        )

    def test_the_one_that_there_is_has_no_newer(self, larkmoor):
        assert newer_edition(larkmoor.pack) is None

    def test_an_older_one_is_offered_what_it_lacks_and_keeps_what_was_corrected(self, larkmoor):
        job = self.old(larkmoor)
        newer = newer_edition(job.pack)
        assert newer is not None
        assert [(one.kind, one.name, one.before, one.after) for one in newer.unlike] == [
            ("value", "isc_factor", "", "1.25")
        ]
        taken = edit(job, Change("pack", newer.pack.model_dump(mode="json")))
        assert taken.pack.value("voltage_high_v").value == 250.0
        assert taken.pack.edition == load_pack("uk").edition


def test_no_code_compares_with_a_packs_name():
    """What a pack does otherwise is said in the pack."""
    import re
    from pathlib import Path

    import lodestaff

    compared = re.compile(
        r"(pack|pack\.name|self\.pack)\s*(==|!=|in|not in)\s*[\(\[\{]?\s*[\"'](uk|na|anz)[\"']"
    )
    keyed = re.compile(r"[\{\(,]\s*[\"'](uk|na|anz)[\"']\s*:")
    found = [
        f"{path.name}: {line.strip()}"
        for path in Path(lodestaff.__file__).parent.rglob("*.py")
        for line in path.read_text().splitlines()
        if compared.search(line) or keyed.search(line)
    ]
    assert found == []
