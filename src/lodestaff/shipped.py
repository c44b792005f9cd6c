"""Documents that ship with the program: in the installed package, or beside the source."""

from importlib import resources
from pathlib import Path

from lodestaff.quantities.errors import JobError


def document(name: str) -> Path:
    """A shipped document by its path, such as `docs/guide/site.md`. Raises JobError where it isn't there."""
    inside = Path(str(resources.files("lodestaff"))) / "_shipped" / name
    beside = Path(__file__).resolve().parents[2] / name
    for path in (inside, beside):
        if path.exists():
            return path
    raise JobError("this document was not shipped", name, "install the program again")
