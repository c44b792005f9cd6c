"""The tables beside the walls: walls, what is on them, parts, passages and the lengths of cables."""

from collections.abc import Callable, Sequence
from typing import get_args

from lodestaff.catalogue.body import Body as Size
from lodestaff.catalogue.entry import shown as as_shown
from lodestaff.catalogue.entry import typed as as_typed
from lodestaff.catalogue.field_meta import rows_of as sheet_rows
from lodestaff.desktop.stations.typing_in import Owner, Typing
from lodestaff.desktop.store import Store
from lodestaff.desktop.table import Column, Table, number, words
from lodestaff.job import Change
from lodestaff.job.walls import (
    Behind,
    Build,
    Cables,
    Feature,
    FeatureKind,
    Passage,
    Room,
    Standing,
    Wall,
    Way,
)
from lodestaff.places import Body
from lodestaff.quantities.convention import plain
from lodestaff.quantities.errors import JobError
from lodestaff.quantities.reader import read_number
from lodestaff.reckoning.lengths import Length

UNKNOWN, OUTSIDE, NOT_SAID = "unknown", "outside", "not said"
MAY = ("may go", "may not")
HOLES = {row.key: row for row in sheet_rows(Size) if row.items == "holes"}
YES_NO = (UNKNOWN, "yes", "no")
BACKINGS = (UNKNOWN, "does not burn", "burns", "none")
HELD = (UNKNOWN, "to masonry", "to studs", "on a board", "on the floor, tied back", "free")


def walls_table(store: Store, remove: Callable[[Owner], object]) -> Table[Owner]:
    """A row for each wall."""
    of = Typing(store)
    columns: tuple[Column[Owner], ...] = (
        of.name(),
        of.metres("Width, m", "width_m"),
        of.metres("Height, m", "height_m"),
        of.choice("Where", "room", (OUTSIDE, *get_args(Room)), none=OUTSIDE),
        of.choice("Build", "build", (UNKNOWN, *get_args(Build)), fact=True),
        of.metres("Studs every, m", "stud_pitch_m"),
        of.metres("Free before it, m", "free_m", fact=True),
        of.choice("Behind it", "behind", (UNKNOWN, *get_args(Behind)), fact=True),
        of.choice("Lined, does not burn", "lined", YES_NO, fact=True),
        of.choice("Direct sun", "sun", YES_NO, fact=True),
        of.choice("Rain", "rain", YES_NO, fact=True),
        of.choice("Vehicles", "vehicles", YES_NO, fact=True),
        of.choice("People sleep near", "quiet", YES_NO, fact=True),
        of.choice("Cables run", "cables", (NOT_SAID, *get_args(Cables)[1:]), none=NOT_SAID),
        of.metres("Cables in it, mm deep", "cable_depth_mm", "mm"),
        of.metres("Water up to, m", "flood_m", fact=True),
        of.metres("Coldest, °C", "low_c", "°C", fact=True),
        of.metres("Hottest, °C", "high_c", "°C", fact=True),
        _outline(store),
        _photo(store, "Photo's left edge, m", "x_m"),
        _photo(store, "Photo's foot, m", "y_m"),
        _photo(store, "Photo's width, m", "width_m"),
    )
    return Table("Walls", columns, remove=remove)


def _outline(store: Store) -> Column[Owner]:
    """The corners of a wall that is no rectangle, typed as pairs: along and up."""

    def shown(row: Owner) -> str:
        return "; ".join(f"{x:g} {y:g}" for x, y in row.of.outline)

    def typed(row: Owner, text: str) -> bool:
        try:
            corners = [
                [read_number(part, "m") for part in pair.split()] for pair in text.split(";") if pair.strip()
            ]
            if any(len(corner) != 2 for corner in corners):
                raise JobError(
                    "a corner is two numbers", row.name, "along and up, as 0 0; 7 0; 7 3; 3.5 6; 0 3"
                )
        except JobError as trouble:
            store.trouble.emit("edit", f"Not changed. {trouble}")
            return False
        return store.edit(f"Set the outline of {row.name}", Change(f"{row.path}/outline", corners))

    return words("Corners: along up; …", shown, typed=typed, spoken=lambda row: f"Corners of {row.name}")


def _holes(store: Store, heading: str, field: str) -> Column[Owner]:
    """Holes measured on the part itself, typed as on a sheet; they go before those of its sheet."""
    row_of = HOLES[field]

    def typed(row: Owner, text: str) -> bool:
        try:
            made = as_typed(row_of, text, {}) or []
        except JobError as trouble:
            store.trouble.emit("edit", f"Not changed. {row.name}: {trouble}")
            return False
        return store.edit(f"Set the {field} of {row.name}", Change(f"{row.path}/{field}", made))

    def shown(row: Owner) -> str:
        held = getattr(row.of, field)
        return as_shown(row_of, held) if held else ""

    return words(heading, shown, typed=typed, spoken=lambda row: f"{heading} {row.name}")


