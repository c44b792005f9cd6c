"""The worst finding of each station, as the staff shows it."""

from lodestaff.commissioning.reading import Status
from lodestaff.desktop.actions import STATIONS
from lodestaff.desktop.stations.visits.kept import kept_programme
from lodestaff.desktop.store import Store
from lodestaff.reckoning.figure_rows import STATUSES
from lodestaff.reckoning.findings import station_of

Worst = dict[str, tuple[str, int]]


def worst_by_station(store: Store) -> Worst:
    """The worst status of each station and how many findings have it; at Commission of its steps."""
    worst: Worst = {}
    for row in STATIONS if store.results is not None else ():
        assert store.results is not None
        statuses = [
            finding.status for finding in store.results.findings if station_of(finding.code) == row.id
        ]
        if statuses:
            first = min(statuses, key=STATUSES.index)
            worst[row.id] = (first, statuses.count(first))
    return worst | _on_site(store) | _of_days(store)


def read_by_station(store: Store) -> dict[str, float]:
    """How far each station is read: the share of its answers that wait for nothing; at Commission of its
    steps that passed."""
    read: dict[str, float] = {}
    for row in STATIONS if store.results is not None else ():
        assert store.results is not None
        mine = [finding for finding in store.results.findings if station_of(finding.code) == row.id]
        if mine:
            read[row.id] = sum(not finding.open for finding in mine) / len(mine)
    if store.job is not None:
        proof = store.site.proof(store.job, store.reckoner.wiring(store.job).topology)
        if proof.results:
            read["commission"] = proof.count(Status.PASSED) / len(proof.results)
        if store.job.visits.days:
            programme = kept_programme(store)
            read["visits"] = len(programme.done) / max(1, len(programme.tasks))
    return read


def _on_site(store: Store) -> Worst:
    """The worst that the day on site shows; open while steps are."""
    if store.job is None:
        return {}
    proof = store.site.proof(store.job, store.reckoner.wiring(store.job).topology)
    for status, shown in ((Status.FAILED, "blocks"), (Status.DOUBTFUL, "warns"), (Status.OPEN, "open")):
        if count := proof.count(status):
            return {"commission": (shown, count)}
    return {"commission": ("passed", 1)}


def _of_days(store: Store) -> Worst:
    """The worst of the days as they are laid; nothing while none is."""
    if store.job is None or not store.job.visits.days:
        return {}
    programme = kept_programme(store)
    if programme.conflicts:
        return {"visits": ("warns", len(programme.conflicts))}
    return {"visits": ("open", len(programme.unlaid)) if programme.unlaid else ("passed", 1)}
