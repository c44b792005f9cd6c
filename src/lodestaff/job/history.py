"""Undo is the job before. Every step has a name that the person reads."""

from dataclasses import dataclass, field

from lodestaff.job.model import Job

MOST_STEPS = 1000


@dataclass
class History:
    """A line of jobs with a place in it; `mark_saved` remembers which of them is on disk."""

    job: Job
    _done: list[tuple[str, Job]] = field(default_factory=list)
    _undone: list[tuple[str, Job]] = field(default_factory=list)
    _saved: Job | None = None

    def __post_init__(self) -> None:
        if self._saved is None:
            self._saved = self.job

    @property
    def changed(self) -> bool:
        return self.job != self._saved

    @property
    def undo_name(self) -> str | None:
        return self._done[-1][0] if self._done else None

    @property
    def done_names(self) -> tuple[str, ...]:
        """The names of the steps that can be taken back, the last one first."""
        return tuple(name for name, _ in reversed(self._done))

    @property
    def redo_name(self) -> str | None:
        return self._undone[-1][0] if self._undone else None

    def apply(self, name: str, job: Job) -> bool:
        """Take a new job under a name. An edit that changes nothing leaves no step."""
        if job == self.job:
            return False
        self._done.append((name, self.job))
        del self._done[:-MOST_STEPS]
        self._undone.clear()
        self.job = job
        return True

    @property
    def steps(self) -> int:
        """How many steps there are to undo."""
        return len(self._done)

    def join(self, since: int, name: str) -> None:
        """Make one step of all that were taken since there were so many."""
        if len(self._done) > since + 1:
            self._done[since:] = [(name, self._done[since][1])]

    def undo(self) -> str | None:
        if not self._done:
            return None
        name, before = self._done.pop()
        self._undone.append((name, self.job))
        self.job = before
        return name

    def redo(self) -> str | None:
        if not self._undone:
            return None
        name, after = self._undone.pop()
        self._done.append((name, self.job))
        self.job = after
        return name

    def mark_saved(self, job: Job) -> None:
        self._saved = job

    def mark_unsaved(self) -> None:
        """Nothing on disk holds this job (a rescued one)."""
        self._saved = None
