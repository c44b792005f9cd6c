"""Small documents of the person's own, outside the jobs: one JSON file each, validated, replaced whole."""

from pathlib import Path
from typing import TypeVar

from pydantic import ValidationError

from lodestaff.catalogue.frozen import Frozen
from lodestaff.quantities.disk import make_folder, read_whole, write_whole
from lodestaff.quantities.errors import JobError
from lodestaff.quantities.json_text import read_json

Document = TypeVar("Document", bound=Frozen)


def parse_document(kind: type[Document], raw: bytes, name: str, what: str) -> Document:
    """A document from its bytes. Raises JobError with place and cure; `what` says what it should hold."""
    try:
        return kind.model_validate(read_json(raw, name, f"mend or remove the {what}"))
    except ValidationError as trouble:
        first = trouble.errors()[0]
        place = " ".join(str(part) for part in first["loc"])
        words = str(first["msg"]).removeprefix("Value error, ")
        raise JobError(words, f"{name} {place}".strip(), f"mend the {what}") from trouble


def load_document(kind: type[Document], path: Path, what: str) -> Document:
    """Read a document. Raises JobError for a missing or damaged one."""
    return parse_document(kind, read_whole(path), path.name, what)


def save_document(text: str, path: Path) -> None:
    """Write a document's text, making its folder. Raises JobError where the disk refuses."""
    make_folder(path.parent)
    write_whole(path, text.encode("utf-8"))
