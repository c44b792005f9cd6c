"""The table of actions: it gives the menu, the shortcut, the tooltip and the finder's line."""

from dataclasses import dataclass


@dataclass(frozen=True)
class ActionRow:
    """One verb: its id, words, shortcut and menu; `needs_job` greys it out while none is open."""

    id: str
    words: str
    shortcut: str = ""
    menu: str = ""
    needs_job: bool = True


ACTIONS: tuple[ActionRow, ...] = (
    ActionRow("new", "New job…", "Ctrl+N", "Job", False),
    ActionRow("open", "Open a job…", "Ctrl+O", "Job", False),
    ActionRow("demo", "Open the demo job", "", "Job", False),
    ActionRow("save", "Save", "Ctrl+S", "Job"),
    ActionRow("save-as", "Save as…", "Ctrl+Shift+S", "Job"),
    ActionRow("report", "Write the pack (PDF, workbook, diagram)…", "Ctrl+P", "Job"),
    ActionRow("compare", "Compare with another file…", "Ctrl+D", "Job"),
    ActionRow("compare-saved", "Compare with what is saved", "", "Job"),
    ActionRow("parts", "Equipment and prices…", "Ctrl+E", "Job"),
    ActionRow("backups", "Ways of backup side by side…", "Ctrl+B", "Job"),
    ActionRow("meter", "Interval data of the meter…", "Ctrl+M", "Job"),
    ActionRow("own-pack", "Lay a rule pack of your own over…", "", "Job"),
    ActionRow("newer-pack", "Newer edition of the rule pack…", "", "Job"),
    ActionRow("quit", "Quit", "Ctrl+Q", "Job", False),
    ActionRow("undo", "Undo", "Ctrl+Z", "Edit"),
    ActionRow("redo", "Redo", "Ctrl+Shift+Z", "Edit"),
    ActionRow("find", "Find a command…", "Ctrl+K", "View", False),
    ActionRow("table", "Table beside the drawing", "Ctrl+T", "View"),
    ActionRow("look-day", "Look: day", "", "View", False),
    ActionRow("look-dusk", "Look: dusk", "", "View", False),
    ActionRow("look-full sun", "Look: full sun", "", "View", False),
    ActionRow("text-larger", "Larger text", "Ctrl++", "View", False),
    ActionRow("text-smaller", "Smaller text", "Ctrl+-", "View", False),
    ActionRow("grid", "Grid on or off", "Ctrl+G", "Moment"),
    ActionRow("hour-later", "A quarter of an hour later", "Ctrl+Right", "Moment"),
    ActionRow("hour-earlier", "A quarter of an hour earlier", "Ctrl+Left", "Moment"),
    ActionRow("month-later", "A month later", "Ctrl+Shift+Right", "Moment"),
    ActionRow("month-earlier", "A month earlier", "Ctrl+Shift+Left", "Moment"),
)


@dataclass(frozen=True)
class StationRow:
    """A station: its key never changes, also while stations are missing."""

    id: str
    name: str
    key: str


STATIONS: tuple[StationRow, ...] = (
    StationRow("site", "Site", "1"),
    StationRow("loads", "Loads", "2"),
    StationRow("array", "Array", "3"),
    StationRow("storage", "Storage", "4"),
    StationRow("wire", "Wire", "6"),
    StationRow("limits", "Limits", "7"),
    StationRow("commission", "Commission", "9"),
    StationRow("handover", "Handover", "0"),
)
