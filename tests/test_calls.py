"""How the project calls itself: nothing is known by its place among many arguments."""

import ast
from functools import cache
from pathlib import Path

import lodestaff

KERNELS = ("kernels", "islanding", "riding", "calling", "needed", "sums")  # compiled: arrays by position
SOURCES = sorted(one for one in Path(lodestaff.__file__).parent.rglob("*.py") if one.stem not in KERNELS)
MOST = 5


@cache
def _trees():
    return {path: ast.parse(path.read_text()) for path in SOURCES}


def _compiled(definition):
    """Kernels are compiled for speed and take their arrays by position."""
    return any(
        "compiled" in ast.unparse(one) or "njit" in ast.unparse(one) for one in definition.decorator_list
    )


def long_calls(trees):
    """Calls of the project's own functions and classes with more positional arguments than a reader can
    tell apart."""
    own = {
        one.name
        for tree in trees.values()
        for one in ast.walk(tree)
        if isinstance(one, ast.ClassDef) or (isinstance(one, ast.FunctionDef) and not _compiled(one))
    }
    for path, tree in trees.items():
        for call in (one for one in ast.walk(tree) if isinstance(one, ast.Call) and len(one.args) > MOST):
            whose = call.func.value if isinstance(call.func, ast.Attribute) else None
            kernel = isinstance(whose, ast.Name) and whose.id in KERNELS
            name = getattr(call.func, "attr", getattr(call.func, "id", ""))
            if name in own and not kernel:
                yield f"{path.name}:{call.lineno} {name}"


def test_no_call_has_more_than_five_positional_arguments():
    assert list(long_calls(_trees())) == []


def test_the_rule_sees_a_long_call():
    tree = ast.parse("def f(*args): ...\nf(1, 2, 3, 4, 5, 6)\nf(1, 2, 3, 4, 5)\nother(1, 2, 3, 4, 5, 6)")
    assert list(long_calls({Path("some.py"): tree})) == ["some.py:2 f"]


def test_findings_are_made_by_the_makers_alone():
    """A verdict is what a maker makes of a value and its limit."""
    made = [
        path.name
        for path, tree in _trees().items()
        for one in ast.walk(tree)
        if isinstance(one, ast.Call) and isinstance(one.func, ast.Name) and one.func.id == "Finding"
    ]
    assert made == ["makers.py"]
