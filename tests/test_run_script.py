"""The set-up script: what it finds missing, what it installs, what it says where it may not."""

import importlib.machinery
import importlib.util
import subprocess
import sys
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]


@pytest.fixture
def run(monkeypatch, tmp_path):
    """The script as a module, with a place of its own."""
    loader = importlib.machinery.SourceFileLoader("run_script", str(ROOT / "run"))
    module = importlib.util.module_from_spec(importlib.util.spec_from_loader("run_script", loader))
    monkeypatch.setattr(sys, "dont_write_bytecode", True)
    loader.exec_module(module)
    (tmp_path / "requirements.txt").write_text("a==1\n")
    monkeypatch.setattr(module, "ROOT", tmp_path)
    monkeypatch.setattr(module, "VENV", tmp_path / ".venv")
    monkeypatch.setattr(module, "PYTHON", tmp_path / ".venv" / "bin" / "python")
    monkeypatch.setattr(module, "STAMP", tmp_path / ".venv" / "set-up-done")
    monkeypatch.setattr(module, "X_STAMP", tmp_path / ".venv" / "window-opened")
    monkeypatch.delenv("DISPLAY", raising=False)
    monkeypatch.delenv("QT_QPA_PLATFORM", raising=False)
    return module


def test_the_stamp_follows_the_locked_versions(run):
    before = run.fingerprint()
    assert run.fingerprint() == before
    (run.ROOT / "requirements.txt").write_text("a==2\n")
    assert run.fingerprint() != before


STEPS = ("make_environment", "install_locked_versions", "find_qt_libraries", "compile_loops")


def test_a_second_start_does_no_set_up_work(run, monkeypatch):
    run.PYTHON.parent.mkdir(parents=True)
    run.PYTHON.write_text("")
    run.STAMP.write_text(run.fingerprint())
    for step in STEPS:
        monkeypatch.setattr(run, step, lambda: pytest.fail("set-up work was done again"))
    run.setup()


def test_a_first_start_does_it_in_order_and_stamps_it(run, monkeypatch):
    done = []

    def step(name):
        def act(*_):
            done.append(name)
            run.VENV.mkdir(exist_ok=True)

        return act

    for name in STEPS:
        monkeypatch.setattr(run, name, step(name))
    run.setup()
    assert done == list(STEPS)
    assert run.STAMP.read_text() == run.fingerprint()


def test_an_old_python_is_told_what_is_needed(run, monkeypatch, capsys):
    monkeypatch.setattr(run, "OLDEST_PYTHON", (99, 0))
    with pytest.raises(SystemExit) as stopped:
        run.setup()
    assert stopped.value.code == 2
    assert "Python 99.0 or newer is needed" in capsys.readouterr().err


def test_a_system_without_apt_is_told_what_is_missing(run, monkeypatch, capsys):
    monkeypatch.setattr(run.shutil, "which", lambda name: None)
    with pytest.raises(SystemExit):
        run.install_packages(["libgl1"], "Qt lacks system libraries.")
    said = capsys.readouterr().err
    assert "no apt-get" in said
    assert "libgl1" in said


def test_a_person_who_may_not_install_gets_the_exact_line(run, monkeypatch, capsys):
    monkeypatch.setattr(run.shutil, "which", lambda name: "/usr/bin/apt-get" if name == "apt-get" else None)
    monkeypatch.setattr(run.os, "geteuid", lambda: 1000)
    with pytest.raises(SystemExit):
        run.install_packages(["libgl1", "libegl1"], "Qt lacks system libraries.")
    assert "sudo apt-get install -y --no-install-recommends libgl1 libegl1" in capsys.readouterr().err


def test_root_installs_and_a_failure_is_said(run, monkeypatch, capsys):
    calls = []

    def fake(command, **options):
        calls.append(command)
        return subprocess.CompletedProcess(command, 1 if "install" in command else 0)

    monkeypatch.setattr(run.shutil, "which", lambda name: f"/usr/bin/{name}")
    monkeypatch.setattr(run.os, "geteuid", lambda: 0)
    monkeypatch.setattr(run.subprocess, "run", fake)
    with pytest.raises(SystemExit):
        run.install_packages(["libgl1"], "Qt lacks system libraries.")
    assert calls[0][:2] == ["apt-get", "update"]
    assert calls[1] == ["apt-get", "install", "-y", "--no-install-recommends", "libgl1"]
    assert "could not be installed" in capsys.readouterr().err


@pytest.mark.parametrize(("works", "installs"), [([True], []), ([False, True], ["libgl1"])])
def test_qt_libraries_are_found_missing_by_trying(run, monkeypatch, works, installs):
    installed, answers = [], iter(works)
    monkeypatch.setattr(run, "qt_starts", lambda platform: (next(answers), "trouble"))
    monkeypatch.setattr(run, "install_packages", lambda packages, why: installed.append(packages[0]))
    run.find_qt_libraries()
    assert installed == installs


def test_the_first_start_with_a_display_looks_for_the_windows_libraries(run, monkeypatch):
    """Also where the set-up itself was done without a display; later starts don't look again."""
    run.PYTHON.parent.mkdir(parents=True)
    run.PYTHON.write_text("")
    run.STAMP.write_text(run.fingerprint())
    installed, tried, answers = [], [], iter([False, True])
    monkeypatch.setattr(
        run, "qt_starts", lambda platform: (tried.append(platform) or next(answers), "trouble")
    )
    monkeypatch.setattr(run, "install_packages", lambda packages, why: installed.append(packages[0]))
    run.setup()
    assert tried == []
    monkeypatch.setenv("DISPLAY", ":0")
    run.setup()
    assert (tried, installed) == (["xcb", "xcb"], ["libxcb-cursor0"])
    run.setup()
    assert len(tried) == 2


def test_another_platform_asks_for_no_x_libraries(run, monkeypatch):
    run.PYTHON.parent.mkdir(parents=True)
    run.PYTHON.write_text("")
    run.STAMP.write_text(run.fingerprint())
    monkeypatch.setenv("DISPLAY", ":0")
    monkeypatch.setenv("QT_QPA_PLATFORM", "offscreen")
    monkeypatch.setattr(run, "qt_starts", lambda platform: pytest.fail("tried without need"))
    run.setup()


def test_a_window_that_never_opens_is_said(run, monkeypatch, capsys):
    monkeypatch.setattr(run, "qt_starts", lambda platform: (False, "could not connect to display"))
    monkeypatch.setattr(run, "install_packages", lambda packages, why: None)
    with pytest.raises(SystemExit):
        run.find_window_libraries()
    assert "could not connect to display" in capsys.readouterr().err


def test_qt_that_never_starts_is_said(run, monkeypatch, capsys):
    monkeypatch.setattr(run, "qt_starts", lambda platform: (False, "libGL.so.1: cannot open"))
    monkeypatch.setattr(run, "install_packages", lambda packages, why: None)
    with pytest.raises(SystemExit):
        run.find_qt_libraries()
    assert "libGL.so.1" in capsys.readouterr().err


def test_an_environment_that_works_is_kept(run, monkeypatch):
    run.PYTHON.parent.mkdir(parents=True)
    run.PYTHON.symlink_to(sys.executable)
    run.make_environment()
    assert run.PYTHON.exists()
