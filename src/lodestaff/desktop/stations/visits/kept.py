"""The programme of the job in the window, made anew only where job, journal or the person's hours changed."""

from lodestaff.desktop.store import Store
from lodestaff.reckoning.visiting import Programme, programme
from lodestaff.visits import Library, load_own
from lodestaff.visits.library import OwnHours

_OWN: list[OwnHours] = []


def own_hours(anew: bool = False) -> OwnHours:
    """The person's hours, read once and after they were changed. Raises JobError for a damaged file."""
    if anew or not _OWN:
        _OWN[:] = [load_own()]
    return _OWN[0]


def kept_programme(store: Store) -> Programme:
    """The visits of the job as they are laid."""
    job, entries = store.job, store.site.entries
    assert job is not None
    library = Library(own_hours())
    return store.reckoner.of_parts(
        "programme", (job, entries, library.own), lambda: programme(store.reckoner, job, entries, library)
    )
