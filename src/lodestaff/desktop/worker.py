"""Work off the window's thread: a snapshot goes in, a result comes out, the newest wins; any of it can be
stopped."""

import threading
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from typing import Any, Generic, TypeVar

from PySide6.QtCore import QObject, Signal

from lodestaff.quantities.errors import JobError, OurError
from lodestaff.quantities.going import Stopped, may_go_on, until

STOPPED = "stopped before it was done"
THE_PERSONS = (JobError, OSError)  # what a person can mend: told where it was asked for
Result = TypeVar("Result")


@dataclass(frozen=True)
class Task(Generic[Result]):
    """What is to be made off the window's thread, and who hears of it on that thread.

    `then` takes the result; `wrong` a person's error, or an OurError where the program is at fault.
    """

    name: str
    make: Callable[[], Result]
    then: Callable[[Result], object]
    wrong: Callable[[Exception], object]


class Underway(QObject):
    """All that is being made now, by worker and name, for whoever shows it."""

    changed = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.tasks: list[tuple[Worker, str]] = []

    def begin(self, worker: "Worker", name: str) -> None:
        """A task was asked for."""
        self.tasks.append((worker, name))
        self.changed.emit()

    def end(self, worker: "Worker", name: str) -> None:
        """It arrived, was overtaken or stopped."""
        self.tasks.remove((worker, name))
        self.changed.emit()


UNDERWAY = Underway()


class Worker(QObject):
    """One thread. Of the tasks waiting under a name only the newest is run; an overtaken result is dropped.

    An error that no person can mend goes to `fault` first, which keeps the work and the trace.
    """

    busy_changed = Signal(bool)
    _arrived = Signal(object, int, object, object)

    def __init__(self, fault: Callable[[BaseException], None], parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._fault = fault
        self._pool = ThreadPoolExecutor(1, "lodestaff-figures")
        self._newest: dict[str, int] = {}
        self._stops: dict[tuple[str, int], threading.Event] = {}
        self._waiting = 0
        self._arrived.connect(self._take)

    def ask(
        self,
        name: str,
        make: Callable[[], Result],
        then: Callable[[Result], object],
        wrong: Callable[[Exception], object],
    ) -> None:
        """Run a task; asked again under the same name before it began, the earlier one is skipped."""
        number = self._newest.get(name, 0) + 1
        self._newest[name] = number
        self._stops[name, number] = threading.Event()
        self._waiting += 1
        UNDERWAY.begin(self, name)
        if self._waiting == 1:
            self.busy_changed.emit(True)
        self._pool.submit(self._run, Task(name, make, then, wrong), number)

    @property
    def busy(self) -> bool:
        """Whether anything asked for has not arrived yet."""
        return self._waiting > 0

    def drop(self, name: str) -> None:
        """Forget what was asked under a name."""
        self._newest[name] = self._newest.get(name, 0) + 1

    def halt(self, name: str) -> None:
        """The person stops what is made under a name: whoever asked hears it as an error of theirs."""
        for (asked, _), stop in self._stops.items():
            if asked == name:
                stop.set()

    def stop(self) -> None:
        """Drop everything, what is being made too, and end the thread."""
        for name in list(self._newest):
            self.drop(name)
            self.halt(name)
        self._pool.shutdown(wait=True, cancel_futures=True)
        for name, _ in self._stops:
            UNDERWAY.end(self, name)
        self._stops.clear()

    def _run(self, task: Task[Any], number: int) -> None:
        result: Any = None
        error: Exception | None = None
        stop = self._stops[task.name, number]
        if self._newest.get(task.name) == number:
            try:
                with until(stop):
                    may_go_on()
                    result = task.make()
            except Stopped:
                error = JobError(STOPPED)
            except Exception as trouble:  # noqa: BLE001  (handed to the window's thread, which shows it)
                error = trouble
        self._arrived.emit(task, number, result, error)

    def _take(self, task: Task[Any], number: int, result: Any, error: Exception | None) -> None:
        self._waiting -= 1
        if self._stops.pop((task.name, number), None) is not None:
            UNDERWAY.end(self, task.name)
        if error is not None and not isinstance(error, THE_PERSONS):
            self._fault(error)
            error = OurError(f"{type(error).__name__}: {error}.")
        if self._newest.get(task.name) == number:
            if error is not None:
                task.wrong(error)
            elif result is not None:  # nothing comes of what was stopped
                task.then(result)
        if self._waiting == 0:
            self.busy_changed.emit(False)
