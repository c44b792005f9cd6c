"""What there is to translate: the sentences of the code, as templates. `python -m lodestaff.words.extract
FILE…` prints them as a PO template."""

import ast
import sys
from collections.abc import Iterator
from pathlib import Path

import polib


def templates_of(path: Path) -> Iterator[tuple[str, int]]:
    """Every sentence of a file with its line: constants and f-strings with a letter, values as {name}."""
    tree = ast.parse(path.read_text(encoding="utf-8"))
    within: set[int] = set()
    for node in ast.walk(tree):  # outer ones come first
        if isinstance(node, ast.JoinedStr):
            within |= {id(part) for part in node.values}
        elif isinstance(node, ast.BinOp) and _is_text(node):
            within |= {id(part) for part in _sum(node)} | {id(node.left)}
    documents = {
        id(node.body[0].value)
        for node in ast.walk(tree)
        if isinstance(node, ast.Module | ast.ClassDef | ast.FunctionDef)
        and node.body
        and isinstance(node.body[0], ast.Expr)
    }
    for node in ast.walk(tree):
        if id(node) in within:
            continue
        if isinstance(node, ast.JoinedStr) or (isinstance(node, ast.BinOp) and _is_text(node)):
            text = _joined(node)
        elif isinstance(node, ast.Constant) and isinstance(node.value, str) and id(node) not in documents:
            text = node.value
        else:
            continue
        if any(sign.isalpha() for sign in text):
            yield text, node.lineno


def _sum(node: ast.expr) -> list[ast.expr]:
    """What is added up, from left to right."""
    if isinstance(node, ast.BinOp) and isinstance(node.op, ast.Add):
        return [*_sum(node.left), *_sum(node.right)]
    return [node]


def _is_text(node: ast.expr) -> bool:
    """Whether a sum is one of texts."""
    return (
        isinstance(node, ast.BinOp)
        and isinstance(node.op, ast.Add)
        and any(
            isinstance(part, ast.JoinedStr)
            or (isinstance(part, ast.Constant) and isinstance(part.value, str))
            for part in _sum(node)
        )
    )


def _joined(node: ast.expr) -> str:
    """A text with values as a template: each place bears the first name of what stands there."""
    parts: list[str] = []
    used: dict[str, str] = {}
    for whole in _sum(node):
        for part in whole.values if isinstance(whole, ast.JoinedStr) else [whole]:
            if isinstance(part, ast.Constant):
                parts.append(str(part.value))
                continue
            value = part.value if isinstance(part, ast.FormattedValue) else part
            said = ast.unparse(value)
            if said not in used:
                used[said] = _name(value, set(used.values()))
            parts.append(f"{{{used[said]}}}")
    return "".join(parts)


def _name(value: ast.expr, taken: set[str]) -> str:
    """A short name for what stands in a place."""
    functions = {id(node.func) for node in ast.walk(value) if isinstance(node, ast.Call)}
    names = [
        node.attr if isinstance(node, ast.Attribute) else node.id
        for node in ast.walk(value)
        if isinstance(node, ast.Attribute | ast.Name) and id(node) not in functions
    ]
    name = names[0] if names and not isinstance(value, ast.IfExp) else "part"
    while name in taken:
        name = f"{name}_"
    return name


def main(files: list[str]) -> int:
    made = polib.POFile()
    made.metadata = {"Content-Type": "text/plain; charset=utf-8"}
    for file in files:
        for text, line in templates_of(Path(file)):
            if made.find(text) is None:
                made.append(polib.POEntry(msgid=text, occurrences=[(file, str(line))]))
    print(made)
    return 0


if __name__ == "__main__":
    raise SystemExit(main(sys.argv[1:]))
