"""What can be read in the window: the guide as the job goes, the words, the checks, what changed, about."""

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cache
from pathlib import Path

from lodestaff.shipped import document

GUIDE = (
    *(
        "start",
        "site",
        "loads",
        "array",
        "storage",
        "place",
        "wire",
        "limits",
        "visits",
        "commission",
        "handover",
    ),
    *("findings", "backups", "meter", "equipment", "files"),
)


@dataclass(frozen=True)
class Chapter:
    """One document in Markdown; `folder` is where its pictures lie relative to."""

    id: str
    title: str
    text: str
    folder: Path


@cache
def chapters() -> tuple[Chapter, ...]:
    """The chapters of the guide, then the words of the trade and what changed."""
    return tuple(_read())


def _read() -> Iterator[Chapter]:
    for name in GUIDE:
        path = document(f"docs/guide/{name}.md")
        text = path.read_text(encoding="utf-8")
        yield Chapter(name, text.partition("\n")[0].lstrip("# "), text, path.parent)
    for name, title, file in (
        ("words", "Words of the trade", "docs/glossary.md"),
        ("news", "What changed", "CHANGELOG.md"),
    ):
        path = document(file)
        yield Chapter(name, title, path.read_text(encoding="utf-8"), path.parent)


def about() -> str:
    """The program, its licence, and what it is built on."""
    from importlib.metadata import metadata, requires

    from lodestaff import __version__

    rows = []
    for line in requires("lodestaff") or ():
        name = line.partition(";")[0].split(">")[0].split("=")[0].split("<")[0].split("[")[0].strip()
        if "extra ==" not in line:
            facts = metadata(name)
            terms = next((facts[key] for key in ("License-Expression", "License") if key in facts), "its own")
            rows.append(f"| {name} | {facts['Version']} | {terms.splitlines()[0][:60]} |")
    return (
        f"# Lodestaff {__version__}\n\nOne solar and storage job, from the first visit to the handover. It "
        "assists a licensed person; local codes, the maker's instructions and the operator's word come first."
        "\n\nIt needs no network and sends nothing anywhere.\n\nType: B612 (SIL Open Font License 1.1), "
        "shipped with its licence.\n\n| built on | version | licence |\n|---|---|---|\n"
        + "\n".join(sorted(rows))
    )
