"""The simulated site and what is expected of it come from formulas that they don't share."""

import ast
from pathlib import Path

SOURCE = Path(__file__).parents[2] / "src" / "lodestaff"
FORMULAS = ("lodestaff.electrical", "lodestaff.energy", "lodestaff.reckoning", "lodestaff.checks")


def taken(package):
    """What a package's modules import, as module and name."""
    found = set()
    for path in (SOURCE / package).glob("*.py"):
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
            if isinstance(node, ast.ImportFrom) and node.module:
                found |= {(node.module, alias.name) for alias in node.names}
    return found


def test_neither_imports_the_other():
    for package, other in (("plant", "lodestaff.commissioning"), ("commissioning", "lodestaff.plant")):
        wrong = [module for module, _ in taken(package) if module.startswith(other)]
        assert not wrong, package


def test_they_share_no_formula():
    """Calendars and the names of months are no formulas."""
    shared = taken("plant") & taken("commissioning")
    wrong = [
        (module, name)
        for module, name in shared
        if module.startswith(FORMULAS) and module != "lodestaff.energy.calendar"
    ]
    assert not wrong
    assert ("lodestaff.electrical.strings", "at_temperature") in taken("commissioning")
    assert ("lodestaff.energy.mismatch", "module_points") in taken("plant")