def _photo(store: Store, heading: str, field: str) -> Column[Owner]:
    """Where the photo under a wall lies; empty for none."""
    of = Typing(store)

    def inner(row: Owner) -> Owner:
        return Owner(f"{row.path}/photo", f"the photo of {row.name}", row.of.photo)

    column = of.metres(heading, field)
    typed = column.typed

    def put(row: Owner, text: str) -> bool:
        return bool(row.of.photo is not None and typed is not None and typed(inner(row), text))

    return number(
        heading,
        lambda row: getattr(row.of.photo, field) if row.of.photo else None,
        typed=put,
        reads=column.reads,
        spoken=lambda row: f"{heading} of {row.name}",
    )


def features_table(store: Store, remove: Callable[[Owner], object]) -> Table[Owner]:
    """A row for each opening or thing on a wall."""
    of = Typing(store)
    columns: tuple[Column[Owner], ...] = (
        words("Wall", lambda row: row.wall),
        of.name(),
        of.choice("Kind", "kind", get_args(FeatureKind)),
        of.metres("Along, m", "x_m"),
        of.metres("Up, m", "y_m"),
        of.metres("Width, m", "width_m"),
        of.metres("Height, m", "height_m"),
    )
    return Table("On the walls", columns, remove=remove)


def parts_table(store: Store, remove: Callable[[Owner], object]) -> Table[Owner]:
    """A row for each part that has a place."""
    of = Typing(store)
    columns: tuple[Column[Owner], ...] = (
        words("Part", lambda row: row.name),
        words("Wall", lambda row: row.wall),
        of.metres("Along, m", "x_m"),
        of.metres("Up, m", "y_m"),
        of.metres("Width, m", "width_m"),
        of.metres("Height, m", "height_m"),
        of.metres("Depth, m", "depth_m"),
        of.choice("Behind it stands", "backing", BACKINGS, fact=True),
        of.choice("Held", "held", HELD, fact=True),
        of.metres("Behind it goes beyond its sides, m", "reach_side_m"),
        of.metres("and above it, m", "reach_above_m"),
        of.yes_no("Post or kerb before it", "guard", ("yes", "no")),
        of.metres("From the modules to here, m", "beyond_m"),
        _holes(store, "Fixings, mm: along, up, wide; …", "fixings"),
        _holes(store, "Entries, mm: along, up, wide; …", "entries"),
    )
    return Table("Parts with a place", columns, remove=remove)


def passages_table(store: Store, remove: Callable[[Owner], object]) -> Table[Owner]:
    """A row for each way from wall to wall."""
    of = Typing(store)

    def walls(_: Owner) -> tuple[str, ...]:
        return tuple(wall.id for wall in store.job.walls) if store.job is not None else ()

    def end(heading: str, field: str) -> Column[Owner]:
        return words(
            heading,
            lambda row: str(getattr(row.of, field)),
            choices=walls,
            standing=True,
            typed=lambda row, text: of.put(row, "end", field, text),
            spoken=lambda row: f"{heading} of {row.name}",
        )

    columns: tuple[Column[Owner], ...] = (
        words("Way", lambda row: row.name),
        end("From", "a"),
        of.metres("along, m", "a_x_m"),
        of.metres("up, m", "a_y_m"),
        end("To", "b"),
        of.metres("there along, m", "b_x_m"),
        of.metres("there up, m", "b_y_m"),
        of.metres("Length, m", "length_m"),
        of.choice("By", "way", get_args(Way)),
        of.yes_no("DC", "dc", MAY),
        of.yes_no("AC", "ac", MAY),
        of.yes_no("Metal", "metal", ("yes", "no"), unknown=UNKNOWN),
        of.metres("Bends, °", "bends_deg", "°"),
    )
    return Table("Ways from wall to wall", columns, remove=remove)


def lengths_table() -> Table[Length]:
    """A row for each run with a way between its places."""
    columns: tuple[Column[Length], ...] = (
        words("Run", lambda length: length.name),
        number("Between its places", lambda length: length.length_m, "m"),
        number("Its cable now", lambda length: length.now_m, "m"),
        words("", lambda length: "typed: stays" if length.typed else "follows" if length.changes else ""),
        words("Way", lambda length: "as laid" if length.route.laid else "proposed"),
        number("In the wall, deep", lambda length: length.route.depth_mm, "mm"),
        number("Without a residual-current device", lambda length: length.guardless_m, "m"),
        words("By", lambda length: ", ".join(length.route.passages), wide=True),
    )
    return Table("Lengths of cables", columns)


def wall_rows(walls: Sequence[Wall]) -> list[Owner]:
    return [Owner(f"walls/{wall.id}", wall.name, wall) for wall in walls]


def feature_rows(walls: Sequence[Wall]) -> list[Owner]:
    def name(feature: Feature) -> str:
        return feature.name or feature.kind

    return [
        Owner(f"walls/{wall.id}/features/{feature.id}", name(feature), feature, wall.name)
        for wall in walls
        for feature in wall.features
    ]


def part_rows(bodies: Sequence[Body]) -> list[Owner]:
    """Parts with a place; sizes that aren't measured are empty."""
    owners: list[Owner] = []
    for body in bodies:
        at: Standing | None = body.standing
        if at is not None and body.wall is not None:
            owners.append(Owner(f"standing/{body.id}", body.name, at, body.wall.name))
    return owners


def passage_rows(passages: Sequence[Passage]) -> list[Owner]:
    return [
        Owner(f"passages/{passage.id}", f"way {passage.id}, {plain(passage.length_m)} m", passage)
        for passage in passages
    ]
