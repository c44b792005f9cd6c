"""The menu bar, made of the table of actions: every entry has a letter, every station its key."""

from collections.abc import Callable, Mapping

from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QMainWindow, QMenu

from lodestaff.desktop.actions import ACTIONS, STATIONS
from lodestaff.job.history import History

Doing = Mapping[str, Callable[[], object]]


def lettered(words: str, taken: set[str]) -> str:
    """Words with their letter marked: the first of a word that no neighbour has, else any that is free."""
    starts = [
        place
        for place in range(len(words))
        if words[place].isalpha() and not words[place - 1 : place].strip()
    ]
    for place in (*starts, *(place for place in range(len(words)) if words[place].isalpha())):
        if words[place].lower() not in taken:
            taken.add(words[place].lower())
            return f"{words[:place]}&{words[place:]}"
    return words


def unlettered(words: str) -> str:
    """The words of an entry as they are read."""
    return words.replace("&", "")


class Menus:
    """All actions by id, and the menus that hold them."""

    def __init__(self, window: QMainWindow, doing: Doing, go: Callable[[str], object]) -> None:
        self.window = window
        self.actions: dict[str, QAction] = {}
        self.menus: dict[str, QMenu] = {}
        self.within: dict[str, QMenu] = {}
        self._letters: dict[str, set[str]] = {}
        for row in ACTIONS:
            if row.menu == "Help" and "Station" not in self.menus:
                self._stations(go)
            self._add(row.id, row.words, row.shortcut, row.menu, doing[row.id])

    def _stations(self, go: Callable[[str], object]) -> None:
        for station in STATIONS:

            def there(name: str = station.id) -> object:
                return go(name)

            self._add(f"station-{station.id}", station.name, station.key, "Station", there)

    def _add(self, key: str, words: str, shortcut: str, menu: str, do: Callable[[], object]) -> None:
        action = QAction(lettered(words, self._letters.setdefault(menu, set())), self.window)
        action.setIconText(words)
        if shortcut:
            action.setShortcut(QKeySequence(shortcut))
            action.setToolTip(f"{words} ({shortcut})")
        action.triggered.connect(lambda _=False: do())
        self.menu(menu).addAction(action)
        self.actions[key] = action

    def menu(self, name: str) -> QMenu:
        """A menu of the bar, made when it is first asked for."""
        if name not in self.menus:
            bar = self._letters.setdefault("", set())
            self.menus[name] = self.window.menuBar().addMenu(lettered(name, bar))
        return self.menus[name]

    def submenu(self, menu: str, words: str, fill: Callable[[QMenu], object]) -> QMenu:
        """A menu within one, filled anew whenever it is opened."""
        within = self.menu(menu).addMenu(lettered(words, self._letters.setdefault(menu, set())))

        def anew() -> None:
            within.clear()
            fill(within)

        within.aboutToShow.connect(anew)
        self.within[words] = within
        return within

    def name(self, key: str, words: str) -> None:
        """Other words for an action, with a letter of their own."""
        self.actions[key].setText(lettered(words, set()))
        self.actions[key].setIconText(words)

    def show_history(self, history: History | None, has_job: bool) -> None:
        """Undo and redo by what they would take back or do again; what needs a job only where one is."""
        steps = (history.undo_name, history.redo_name) if history else (None, None)
        for verb, name in zip(("undo", "redo"), steps):
            self.name(verb, f"{verb.capitalize()}: {name}" if name else verb.capitalize())
            self.actions[verb].setEnabled(bool(name))
        for row in ACTIONS:
            if row.needs_job and row.id not in ("undo", "redo"):
                self.actions[row.id].setEnabled(has_job)
