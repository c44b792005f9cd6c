"""The far horizon in the hand: typed in a table, or drawn on the sky with Shift and the mouse."""

from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF

from lodestaff.desktop.stations.array.roof_tables import RoofTable, Typed
from lodestaff.desktop.stations.array.sky import AWAY_DEG, HIGH_DEG
from lodestaff.desktop.store import Store
from lodestaff.desktop.table import words
from lodestaff.desktop.understood import as_number
from lodestaff.job import Change, Job
from lodestaff.quantities.convention import plain
from lodestaff.reckoning.sun_view import middle_of

LAID_DEG = 5  # a hand draws to so many degrees of azimuth
AZIMUTH = Typed("Azimuth, °", "azimuth_deg", "°", may_be_none=True)
ELEVATION = Typed("Elevation, °", "elevation_deg", "°")


@dataclass(frozen=True)
class Point:
    """A point of the horizon; the last row is empty and begins a new one."""

    azimuth_deg: float | None
    elevation_deg: float | None


class HorizonTable(RoofTable):
    """Azimuth clockwise from north, and how high the far horizon stands there."""

    def __init__(self, store: Store) -> None:
        super().__init__(
            store,
            "Horizon",
            (
                words(
                    AZIMUTH.heading,
                    lambda row: _text(row.azimuth_deg),
                    typed=self._azimuth,
                    figures=True,
                    reads=lambda _: as_number("°"),
                    order=lambda row: row.azimuth_deg,
                ),
                words(
                    ELEVATION.heading,
                    lambda row: _text(row.elevation_deg),
                    typed=self._elevation,
                    figures=True,
                    reads=lambda _: as_number("°"),
                    may=lambda row: row.azimuth_deg is not None,
                    wide=True,
                ),
            ),
        )

    def refresh(self) -> None:
        """Show the job's horizon, and a row to begin a point in."""
        job = self.store.job
        if job is not None:
            points = [Point(point.azimuth_deg, point.elevation_deg) for point in job.site.horizon]
            self.show_rows([*points, Point(None, None)])

    def _azimuth(self, row: Point, text: str) -> bool:
        job = self.store.job
        assert job is not None
        value = self.read(AZIMUTH, "Horizon", text)
        if value is None and text.strip():
            return False
        points = points_of(job)
        high = points.pop(row.azimuth_deg, 0.0) if row.azimuth_deg is not None else 0.0
        if value is not None:
            points[value % 360] = high
        return set_horizon(self.store, points, "Change the horizon")

    def _elevation(self, row: Point, text: str) -> bool:
        job, value = self.store.job, self.read(ELEVATION, "Horizon", text)
        if job is None or value is None or row.azimuth_deg is None:
            return False
        return set_horizon(self.store, {**points_of(job), row.azimuth_deg: value}, "Change the horizon")


def points_of(job: Job) -> dict[float, float]:
    """Elevation by azimuth."""
    return {point.azimuth_deg: point.elevation_deg for point in job.site.horizon}


def set_horizon(store: Store, points: dict[float, float], name: str) -> bool:
    """The horizon of these points, as one step."""
    rows = [{"azimuth_deg": azimuth, "elevation_deg": high} for azimuth, high in sorted(points.items())]
    return store.edit(name, Change("site/horizon", rows))


def under_the_hand(job: Job, sky: QRectF, point: QPointF) -> tuple[float, float]:
    """Azimuth, to LAID_DEG, and elevation where a hand is on the sky."""
    away = (point.x() - sky.center().x()) / (sky.width() / 2) * AWAY_DEG
    high = (sky.bottom() - point.y()) / sky.height() * HIGH_DEG
    azimuth = round((away + middle_of(job)) / LAID_DEG) * LAID_DEG % 360
    return float(azimuth), round(min(max(high, 0.0), HIGH_DEG), 1)


def drawn(job: Job, stroke: dict[float, float]) -> dict[float, float]:
    """The horizon with what was drawn in the place of the points it passed over; beside it the ground is
    level."""
    points = points_of(job)
    if not points:
        edges = (min(stroke) - LAID_DEG, max(stroke) + LAID_DEG) if max(stroke) - min(stroke) < 180 else ()
        points = {edge % 360: 0.0 for edge in edges} | {0.0: 0.0, 180.0: 0.0}
    return {**points, **stroke}


def _text(value: float | None) -> str:
    return "" if value is None else plain(value)
