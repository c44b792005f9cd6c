"""The house rules that a machine can keep: layers, Qt, sizes, names."""

import ast
import re
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]
SOURCE = ROOT / "src" / "lodestaff"
LONGEST_FILE = 400


def lint_imports(root: Path) -> subprocess.CompletedProcess:
    code = (
        "import sys; sys.path.insert(0, sys.argv[1]); from importlinter.cli import lint_imports;"
        "sys.exit(lint_imports(config_filename=sys.argv[2], no_cache=True))"
    )
    command = [sys.executable, "-c", code, str(root / "src"), str(root / "pyproject.toml")]
    return subprocess.run(command, cwd=root, capture_output=True, text=True, timeout=120)


@pytest.mark.parametrize(
    ("file", "line"),
    [
        (None, ""),
        ("quantities/units.py", "from lodestaff.job import Job"),
        ("energy/sun.py", "def f():\n    import PySide6.QtCore"),
        (
            "topology/model.py",
            "from typing import TYPE_CHECKING\nif TYPE_CHECKING:\n    from lodestaff.checks import Finding",
        ),
        ("cli/commands.py", "from lodestaff.desktop.store import Store"),
        ("newpackage/__init__.py", "x = 1"),
    ],
    ids=["as it is", "upwards", "lazy Qt", "type only", "sideways", "unlisted package"],
)
def test_imports_keep_to_the_layers(tmp_path, file, line):
    """The contract holds, and a planted bad import is seen to break it."""
    shutil.copytree(ROOT / "src", tmp_path / "src", ignore=shutil.ignore_patterns("__pycache__", "assets"))
    shutil.copy(ROOT / "pyproject.toml", tmp_path)
    if file is not None:
        target = tmp_path / "src" / "lodestaff" / file
        target.parent.mkdir(exist_ok=True)
        target.write_text((target.read_text() if target.exists() else "") + "\n" + line + "\n")
    done = lint_imports(tmp_path)
    assert (done.returncode == 0) == (file is None), done.stdout[-2000:] + done.stderr[-2000:]


@pytest.mark.parametrize("path", sorted(SOURCE.rglob("*.py")), ids=lambda path: str(path.relative_to(SOURCE)))
def test_each_file_is_one_room(path):
    lines = path.read_text(encoding="utf-8").splitlines()
    assert len(lines) <= LONGEST_FILE
    assert lines[0].startswith('"""'), "say in one line what the file is for"


def test_no_file_names_a_registry_or_a_machine():
    """Requirement files carry hashes, not addresses; no path of a machine anywhere."""
    folders = ("src", "tests", "benchmarks", "samples", "docs", "requirements", "packaging", ".ci")
    names = [path for path in ROOT.iterdir() if path.is_file()]
    names += [
        path for folder in folders for path in (ROOT / folder).rglob("*") if "__pycache__" not in path.parts
    ]
    wrong = re.compile(r"https?://[\w.-]*(?:pypi|pythonhosted|npmjs|debian)\.|/(?:home|root|work)/[a-z]")
    for path in names:
        if path.suffix in (".py", ".toml", ".txt", ".in", ".md", ".json", ".yml", "") and path.is_file():
            text = path.read_text(encoding="utf-8", errors="ignore")
            assert path == Path(__file__) or not wrong.search(text), path


def test_requirements_are_locked_with_hashes():
    text = (ROOT / "requirements.txt").read_text()
    blocks = re.split(r"\n(?=[a-z0-9])", text.strip())
    assert len(blocks) > 40
    assert all("==" in block and "--hash=sha256:" in block for block in blocks)


def test_the_qt_binding_is_one_that_counts_right():
    """Every call that returns None must leave None's references alone: 6.12.0 on Python 3.11 doesn't
    (measured)."""
    import PySide6
    from PySide6.QtGui import QImage, QPainter

    image = QImage(8, 8, QImage.Format.Format_RGB32)
    painter = QPainter(image)
    before = sys.getrefcount(None)
    for _ in range(4000):
        painter.drawLine(0, 0, 7, 7)
    after = sys.getrefcount(None)
    painter.end()
    assert abs(after - before) < 500
    assert tuple(int(part) for part in PySide6.__version__.split(".")[:2]) < (6, 12)


@pytest.mark.parametrize("command", [[], ["help"]])
def test_run_explains_itself(command):
    done = subprocess.run(
        [sys.executable, str(ROOT / "run"), *command], capture_output=True, text=True, timeout=30
    )
    assert done.returncode == 0
    for word in ("demo", "test", "setup", "lint", "bench", "shots"):
        assert f"./run {word}" in done.stdout


def test_run_refuses_what_it_does_not_know():
    done = subprocess.run(
        [sys.executable, str(ROOT / "run"), "dance"], capture_output=True, text=True, timeout=30
    )
    assert done.returncode == 2
    assert "unknown command 'dance'" in done.stderr


def test_no_module_imports_itself_by_way_of_others():
    """No circle, also none of types alone."""
    import networkx as nx

    graph: nx.DiGraph = nx.DiGraph()
    source = ROOT / "src"
    modules = {
        ".".join(path.relative_to(source).with_suffix("").parts).removesuffix(".__init__"): path
        for path in (source / "lodestaff").rglob("*.py")
    }
    for name, path in modules.items():
        for one in ast.walk(ast.parse(path.read_text())):
            if isinstance(one, ast.ImportFrom) and one.module and one.module.startswith("lodestaff"):
                inner = [f"{one.module}.{part.name}" for part in one.names]
                graph.add_edges_from((name, target if target in modules else one.module) for target in inner)
    assert [sorted(one) for one in nx.strongly_connected_components(graph) if len(one) > 1] == []


RECKONED = (
    *("quantities", "catalogue", "job", "electrical", "energy", "topology", "shelf", "templates", "wiring"),
    *("commissioning", "checks", "reckoning"),
)

SAYS_WHEN = ("journal.py", "faults.py", "lock.py")  # when an entry or a trace was written; how long to wait


def test_no_figure_depends_on_the_clock():
    """Solvers are bounded in nodes, never in time; nothing that is reckoned asks what time it is."""
    asked = [
        f"{path.name}:{node.lineno}"
        for package in RECKONED
        for path in (SOURCE / package).rglob("*.py")
        if path.name not in SAYS_WHEN
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8")))
        if (isinstance(node, ast.Import) and any(one.name == "time" for one in node.names))
        or (isinstance(node, ast.ImportFrom) and node.module == "time")
        or (isinstance(node, ast.Attribute) and node.attr in ("now", "today", "monotonic", "perf_counter"))
        or (isinstance(node, ast.Constant) and node.value == "time_limit")
    ]
    assert asked == []
