"""The owner's part, read page by page with its owner's eyes: every kind, and no word of what isn't there."""

import re
from datetime import date

import pytest

from lodestaff.handover import Caution, Chart, HandoverInput, Sign, Table, Text, pages
from lodestaff.handover.other_parts import operator_data
from lodestaff.job import Change, edit, load_job
from lodestaff.register import Firm, Register
from lodestaff.samples import sample_names, sample_path
from lodestaff.topology.questions import asked, has_generator

FIRM = Register(firm=Firm(name="Sorrel Solar", phone="01632 960 199", registration="SR 11"))


def made(reckoner, job, *parts):
    given = HandoverInput(job, (), FIRM, date(2026, 11, 28), parts=parts)
    return {page.id: page for page in pages(reckoner, given)}


def words(page):
    found = [page.title, *page.missing]
    for block in page.blocks:
        if isinstance(block, Text | Caution):
            found.append(block.words)
        elif isinstance(block, Table):
            found += [*block.columns, *(cell for row in block.rows for cell in row)]
        elif isinstance(block, Chart):
            found += [block.name, *(series.name for series in block.series)]
        elif isinstance(block, Sign):
            found.append(block.role)
    return " ".join(found).lower()


@pytest.mark.parametrize("name", sample_names())
def test_no_word_of_what_is_not_there(reckoner, name):
    job = load_job(sample_path(name))
    topology = reckoner.wiring(job).topology
    found, kinds = asked(topology), {part.kind for part in topology.parts.values()}
    made_pages = made(reckoner, job, "owner", "operator")
    text = " ".join(words(page) for page in made_pages.values())
    assert ("bypass switch" in text) == ("bypass" in kinds)
    assert ("bypass is not isolation" in text) == ("bypass" in kinds)
    assert ("battery, " in text) == bool(job.banks)
    assert ("from the battery" in text) == bool(job.banks)
    assert ("from the grid" in text) == job.mains.grid
    assert ("generator" in text.replace("never plug a generator", "")) == has_generator(topology)
    assert ("gateway" in text) == ("gateway" in kinds)
    assert ("owner-outage" in made_pages) == bool(found.has_backup and reckoner.leads(job))
    assert ("your installation stops with the grid" in text) == (job.mains.grid and not found.has_backup)
    micro = any(job.sheet_of(unit).module_level for unit in job.units)
    assert ("a converter behind each module" in text) == micro
    assert ("operator" in made_pages) == job.mains.grid
    if job.mains.grid:
        kept = reckoner.year(job).export_kw.sum(axis=0).max() <= job.limits.export_kw + 0.05
        assert ("export never above" in text) == kept
    else:
        assert "export" not in text
        assert "the grid" not in text
        assert "bill" not in text
    surplus = [circuit.name.lower() for circuit in job.circuits if circuit.role == "surplus only"]
    assert ("would otherwise be given away" in text) == bool(surplus)


NAMED = {"bypass": "bypass", "gateway": "gateway", "generator": "generator"}
NO_MATTER = ("gas meter", "no grid", "without an island", "works in an outage", "generator, car charger")


@pytest.mark.parametrize("name", sample_names())
def test_the_technical_record_has_no_word_of_it_either(reckoner, name):
    """What a kind doesn't have isn't in any page of the record, in no heading and no cell."""
    job = load_job(sample_path(name))
    topology = reckoner.wiring(job).topology
    found, kinds = asked(topology), {part.kind for part in topology.parts.values()}
    text = " ".join(words(page) for page in made(reckoner, job, "technical").values())
    for said in NO_MATTER:
        text = text.replace(said, "")
    named = {word for word, kind in NAMED.items() if re.search(rf"\b{word}s?\b", text)}
    assert named - {word for word, kind in NAMED.items() if kind in kinds} == set()
    strings = any(job.sheet_of(unit).trackers and not job.sheet_of(unit).module_level for unit in job.units)
    assert strings or not re.search(r"\b(string|tracker)s?\b", text)
    assert found.has_backup or not re.search(r"\b(island|backed up|endurance)\b", text)
    assert job.mains.grid or not re.search(r"\b(export|import|operator|bill|tariff|the grid)\b", text)


def test_charts_hold_the_years_own_sums(reckoner, larkmoor):
    """Derived: the bars of the year sum to its figures, a mean day of a month to its month."""
    found, figures = made(reckoner, larkmoor, "owner"), reckoner.figures(larkmoor)
    year = next(block for block in found["owner-year"].blocks if isinstance(block, Chart))
    sums = {series.name: sum(series.values) for series in year.series}
    assert sums["from the grid"] == pytest.approx(figures.import_kwh)
    assert sums["to the grid"] == pytest.approx(figures.export_kwh)
    assert sums["taken by your circuits"] == pytest.approx(figures.load_kwh)
    days = [block for block in found["owner-days"].blocks if isinstance(block, Chart)]
    alone = made(reckoner, load_job(sample_path("skerry-light-cottage")), "owner")["owner-days"]
    for day in (*days, *(block for block in alone.blocks if isinstance(block, Chart))):
        above = sum(sum(one.values) for one in day.series if not one.below)
        below = sum(sum(one.values) for one in day.series if one.below)
        assert above == pytest.approx(below, rel=1e-6)
    june = next(one for one in days[0].series if one.name == "from the grid")
    grid = next(one for one in year.series if one.name == "from the grid")
    assert sum(june.values) * 30 == pytest.approx(grid.values[5], rel=0.05)


def test_south_of_the_equator_summer_is_in_december(reckoner):
    job = load_job(sample_path("gannet-point-lodge"))
    assert job.site.latitude_deg < 0
    heads = [b.words for b in made(reckoner, job, "owner")["owner-days"].blocks if isinstance(b, Text)]
    assert heads[0].startswith("A mean day in summer, Dec")


def test_what_is_agreed_stands_there_and_what_is_not_is_missing(reckoner, larkmoor):
    care = made(reckoner, larkmoor, "owner")["owner-care"]
    assert care.missing == ()
    text = words(care)
    told = ("2027-12-06", "wired to the surgery's own router", "2026-12-18 to 2036-12-18", "for faults")
    for said in told:
        assert said in text
    bare = made(reckoner, edit(larkmoor, Change("handed", {})), "owner")
    assert set(bare["owner-care"].missing) == {
        "the day of the next inspection", "how it is connected to the network", "whose the accounts are",
        "warranties",
    }  # fmt: skip
    assert bare["owner-year"].missing == ("who pays for export",)
    assert "01632 960 199" in words(bare["owner-door"])


def test_the_operators_data_as_page_and_as_data(reckoner, larkmoor):
    data = operator_data(larkmoor, FIRM)
    assert data["registered_kva"] == {"L1": 6.0}
    assert data["units"][0]["stores_kwh"] == pytest.approx(19.2)
    assert data["array_kwp"] == pytest.approx(18 * 0.44)
    page = made(reckoner, larkmoor, "operator")["operator"]
    assert page.missing == ()
    assert "sr 11" in words(page)
    assert "export limited to 3.60 kw" in words(page)


def test_the_firms_part_has_hours_costs_and_snags(reckoner, larkmoor):
    found = made(reckoner, larkmoor, "firm")
    assert list(found)[:3] == ["firm-hours", "firm-cost", "firm-snags"]
    assert "together, hours of hands 58.5 h" in words(found["firm-hours"])
    assert found["firm-cost"].missing  # no price list was given
    assert "nothing is noted" in words(found["firm-snags"])
