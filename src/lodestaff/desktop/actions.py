"""The table of actions: it gives the menu, the shortcut, the tooltip and the finder's line."""

from dataclasses import dataclass


@dataclass(frozen=True)
class ActionRow:
    """One verb: its id, words, shortcut and menu; `needs_job` greys it out while none is open, `also` are
    other words by which it is found."""

    id: str
    words: str
    shortcut: str = ""
    menu: str = ""
    needs_job: bool = True
    also: str = ""


ACTIONS: tuple[ActionRow, ...] = (
    ActionRow("new", "New job…", "Ctrl+N", "Job", False),
    ActionRow("open", "Open a job…", "Ctrl+O", "Job", False),
    ActionRow("demo", "Open the demo job", "", "Job", False),
    ActionRow("save", "Save", "Ctrl+S", "Job", also="keep store"),
    ActionRow("save-as", "Save as…", "Ctrl+Shift+S", "Job"),
    ActionRow("print", "Print the pack…", "Ctrl+P", "Job", also="paper preview"),
    ActionRow("report", "Write the pack (PDF, workbook, diagram)…", "Ctrl+Shift+P", "Job", also="export"),
    ActionRow("labels", "Write the labels…", "", "Job", also="stickers signs PDF"),
    ActionRow("compare", "Compare with another file…", "Ctrl+D", "Job", also="difference"),
    ActionRow("compare-saved", "Compare with what is saved", "", "Job"),
    ActionRow("merge", "Put together with another copy…", "", "Job", also="merge join two copies"),
    ActionRow("parts", "Equipment and prices…", "Ctrl+E", "Job", also="shelf sheet catalogue cost"),
    ActionRow("backups", "Ways of backup side by side…", "Ctrl+B", "Job", also="outage strategy"),
    ActionRow("roof", "Arrangements and families…", "Ctrl+R", "Job", also="strings optimiser microinverter"),
    ActionRow("standings", "Ways to stand it all…", "Ctrl+L", "Job", also="arrangements places walls"),
    ActionRow("meter", "Interval data of the meter…", "Ctrl+M", "Job", also="half-hourly log import"),
    ActionRow("own-pack", "Lay a rule pack of your own over…", "", "Job"),
    ActionRow("newer-pack", "Newer edition of the rule pack…", "", "Job"),
    ActionRow("quit", "Quit", "Ctrl+Q", "Job", False, also="close exit"),
    ActionRow("undo", "Undo", "Ctrl+Z", "Edit"),
    ActionRow("redo", "Redo", "Ctrl+Shift+Z", "Edit"),
    ActionRow("copy-figure", "Copy the working in view", "Ctrl+Shift+C", "Edit", also="clipboard figure"),
    ActionRow("copy-drawing", "Copy the drawing", "Ctrl+Alt+C", "Edit", also="clipboard picture svg png"),
    ActionRow("find", "Find anything…", "Ctrl+K", "View", False, also="command search"),
    ActionRow("findings", "All findings…", "Ctrl+Shift+F", "View", also="checks warnings list"),
    ActionRow("stop", "Stop what is being reckoned", "Ctrl+.", "View", also="cancel halt busy"),
    ActionRow("table", "Table beside the drawing", "Ctrl+T", "View"),
    ActionRow("look-day", "Look: day", "", "View", False, also="colour theme light"),
    ActionRow("look-dusk", "Look: dusk", "", "View", False, also="colour theme dark"),
    ActionRow("look-full sun", "Look: full sun", "", "View", False, also="colour theme contrast"),
    ActionRow("language-en", "Language: English", "", "View", False, also="words translation"),
    ActionRow("language-de", "Sprache: Deutsch (bisher der Speicher)", "", "View", False, also="German"),
    ActionRow("text-larger", "Larger text", "Ctrl++", "View", False, also="zoom size"),
    ActionRow("text-smaller", "Smaller text", "Ctrl+-", "View", False, also="zoom size"),
    ActionRow("full-screen", "Full screen", "F11", "View", False),
    ActionRow("present", "Show to the customer", "F5", "View", also="presentation big"),
    ActionRow("grid", "Grid on or off", "Ctrl+G", "Moment", also="outage island"),
    ActionRow("hour-later", "A quarter of an hour later", "Ctrl+Right", "Moment"),
    ActionRow("hour-earlier", "A quarter of an hour earlier", "Ctrl+Left", "Moment"),
    ActionRow("month-later", "A month later", "Ctrl+Shift+Right", "Moment"),
    ActionRow("month-earlier", "A month earlier", "Ctrl+Shift+Left", "Moment"),
    ActionRow("help", "Help on what is in view", "F1", "Help", False),
    ActionRow("guide", "The guide", "", "Help", False, also="manual help"),
    ActionRow("tour", "Five minutes through the demo", "", "Help", False, also="tutorial"),
    ActionRow("words", "Words of the trade", "", "Help", False, also="glossary"),
    ActionRow("news", "What changed", "", "Help", False, also="version changelog"),
    ActionRow("about", "About Lodestaff", "", "Help", False, also="licence version"),
)


@dataclass(frozen=True)
class StationRow:
    """A station: its key never changes, also while stations are missing."""

    id: str
    name: str
    key: str
    also: str = ""  # other words by which it is found


STATIONS: tuple[StationRow, ...] = (
    StationRow("site", "Site", "1", "survey supply meter earth permission weather place clock photo"),
    StationRow("loads", "Loads", "2", "circuits night split essential critical backup hours"),
    StationRow("array", "Array", "3", "roof modules strings shade faces volts"),
    StationRow("storage", "Storage", "4", "battery size capacity modules map"),
    StationRow("place", "Place", "5", "wall room height distance battery garage outside route length"),
    StationRow("wire", "Wire", "6", "cable diagram switch board earth fuse isolator live"),
    StationRow("limits", "Limits", "7", "export import reserve charge window tariff night settings"),
    StationRow("visits", "Visits", "8", "day hand task delivery calendar hours power off schedule weather"),
    StationRow("commission", "Commission", "9", "test readings steps procedure link simulate"),
    StationRow("handover", "Handover", "0", "print pack serial pages customer pdf register"),
)
STATION_NAMES = {row.id: row.name for row in STATIONS}
