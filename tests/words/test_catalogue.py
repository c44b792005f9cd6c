"""Sentences of the core in another language: found again by the templates of their key, values kept."""

import ast
import re
from pathlib import Path

import pytest

import lodestaff
from lodestaff.commissioning.procedure import procedure
from lodestaff.job import load_job
from lodestaff.reckoning.gathered import gathered
from lodestaff.reckoning.moment import Moment
from lodestaff.reckoning.results import compute
from lodestaff.reckoning.station_readings import storage_readings
from lodestaff.samples import sample_path
from lodestaff.topology import build
from lodestaff.words import Catalogue, languages, load_catalogue
from lodestaff.words.catalogue import PLACE, Template
from lodestaff.words.extract import templates_of

SOURCE = Path(lodestaff.__file__).parent
ENGLISH = re.compile(
    r"\b(the|of|is|are|and|with|gives?|takes?|at|its|more|sheet|charges?|works|battery|modules)\b"
)


@pytest.fixture(scope="module")
def german():
    return load_catalogue("de")


def made(*templates):
    return Catalogue("xx", tuple(Template(*one) for one in templates))


def test_values_keep_their_numbers_and_change_their_places():
    words = made(("A", "{name} gives {kw} in {years} years", "in {years} Jahren gibt {name} {kw}"))
    assert words.text("Bank 2 gives 3.60 kW in 10 years", "A") == "in 10 Jahren gibt Bank 2 3.60 kW"
    assert words.text("Bank 2 gives 3.60 kW in 10 years", "B") == "Bank 2 gives 3.60 kW in 10 years"


def test_what_stands_in_a_place_is_said_too_and_sentences_one_by_one():
    words = made(
        ("A", "{whose}: {low}", "{whose} - {low}"),
        ("any", "unknown", "unbekannt"),
        ("A", "Open it.", "Öffnen."),
        ("A", "no sun", "keine Sonne"),
    )
    assert words.text("X: unknown", "A") == "X - unbekannt"
    assert words.text("Open it. Then 5 kW. Open it.", "A") == "Öffnen. Then 5 kW. Öffnen."
    assert words.text("No sun", "A") == "Keine Sonne"


def test_the_longer_words_win_and_the_same_place_is_the_same_value():
    words = made(
        ("A", "{x}", "?{x}"), ("A", "take {n} modules", "{n} nehmen"), ("A", "{n} or {n}", "zweimal {n}")
    )
    assert words.text("take 4 modules", "A") == "4 nehmen"
    assert words.text("3 or 3", "A") == "zweimal 3"


def test_without_a_catalogue_everything_is_as_it_was():
    assert load_catalogue("tlh").text("As it is.", "A") == "As it is."
    assert languages() == ("de",)


def test_sentences_of_the_code_are_found_as_templates(tmp_path):
    file = tmp_path / "code.py"
    file.write_text('''"""A module."""
def f(a, b):
    """A function."""
    return f"{plain(a.kw, 1)} kW of {b}" + (f"; {b} left." if b else "."), "Plain words", f"{f(a)}{a.kw}"
''')
    found = [text for text, _ in templates_of(file)]
    assert found == ["{kw} kW of {b}{part}", "Plain words", "{a}{kw}", "; {b} left."]


def test_what_the_catalogue_holds_is_still_said_somewhere(german):
    said = {text.strip() for path in SOURCE.rglob("*.py") for text, _ in templates_of(path)}
    said |= {
        sentence
        for path in (SOURCE / "catalogue" / "packs").glob("*.json")
        for sentence in re.split(r"(?<=\.)\s+|\"", path.read_text(encoding="utf-8"))
    }
    shape = {PLACE.sub("{}", text) for text in said}
    stale = [one.source for one in german.templates if PLACE.sub("{}", one.source) not in shape]
    assert stale == []


def test_places_of_both_languages_are_the_same(german):
    for one in german.templates:
        assert set(PLACE.findall(one.target)) <= set(PLACE.findall(one.source)), one.source


def test_every_word_that_the_window_asks_for_has_one(german):
    """In the files of the station that speaks the other language, and in the frame about it."""
    asked = set()
    for path in (SOURCE / "desktop").rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text())):
            if isinstance(node, ast.Call) and getattr(node.func, "id", "") == "tr":
                asked |= {
                    part.value
                    for part in ast.walk(node.args[0])
                    if isinstance(part, ast.Constant) and isinstance(part.value, str)
                }
    assert len(asked) > 30
    assert {text for text in asked if not german.exact("window", text)} == set()


def english_in(text):
    return set(ENGLISH.findall(text))


# one unit, islands off grid, batteries sealed in cases, without a backup, several units, each pack
UNLIKE = (
    "larkmoor", "skerry-light-cottage", "sotol-ridge-house", "pinfold-terrace-3",
    "ocotillo-wash-centre", "gannet-point-lodge", "ludd-hall-annexe", "wendle-row-14",
)  # fmt: skip


@pytest.mark.parametrize("name", UNLIKE)
def test_the_storage_of_every_kind_speaks_german(german, reckoner, name):
    job = load_job(sample_path(name))
    results = compute(reckoner, job, Moment(), deep=False, stations=frozenset(["storage"]))
    findings = [
        finding
        for finding in results.findings
        if finding.code.startswith("STO-") and finding.code != "STO-DC"
    ]
    left = {}
    for finding in findings:
        for text in (finding.text, finding.advice, finding.figure.name, *finding.open_because):
            if text and english_in(said := german.text(text, finding.rule, finding.code)):
                left[text] = said
    for cause in gathered(findings):
        if english_in(said := german.text(cause.text, cause.worst.rule)):
            left[cause.text] = said
    for reading in storage_readings(results):
        for text in (reading.name, reading.beside):
            if english_in(said := german.text(text, "reading")):
                left[text] = said
    for step in procedure(job, build(job)):
        of_battery = step.id.startswith("battery-") or re.fullmatch("start-.*-battery", step.id)
        if of_battery and english_in(said := german.text(step.text, "step")):
            left[step.text] = said
    assert left == {}
