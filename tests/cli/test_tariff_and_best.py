"""The tariff as an open file; the best settings written as a job."""

import json

import pytest

from lodestaff.cli.output import WRITES_JOB
from lodestaff.cli.parser import whole_parser
from lodestaff.job import load_job
from lodestaff.main import main
from lodestaff.samples import sample_path

FAR_BYRE = str(sample_path("far-byre"))


def answer(capsys, *words):
    code = main([*words])
    return code, capsys.readouterr()


def test_every_command_that_writes_a_job_writes_it_alone_and_over_jobs_only(capsys):
    """By the parser's own words: `-o` that writes a job is known to the guard and the lock."""
    commands = next(one for one in whole_parser()._actions if hasattr(one, "choices") and one.choices).choices
    told = {
        name
        for name, command in commands.items()
        for option in command._actions
        if "-o" in option.option_strings and (option.help or "").startswith("write the job")
    }
    assert {"best", "tariff", "arrange", "split"} <= told
    assert told <= WRITES_JOB


def test_jobs_and_tariffs_are_replaced_and_nothing_else(capsys, tmp_path):
    made, file = tmp_path / "job.json", tmp_path / "tariff.json"
    for _ in range(2):
        words = ("tariff", FAR_BYRE, "-o", str(made), "--write", str(file))
        assert answer(capsys, *words)[0] == 0
    code, told = answer(capsys, "tariff", FAR_BYRE, "--write", str(made))
    assert (code, "no tariff of Lodestaff's" in told.err) == (2, True)
    code, told = answer(capsys, "tariff", FAR_BYRE, "-o", str(file))
    assert (code, "no job of Lodestaff's" in told.err) == (2, True)


def test_a_tariff_goes_out_and_in_again(capsys, tmp_path):
    file, made = tmp_path / "tariff.json", tmp_path / "job.json"
    assert answer(capsys, "tariff", FAR_BYRE, "--write", str(file))[0] == 0
    data = json.loads(file.read_text())
    data["bands"] = [{"id": "peak", "price": 0.5, "start_h": 17, "end_h": 20}]
    file.write_text(json.dumps(data))
    code, told = answer(capsys, "tariff", FAR_BYRE, "--read", str(file), "-o", str(made), "--json")
    assert code == 0
    assert json.loads(told.out)["months"][0]["import_most"] == 0.5
    assert load_job(made).tariff.bands[0].price == 0.5


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("{", "no JSON"),
        ('{"price": 1}', "unknown: price"),
        ("[]", "unknown: list"),
        ('{"export": -1}', "tariff/export"),
    ],
)
def test_a_file_that_is_no_tariff_is_refused(capsys, tmp_path, text, words):
    file = tmp_path / "bad.json"
    file.write_text(text)
    code, told = answer(capsys, "tariff", FAR_BYRE, "--read", str(file), "-o", str(tmp_path / "x.json"))
    assert (code, told.out) == (2, "")
    assert words in told.err
    assert not (tmp_path / "x.json").exists()


def test_hourly_prices_are_carried_with_the_job(capsys, tmp_path):
    file, made = tmp_path / "hours.csv", tmp_path / "job.json"
    file.write_text("\n".join(str(0.1 + hour % 24 / 100) for hour in range(8760)))
    assert answer(capsys, "tariff", FAR_BYRE, "--hourly", str(file), "-o", str(made))[0] == 0
    code, told = answer(capsys, "tariff", str(made), "--json")
    assert code == 0
    assert json.loads(told.out)["tariff"]["hourly"]["name"] == "hours.csv"


def test_best_settings_are_written_and_can_not_be_bettered(capsys, tmp_path):
    made = tmp_path / "job.json"
    code, told = answer(capsys, "best", FAR_BYRE, "--json", "-o", str(made))
    found = json.loads(told.out)
    assert code == 0
    assert found["bill_best"] < found["settings"]["bill"] < found["bill"] < found["bill_idle"]
    assert found["settings"]["reached"] > 0.9 > found["reached"]
    code, told = answer(capsys, "simulate", str(made), "--json")
    assert json.loads(told.out)["figures"]["bill"] == pytest.approx(found["settings"]["bill"])


def test_without_a_grid_there_is_nothing_to_better(capsys):
    code, told = answer(capsys, "best", str(sample_path("skerry-light-cottage")), "--json")
    assert (code, json.loads(told.out)["settings"]) == (0, None)
