"""Names say what a thing is: nothing is called `one`, or `found`, in the program."""

import ast
from pathlib import Path

import lodestaff

EMPTY = {"one", "found"}
FIELDS = {("site.py", "found")}  # of job files: what was found on site


def bound(tree, file=""):
    """Names that are bound so: variables, arguments, attributes of objects."""
    fields = {
        id(line.target)
        for kind in ast.walk(tree)
        if isinstance(kind, ast.ClassDef)
        for line in kind.body
        if isinstance(line, ast.AnnAssign) and (file, getattr(line.target, "id", "")) in FIELDS
    }
    for node in ast.walk(tree):
        if isinstance(node, ast.arg) and node.arg in EMPTY:
            yield node.arg, node.lineno
        elif isinstance(getattr(node, "ctx", None), ast.Store) and id(node) not in fields:
            name = getattr(node, "id", getattr(node, "attr", ""))
            if name in EMPTY:
                yield name, node.lineno


def test_nothing_has_a_name_that_says_nothing():
    sources = sorted(Path(lodestaff.__file__).parent.rglob("*.py"))
    told = [
        (path.name, name, line)
        for path in sources
        for name, line in bound(ast.parse(path.read_text()), path.name)
    ]
    assert told == []


def test_the_rule_sees_each_way_to_bind_a_name():
    source = "one = 1\ndef f(found): ...\nfor one in (): ...\n[1 for found in ()]\nself.found = 2\nnumber = 3"
    assert sorted(line for _, line in bound(ast.parse(source))) == [1, 2, 3, 4, 5]
