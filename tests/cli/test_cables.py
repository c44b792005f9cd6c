"""Cables and schedules on the command line."""

import json

import pypdf

from lodestaff.job import Change, edit, load_job, save_job
from lodestaff.main import main
from lodestaff.samples import sample_path

FAR_BYRE = str(sample_path("far-byre"))


def answer(capsys, *words):
    code = main([*words])
    return code, capsys.readouterr()


def test_runs_as_they_stand_and_as_proposed(capsys, tmp_path):
    bare, made = tmp_path / "bare.json", tmp_path / "made.json"
    save_job(edit(load_job(sample_path("far-byre")), Change("cables", [])), bare)
    code, told = answer(capsys, "cables", str(bare), "--json")
    rows = json.loads(told.out)["runs"]
    assert code == 0
    assert all(row["cable"] is None for row in rows)
    assert {row["use"] for row in rows} == {
        "service", "building", "feed", "output", "source", "battery", "array"}  # fmt: skip
    code, told = answer(capsys, "cables", str(bare), "--propose", "-o", str(made), "--json")
    assert code == 0
    rows = {row["id"]: row for row in json.loads(told.out)["runs"]}
    assert set(rows) == {cable.id for cable in load_job(made).cables}
    feed = rows["hybrid-feed"]
    assert feed["size"] == f"{feed['cable']['size_mm2']:g} mm²"
    assert feed["current_a"] <= feed["cable"]["device_a"]
    assert {one["code"] for one in feed["findings"]} >= {"WIRE-AMP", "WIRE-DROP", "WIRE-FAULT", "WIRE-RCD"}
    code, told = answer(capsys, "cables", str(made), "--propose")
    assert (code, told.out) == (0, "every run has a cable\n")


def test_what_is_unsafe_blocks_whatever_the_reason(capsys, tmp_path):
    path, thin = tmp_path / "thin.json", "cables/hybrid-feed"
    job = load_job(sample_path("far-byre"))
    save_job(edit(job, Change(f"{thin}/size_mm2", 1.5), Change(f"{thin}/why", "it was on the van")), path)
    code, told = answer(capsys, "cables", str(path), "--run", "hybrid-feed")
    assert code == 1
    assert "it was on the van" in told.out
    assert "blocks" in told.out
    code, told = answer(capsys, "cables", str(path), "--run", "hybrid-feed", "--anew")
    assert code == 0


def test_bad_input_of_cables_and_schedules(capsys, tmp_path):
    assert answer(capsys, "cables", FAR_BYRE, "--run", "nowhere")[0] == 2
    code, told = answer(capsys, "cables", FAR_BYRE, "-o", str(tmp_path / "x.json"))
    assert (code, "--propose" in told.err) == (2, True)
    code, told = answer(capsys, "schedules", FAR_BYRE, "--only", "pipes")
    assert (code, "terminations" in told.err) == (2, True)


def test_schedules_as_files(capsys, tmp_path):
    code, told = answer(capsys, "schedules", FAR_BYRE, "--csv", str(tmp_path), "--json")
    answered = json.loads(told.out)
    assert code == 0
    assert [one["id"] for one in answered["schedules"]] == [
        "cables", "conductors", "devices", "boards", "terminations", "links", "labels", "containment",
        "glands", "shutdown", "parts"]  # fmt: skip
    assert len(answered["files"]) == 11
    assert (tmp_path / "far-byre-cables.csv").read_text().startswith('Run,"Carries, A"')
    assert answer(capsys, "schedules", FAR_BYRE, "--csv", str(tmp_path))[0] == 2
    sheet = tmp_path / "labels.pdf"
    assert answer(capsys, "schedules", FAR_BYRE, "--labels", str(sheet))[0] == 0
    pages = pypdf.PdfReader(sheet).pages
    text = " ".join(page.extract_text() for page in pages)
    labels = next(one for one in answered["schedules"] if one["id"] == "labels")["rows"]
    assert len(pages) == -(-len(labels) // 10)
    assert "100 mm" in text
    assert all(row[0].split()[0] in text for row in labels)
    assert answer(capsys, "schedules", FAR_BYRE, "--csv", str(tmp_path), "--force")[0] == 0
