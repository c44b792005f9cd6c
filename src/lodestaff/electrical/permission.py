"""What stands registered on the operator's supply, and whether it may run in parallel today."""

from lodestaff.job import Job
from lodestaff.job.found import Found
from lodestaff.job.site import Permission
from lodestaff.quantities.convention import plain

SUM_SYSTEMS = (
    "120/240 V",
    "120/208 V",
)  # legs of one service: the operator's permission is for the whole unit


def supply_phases(job: Job) -> tuple[tuple[str, ...], ...]:
    """The parts of the supply that a permission counts by: each phase, or both legs of one service
    together."""
    return (
        (job.site.phases,)
        if job.mains.system in SUM_SYSTEMS
        else tuple((phase,) for phase in job.site.phases)
    )


def registered(job: Job, phases: tuple[str, ...]) -> tuple[tuple[str, float], ...]:
    """What counts as generation on these phases, kVA: every converter, and found generation that no unit
    stands for."""
    rows = [
        (unit.name, kva)
        for unit in job.units
        if (kva := job.sheet_of(unit).rated_kva * _part(unit.legs, phases))
    ]
    return (
        *rows,
        *((device.name, kva) for device in job.site.found if (kva := _found_kva(job, device, phases))),
    )


def _part(legs: tuple[str, ...], phases: tuple[str, ...]) -> float:
    return sum(leg in phases for leg in legs) / len(legs)


def _found_kva(job: Job, thing: Found, phases: tuple[str, ...]) -> float:
    if thing.what != "generation" or thing.part or thing.rating.value is None:
        return 0.0
    legs = tuple(thing.phase.split("+")) if thing.phase else job.site.phases
    return thing.rating.value * _part(legs, phases)


def notify_kva(job: Job, phases: tuple[str, ...]) -> float:
    """What may be connected by notice alone on these phases, kVA."""
    return job.pack.value("notify_a_per_phase").value * job.pack.value("nominal_v").value * len(phases) / 1000


def allowed_kva(job: Job, phases: tuple[str, ...]) -> float:
    """What may be registered on these phases: by notice alone, or as far as a granted permission goes."""
    permission = job.site.permission
    granted = permission.parallel_kva.value if permission.parallel_state == "granted" else None
    return max(notify_kva(job, phases), granted or 0.0)


def may_run(permission: Permission, registered_kva: float, notify_kva: float) -> tuple[bool, str]:
    """Whether this generation may run in parallel today, and how, in words."""
    state, allowed = permission.parallel_state, permission.parallel_kva.value
    needs = registered_kva > notify_kva * (1 + 1e-9)
    fits = allowed is None or registered_kva <= allowed * (1 + 1e-9)
    if needs and state == "granted without export" and fits:
        return True, "may run in parallel today without export, until the final approval"
    if not needs or (state == "granted" and allowed is not None and fits):
        if permission.state == "granted":
            return True, "may run in parallel today, and export"
        return True, "may run in parallel today; nothing may be exported yet"
    return False, "may not run in parallel with the grid yet, also not with zero export"


def granted_words(permission: Permission, registered_kva: float) -> str:
    """How far the permission stands; where one was granted that isn't enough, for how much."""
    state, allowed = permission.parallel_state, permission.parallel_kva.value
    if not state.startswith("granted"):
        return state
    if allowed is None:
        return f"{state}, for how many kVA isn't noted"
    return (
        state
        if registered_kva <= allowed * (1 + 1e-9)
        else f"{state} for {plain(allowed)} of {plain(registered_kva)} kVA"
    )


def held_back(job: Job) -> str:
    """Why nothing may be closed onto the grid yet; '' where it may, or where there is no grid."""
    if not job.mains.grid:
        return ""
    for phases in supply_phases(job):
        kva = sum(value for _, value in registered(job, phases))
        if kva and not may_run(job.site.permission, kva, notify_kva(job, phases))[0]:
            return f"{job.pack.word('permission')}: {granted_words(job.site.permission, kva)}"
    return ""
