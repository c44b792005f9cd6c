"""Where the day stands: hours along, kW up and down, state of charge below. Pure geometry."""

from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF

from lodestaff.desktop.theme import text_scale
from lodestaff.job import Job, Window
from lodestaff.quantities.convention import plain
from lodestaff.reckoning.flows import DayFlows

LEFT, RIGHT = 46.0, 14.0
GRAB_PX = 7.0


@dataclass(frozen=True)
class Line:
    """A limit as a line that a hand drags: the field of the job it sets, its height, its words."""

    field: str
    words: str
    y: float
    role: str
    off_scale: bool = False


@dataclass(frozen=True)
class WindowBlock:
    """A charge window as one or two rectangles (it may run over noon)."""

    id: str
    rects: tuple[QRectF, ...]
    words: str


@dataclass(frozen=True)
class Day:
    """Everything that stands on the surface."""

    plot: QRectF
    zero: float
    px_per_kw: float
    most_in: float
    most_out: float
    windows: QRectF
    tariff: QRectF
    soc: QRectF
    lines: tuple[Line, ...]
    blocks: tuple[WindowBlock, ...]

    def x(self, hours_after_noon: float) -> float:
        return self.plot.left() + hours_after_noon / 24 * self.plot.width()

    def hour_at(self, x: float) -> float:
        """Hour of the day at a place along the plot."""
        return ((x - self.plot.left()) / self.plot.width() * 24 + 12) % 24

    def y_in(self, kw: float) -> float:
        return self.zero - kw * self.px_per_kw

    def y_out(self, kw: float) -> float:
        return self.zero + kw * self.px_per_kw

    def y_soc(self, soc: float) -> float:
        return self.soc.bottom() - soc * self.soc.height()

    def line_at(self, point: QPointF) -> Line | None:
        near = [
            line
            for line in self.lines
            if abs(line.y - point.y()) <= GRAB_PX
            and self.plot.left() <= point.x() <= self.plot.right() + RIGHT
        ]
        return min(near, key=lambda line: abs(line.y - point.y()), default=None)

    def block_at(self, point: QPointF) -> WindowBlock | None:
        return next(
            (block for block in self.blocks if any(rect.contains(point) for rect in block.rects)), None
        )

    def value_at(self, field: str, y: float) -> float:
        """The value of a limit when its line is dragged to a height, in the steps that settings have."""
        if field in ("reserve_soc", "shed_soc"):
            return min(1.0, max(0.0, round((self.soc.bottom() - y) / self.soc.height() * 100) / 100))
        kw = (self.zero - y if field == "import_kw" else y - self.zero) / self.px_per_kw
        return max(0.0, round(kw * 20) / 20)


def noon_hours(hour: float) -> float:
    """Hours after noon of an hour of the day."""
    return (hour - 12) % 24


def clock_shift_h(flows: DayFlows | None, clock_name: str) -> float:
    """How far a clock is ahead of standard time on the day that is shown."""
    return 1.0 if flows is not None and flows.summer_time and clock_name == "household" else 0.0


def lay_day(job: Job, flows: DayFlows | None, width: float, height: float, month: int | None = None) -> Day:
    """Lay the day out on a surface of the given size. Hours along are standard time.

    Windows of other months than the given one aren't shown.
    """
    limits = job.limits
    plot_height = height * 0.60
    highest_in = (
        max((flows.sun + flows.battery_out + flows.imported).max(), 1.0) if flows is not None else 5.0
    )
    highest_out = (
        max((flows.circuits + flows.into_battery + flows.exported + flows.lost).max(), 1.0)
        if flows is not None
        else 5.0
    )
    most_in = max(float(highest_in) * 1.12, 4.0)
    most_out = max(float(highest_out) * 1.08, limits.export_kw * 1.1, limits.charge_kw * 1.1)
    left = LEFT * max(1.0, text_scale())
    plot = QRectF(left, 22, width - left - RIGHT, plot_height - 22)
    px = plot.height() / (most_in + most_out)
    zero = plot.top() + most_in * px
    windows = QRectF(plot.left(), plot.bottom() + 24, plot.width(), 24)
    tariff = QRectF(plot.left(), windows.bottom() + 4, plot.width(), 18)
    soc = QRectF(plot.left(), tariff.bottom() + 40, plot.width(), max(40.0, height - tariff.bottom() - 50))
    day = Day(
        plot,
        zero,
        px_per_kw=px,
        most_in=most_in,
        most_out=most_out,
        windows=windows,
        tariff=tariff,
        soc=soc,
        lines=(),
        blocks=(),
    )
    return Day(
        plot,
        zero,
        px_per_kw=px,
        most_in=most_in,
        most_out=most_out,
        windows=windows,
        tariff=tariff,
        soc=soc,
        lines=_lines(job, day),
        blocks=_blocks(job, day, clock_shift_h(flows, job.limits.device_clock), month),
    )


def _lines(job: Job, day: Day) -> tuple[Line, ...]:
    limits = job.limits
    off = limits.import_kw > day.most_in
    charge = Line(
        "charge_kw", f"charge limit {plain(limits.charge_kw, 2)} kW", day.y_out(limits.charge_kw), "battery"
    )
    if not job.mains.grid:
        return (charge,) if job.banks else ()
    return (
        Line(
            "import_kw",
            f"import limit {plain(limits.import_kw, 2)} kW" + (", above the scale" if off else ""),
            day.plot.top() if off else day.y_in(limits.import_kw),
            "grid",
            off,
        ),
        Line(
            "export_kw", f"export limit {plain(limits.export_kw, 2)} kW", day.y_out(limits.export_kw), "hand"
        ),
        charge,
        Line(
            "reserve_soc",
            f"reserve {plain(limits.reserve_soc * 100, 0)} %",
            day.y_soc(limits.reserve_soc),
            "blocks",
        ),
    )


def spans(start_h: float, end_h: float) -> tuple[tuple[float, float], ...]:
    """A span of hours of the day as one or two spans after noon."""
    first, last = noon_hours(start_h), noon_hours(end_h)
    if first < last:
        return ((first, last),)
    return ((first, 24.0), (0.0, last)) if last > 0 else ((first, 24.0),)


DOES = {"charge": "charge to", "hold": "hold", "give": "give down to"}


def block_words(window: Window) -> str:
    """What a window does, on its block."""
    if window.kind == "hold":
        return DOES["hold"]
    when = "" if window.days == "every day" else f", {window.days}"
    when += f", on {', '.join(window.on)}" if window.on else ""
    target = f"{DOES[window.kind]} {plain(window.target_soc * 100, 0)} %"
    return f"{target} at {plain(window.power_kw)} kW{when}"


def _blocks(job: Job, day: Day, ahead_h: float, month: int | None) -> tuple[WindowBlock, ...]:
    return tuple(
        WindowBlock(
            window.id,
            tuple(
                QRectF(day.x(a), day.windows.top(), day.x(b) - day.x(a), day.windows.height())
                for a, b in spans(window.start_h - ahead_h, window.end_h - ahead_h)
            ),
            block_words(window),
        )
        for window in job.limits.windows
        if not window.months or month is None or month in window.months
    )
