"""The reference page of equipment, made from the declarations that also feed form, import and command
line."""

from lodestaff.catalogue.kinds import KINDS, Kind

HEAD = """# Equipment: the fields of every kind

Made from the declarations in `src/lodestaff/catalogue`; a test keeps it current
(`lodestaff shelf fields --page` writes it). A value may be typed in any of its units. A file in CSV
or a workbook names the fields by the keys of the first column, beside `kind` and `id`; lists are
written as the form shows them, or as JSON.
"""


def reference_page() -> str:
    """The page as Markdown."""
    return HEAD + "".join(_section(kind) for kind in KINDS)


def _section(kind: Kind) -> str:
    lines = [
        f"\n## {kind.words} (`{kind.id}`)\n",
        "| key | field | units | needed | bounds |",
        "|---|---|---|---|---|",
    ]
    for row in kind.rows:
        units = ", ".join(unit for unit in (row.unit, *row.also) if unit)
        bounds = row.bounds.replace(" | ", ", ")
        lines.append(f"| `{row.key}` | {row.words} | {units} | {'yes' if row.required else ''} | {bounds} |")
    return "\n".join(lines) + "\n"
