"""Every declared field of a job, a sheet and a pack is read by something beside forms and documents."""

import ast
import re
import typing
from pathlib import Path

from pydantic import BaseModel

import lodestaff
from lodestaff.catalogue.kinds import KINDS
from lodestaff.job.model import Job

ROOT = Path(lodestaff.__file__).parent
DECLARING = {"job", "catalogue"}
FORMS = {
    "facts.py",
    "editor.py",
    "sheet_form.py",
    "choices.py",
    "cables.py",
    "table.py",
    "tables.py",
    "rates.py",
}
HOLDING = {"plan_fits.py", "cross.py", "reference.py"}  # that hold values to bounds and to each other
DOCUMENTS = {"handover", "exchange"}


def models():
    found: list[type[BaseModel]] = []

    def walk(kind):
        if isinstance(kind, type) and issubclass(kind, BaseModel):
            if kind not in found:
                found.append(kind)
                for field in kind.model_fields.values():
                    walk(field.annotation)
        else:
            for part in typing.get_args(kind):
                walk(part)

    walk(Job)
    return found


NAMED = re.compile(r"""\.(\w+)\b|["'](\w+)["']""")  # an attribute, or a word in quotes by itself


def _readers():
    """The code of everything that may read a field: not the models themselves, no forms, no documents."""
    for path in ROOT.rglob("*.py"):
        place = path.relative_to(ROOT).parts[0]
        if place not in DECLARING | DOCUMENTS and path.name not in FORMS:
            yield path.read_text()


def _own_readers():
    """What the models themselves compute from their fields; that a value is held to bounds is no reading."""
    names = set()
    for path in (path for place in DECLARING for path in (ROOT / place).rglob("*.py")):
        for one in ast.walk(ast.parse(path.read_text())):
            if not isinstance(one, ast.FunctionDef) or path.name in HOLDING or one.name.startswith("_"):
                continue
            if not any("validator" in ast.unparse(mark) for mark in one.decorator_list):
                names |= {part.attr for part in ast.walk(one) if isinstance(part, ast.Attribute)}
    return names


def unread():
    read = _own_readers() | {kind.in_jobs for kind in KINDS}  # each is read by its kind
    for text in _readers():
        read |= {name for pair in NAMED.findall(text) for name in pair}
    return {
        f"{model.__name__}.{field}" for model in models() for field in model.model_fields if field not in read
    }


def test_every_field_has_a_reader():
    assert unread() == set()
