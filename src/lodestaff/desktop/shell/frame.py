"""What the parts of the shell know of the window that holds them."""

from collections.abc import Mapping
from typing import Protocol

from PySide6.QtWidgets import QLabel, QStackedWidget

from lodestaff.checks import Remedy
from lodestaff.desktop.shell.files import Files
from lodestaff.desktop.shell.menus import Menus
from lodestaff.desktop.shell.notices import Notices
from lodestaff.desktop.shell.reckoning import Reckoning
from lodestaff.desktop.shell.side_pages import SidePages
from lodestaff.desktop.stations.base import StationView
from lodestaff.desktop.store import Store


class Frame(Protocol):
    """The window, as far as its parts may know it."""

    store: Store
    files: Files
    menus: Menus
    notices: Notices
    reckoning: Reckoning
    side: SidePages
    pages: QStackedWidget
    state_line: QLabel
    station: str

    @property
    def stations(self) -> Mapping[str, StationView]: ...

    def go(self, name: str) -> None: ...

    def leave_stations(self) -> None: ...

    def apply(self, remedy: Remedy) -> None: ...

    def restyle(self) -> None: ...
