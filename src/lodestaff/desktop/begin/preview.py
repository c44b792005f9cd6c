"""The installation that the choices make, as an overview."""

from lodestaff.desktop.stations.wire.diagram import DiagramView
from lodestaff.desktop.store import Store
from lodestaff.topology import Answer, Topology


class Preview(DiagramView):
    """A diagram of an installation that is no job yet; nothing is switched here."""

    least = (300, 300)

    def __init__(self, store: Store) -> None:
        self._installation: tuple[Topology, Answer] | None = None
        super().__init__(store)
        self.setAccessibleName("What the choices make")
        self.level = "overview"

    def show_installation(self, topology: Topology, answer: Answer) -> None:
        """Show another installation."""
        self._installation = (topology, answer)
        self.refresh()

    def topology(self) -> Topology | None:
        return self._installation[0] if self._installation else None

    def present(self) -> Answer | None:
        return self._installation[1] if self._installation else None

    def has_something(self) -> bool:
        return self._installation is not None

    def work(self, part_id: str) -> None:
        """Nothing is switched here."""

    def closer(self, part: str) -> None:
        """An overview it stays."""

    def offer(self, name: str) -> None:
        """Nothing is adjusted here."""
