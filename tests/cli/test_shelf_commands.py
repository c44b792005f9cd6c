"""The shelf, prices and packs of one's own on the command line."""

import json
from pathlib import Path

import pytest

from lodestaff.job import load_job
from tests.cli.running import run, run_json


def test_shelf_from_typing_to_a_job(capsys, job, tmp_path):
    shelf = str(tmp_path / "shelf.json")
    given = ["name=Own module", "voc_v=37.4", "isc_a=13.95", "pmp_w=410", "vmp_v=31.2", "imp_a=13.15",
             "alpha_isc_pct_per_k=0.045", "beta_voc_pct_per_k=-93.5 mV/K", "gamma_pmp_pct_per_k=-0.34",
             "length_m=1722 mm"]  # fmt: skip
    code, answer = run_json(capsys, "shelf", "set", "module", "own-410", *given, "--shelf", shelf)
    assert (code, answer["missing"]) == (0, ["Width"])
    assert run(capsys, "shelf", "check", "--shelf", shelf)[0] == 1
    code, _, err = run(capsys, "replace", job, "module-440", "own-410", "--shelf", shelf)
    assert code == 2
    assert "Width missing" in err
    run(
        capsys,
        "shelf",
        "set",
        "module",
        "own-410",
        "width_m=1134 mm",
        "--shelf",
        shelf,
        "--known",
        "measured",
    )
    answer = run_json(capsys, "shelf", "show", "own-410", "--shelf", shelf)[1]
    assert answer["known"]["width_m"] == "measured"
    assert answer["values"]["beta_voc_pct_per_k"] == pytest.approx(-0.25)
    out = str(tmp_path / "changed.json")
    code, answer = run_json(capsys, "replace", job, "module-440", "own-410", "--shelf", shelf, "-o", out)
    assert code == 0
    assert any(row["name"] == "Bill, a year" and not row["same"] for row in answer["rows"])
    assert {face.module for face in load_job(Path(out)).faces} == {"own-410"}


def test_shelf_in_and_out(capsys, tmp_path):
    book, table = str(tmp_path / "shelf.xlsx"), str(tmp_path / "modules.csv")
    assert run(capsys, "shelf", "export", book)[0] == 0
    assert run(capsys, "shelf", "export", table, "module")[0] == 0
    other = str(tmp_path / "other.json")
    code, answer = run_json(capsys, "shelf", "import", table, "--shelf", other)
    assert (code, len(answer["imported"])) == (0, 3)
    assert len(run_json(capsys, "shelf", "list", "--shelf", other)[1]["entries"]) == 3
    run(capsys, "shelf", "remove", "module-410", "--shelf", other)
    assert "module-410" not in run(capsys, "shelf", "list", "module", "--shelf", other)[1]
    assert "Open-circuit voltage Voc" in run(capsys, "shelf", "fields", "module")[1]
    fields = run_json(capsys, "shelf", "fields", "battery")[1]["fields"]
    assert {"key", "words", "unit", "required"} <= set(fields[0])
    for bad in (
        ["show", "none"],
        ["show"],
        ["fields", "kite"],
        ["set", "module", "x", "voc_v"],
        ["import", "none.csv"],
    ):
        code, _, err = run(capsys, "shelf", *bad)
        assert code == 2
        assert err.count("\n") == 1


def test_offers(capsys, job, tmp_path):
    shelf = str(tmp_path / "shelf.json")
    run(capsys, "shelf", "export", shelf)
    assert run_json(capsys, "shelf", "offers", job, "--shelf", shelf)[1]["offers"] == []
    run(capsys, "shelf", "set", "module", "module-440", "voc_v=39.9", "--shelf", shelf)
    (offer,) = run_json(capsys, "shelf", "offers", job, "--shelf", shelf)[1]["offers"]
    assert offer["fields"] == [["Open-circuit voltage Voc", 39.6, 39.9]]


def test_cost(capsys, job, tmp_path):
    code, answer = run_json(capsys, "cost", job)
    assert code == 0
    assert answer["net"] == 0
    assert answer["open"]
    prices = tmp_path / "prices.json"
    prices.write_text(
        json.dumps({"tax_pct": 20, "lists": [{"supplier": "Fell", "prices": {"hybrid-6": 900}}]})
    )
    answer = run_json(capsys, "cost", job, "--prices", str(prices))[1]
    assert (answer["net"], answer["gross"]) == (900, 1080)
    assert "open, not in the sums" in run(capsys, "cost", job, "--prices", str(prices))[1]


def test_pack_check(capsys, job, tmp_path):
    own = tmp_path / "own.json"
    value = {"value": 0.03, "source": "operator's letter", "date": "2026-10-12"}
    own.write_text(json.dumps({"name": "fellbeck", "over": "uk", "values": {"meter_error_share": value}}))
    code, answer = run_json(capsys, "pack-check", str(own))
    assert (code, answer["values"], answer["file"]) == (0, 1, None)
    out = str(tmp_path / "laid.json")
    assert run(capsys, "pack-check", str(own), "--job", job, "-o", out)[0] == 0
    assert load_job(Path(out)).pack.value("meter_error_share").value == 0.03
    found = run_json(capsys, "check", out)[1]["findings"]
    export = next(one for one in found if one["code"] == "LIM-EXPORT")
    assert "operator's letter" in json.dumps(export["working"]) + str(export["limit_source"])
    own.write_text("{")
    assert run(capsys, "pack-check", str(own))[0] == 2


def test_a_number_with_two_readings_is_asked_back(capsys, tmp_path):
    shelf = str(tmp_path / "shelf.json")
    assert run(capsys, "shelf", "set", "module", "own", "name=Own", "voc_v=37.4", "--shelf", shelf)[0] == 0
    code, _, err = run(capsys, "shelf", "set", "module", "own", "voc_v=1,250", "--shelf", shelf)
    assert code == 2
    assert "1250 or 1.25?" in err
    assert run_json(capsys, "shelf", "show", "own", "--shelf", shelf)[1]["values"]["voc_v"] == 37.4
