"""The cautions of this site: only of what stands here, and true of it."""

from lodestaff.catalogue.families import sealed
from lodestaff.job import Job
from lodestaff.topology import Topology
from lodestaff.topology.questions import asked, has_generator


def _open_banks(job: Job) -> bool:
    """Whether a battery has terminals that a hand reaches."""
    return any(not sealed(job.sheet_of(unit)) for unit in job.units if job.bank_of(unit) is not None)


def _arrays(job: Job, topology: Topology) -> tuple[bool, bool]:
    """Whether there are arrays of strings, and modules with a unit of their own."""
    with_sun = [unit for unit in topology.units if unit.arrays]
    return any(not unit.module_level for unit in with_sun), any(unit.module_level for unit in with_sun)


def all_off(job: Job, topology: Topology) -> str:
    """What stays live with every switch off."""
    strings, plugged = _arrays(job, topology)
    if job.mains.grid and _open_banks(job) and strings and not plugged:
        return job.pack.caution("all_off")
    stays = [f"the {job.pack.word('cutout')}"] if job.mains.grid else []
    if _open_banks(job):
        stays.append("the battery terminals")
    elif job.banks:
        stays.append("the battery inside its case")
    day = ["the array"] if strings else []
    day += ["each module at its own volts"] if plugged else []
    if day:
        stays.append(f"in daylight {' and '.join(day)}")
    listed = ", ".join(stays[:-1]) + (" and " if len(stays) > 1 else "") + stays[-1] if stays else "nothing"
    return f"With every switch off {listed} stay{'s' if len(stays) == 1 and not day else ''} live."


def _earth_of_the_grid(job: Job, topology: Topology) -> bool:
    """Whether an island here loses the earth that the grid's neutral gave."""
    shared = job.site.supply.earthing.value in ("TN-C-S", "MEN")
    return job.mains.grid and asked(topology).has_backup and shared


def charger_caution(job: Job) -> list[str]:
    """What a car charger asks of a supply whose neutral is its earth; nothing where there is none of
    either."""
    charger = any(circuit.kind == "car charger" for circuit in job.circuits)
    shared = job.mains.grid and job.site.supply.earthing.value in ("TN-C-S", "MEN")
    return [job.pack.caution("tncs_charger")] if charger and shared else []


def state_caution(job: Job, topology: Topology, state: str) -> str:
    """What to mind in a switching state."""
    if state == "all off":
        return all_off(job, topology)
    if state.startswith("bypass"):
        return job.pack.caution("bypass" if job.mains.grid else "bypass_no_grid")
    if state == "generator":
        return job.pack.caution("generator")
    return job.pack.caution(
        "tncs" if state == "island" and _earth_of_the_grid(job, topology) else "prove_dead"
    )


def site_cautions(job: Job, topology: Topology) -> tuple[str, ...]:
    """Every caution that holds here, in the order of the work."""
    strings, plugged = _arrays(job, topology)
    questions, pack = asked(topology), job.pack
    grid = job.mains.grid
    texts = [pack.caution("prove_dead")]
    if strings:
        texts.append(pack.caution("live_in_daylight"))
        texts.append(pack.caution("insulation"))
    if any(job.optimisers_on(string) != "none" for string in job.strings):
        texts.append(pack.caution("optimisers"))
    if plugged:
        texts.append(pack.caution("module_units"))
    if job.has_bypass:
        texts.append(pack.caution("bypass" if grid else "bypass_no_grid"))
    texts.append(all_off(job, topology))
    if grid:
        texts.append(pack.caution("cutout" if questions.has_backup else "seals"))
    if not grid:
        texts.append(pack.caution("no_grid"))
    if has_generator(topology):
        texts.append(pack.caution("generator"))
    if grid and (questions.has_backup or has_generator(topology)):
        texts.append(pack.caution("backfeed"))
    if any(part.kind == "board" and part.id == "outlet" for part in topology.parts.values()):
        texts.append(pack.caution("outlet"))
    if job.has_electrode:
        texts.append(pack.caution("electrode"))
    if _open_banks(job):
        texts.append(pack.caution("battery"))
    elif job.banks:
        texts.append(pack.caution("sealed_battery"))
    if _earth_of_the_grid(job, topology):
        texts.append(pack.caution("tncs"))
    texts += charger_caution(job)
    texts.append(pack.caution("not_emergency"))
    return tuple(dict.fromkeys(texts))
