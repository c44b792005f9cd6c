"""Cables and devices proposed for every run: the smallest of the pack's tables that pass.

What is proposed is tried by the checks themselves, so that a proposal and its findings can't differ. Lengths
that nobody knows are taken as the pack has them, and the cable is *assumed* until somebody reads it.
"""

from collections.abc import Iterator
from dataclasses import dataclass, replace

from lodestaff.catalogue import Pack
from lodestaff.catalogue.proposes import UsualRun
from lodestaff.checks.conductors import sto_dc, wire_amp
from lodestaff.checks.connectors import HomeRuns
from lodestaff.checks.drop import Path, summed_drop, wire_drop
from lodestaff.checks.finding import Finding, Verdict
from lodestaff.checks.protection import RCD_TYPES, wire_fault, wire_rcd
from lodestaff.checks.runs import DC_TABLE, Run
from lodestaff.electrical.strings import string_fuse
from lodestaff.job import Cable, Change, Job, edit
from lodestaff.job.address import address
from lodestaff.job.facts import Fact, Known
from lodestaff.job.plan import Board, Electrode
from lodestaff.quantities.convention import plain
from lodestaff.quantities.errors import JobError
from lodestaff.quantities.going import may_go_on
from lodestaff.reckoning.lengths import lying, rounded_m
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.records.array import home_runs
from lodestaff.reckoning.records.paths import paths_of
from lodestaff.reckoning.records.runs import runs

BAD = (Verdict.BLOCKS, Verdict.WARNS)
MUST = ("WIRE-AMP", "STO-DC")  # what a cable that is proposed must keep
OUTLET_UP_TO_A = 32.0  # an output this small feeds sockets: 30 mA; common practice
RCDS_MA = (100.0, 30.0)


@dataclass(frozen=True)
class Proposed:
    """A run with the cable that is proposed for it, what stands there now, and the findings that it leaves.

    `why_not` says why nothing could be proposed; `findings` of a proposal that are bad no cable cures.
    """

    run: Run
    standing: Cable | None
    findings: tuple[Finding, ...] = ()
    why_not: str = ""

    @property
    def cable(self) -> Cable | None:
        return None if self.why_not else self.run.cable

    @property
    def left(self) -> tuple[Finding, ...]:
        """What stays wrong with it."""
        return tuple(finding for finding in self.findings if finding.verdict in BAD)


def proposed(reckoner: Reckoner, job: Job, only: str = "", anew: bool = False) -> tuple[Proposed, ...]:
    """A cable for every run that has none; with `anew` for all, from what is known of their way; `only` for
    one run.

    Raises JobError where the job has no such run, or its pack doesn't say how runs are proposed.
    """
    all_runs = tuple(runs(reckoner, job, False))
    if only and only not in {run.id for run in all_runs}:
        raise JobError(f"no run {only!r}", "cables", f"runs: {', '.join(run.id for run in all_runs)}")
    wanted = [run for run in all_runs if (run.id == only) or (not only and (anew or run.cable is None))]
    proposals: dict[str, Proposed] = {}
    before = reckoner.wiring(job).before
    guarded = {cable.id for cable in job.cables if cable.rcd_ma is not None} - {run.id for run in wanted}
    for run in sorted(wanted, key=lambda each: len(before.get(each.id, ()))):  # from the origin outwards
        may_go_on()
        ahead = bool(guarded & set(before.get(run.id, ())))
        proposals[run.id] = _one(reckoner, job, replace(run, guarded_ahead=ahead))
        cable = proposals[run.id].cable
        guarded |= {run.id} if cable is not None and cable.rcd_ma is not None else set()
    proposals = {run.id: proposals[run.id] for run in wanted}
    _along_paths(reckoner, job, all_runs, proposals)
    return tuple(proposals.values())


def with_cables(reckoner: Reckoner, job: Job) -> Job:
    """A job with a cable for every run that its pack can propose one for."""
    return taking(job, proposed(reckoner, job))


def with_proposals(job: Job, proposals: tuple[Proposed, ...]) -> tuple[Change, ...]:
    """The edit that takes proposals into the job."""
    taken = {proposal.run.id: proposal.cable for proposal in proposals if proposal.cable is not None}
    standing = [taken.pop(cable.id, cable) for cable in job.cables]
    rows = [cable.model_dump(mode="json") for cable in (*standing, *taken.values()) if cable is not None]
    return (Change("cables", rows),)


def taking(job: Job, proposals: tuple[Proposed, ...]) -> Job:
    """The job with the proposals in it."""
    return edit(job, *with_proposals(job, proposals))


# --- one run -------------------------------------------------------------------------------------------
def _one(reckoner: Reckoner, job: Job, run: Run) -> Proposed:
    usual = run.pack.usual_runs.runs.get(run.use)
    if run.unknown or usual is None:
        why = run.unknown[0] if run.unknown else f"the pack has no usual run for a {run.use}"
        return Proposed(run, run.cable, why_not=why)
    way = reckoner.routes(job).get(run.id)
    if way is not None:
        usual = usual.model_copy(update={"length_m": rounded_m(way)})
    lies = lying(reckoner, job, way) if way is not None and run.cable is None else {}
    best: tuple[tuple[int, int, float], Run, tuple[Finding, ...]] | None = None
    for cable in _candidates(reckoner, job, run, usual):
        tried = replace(run, cable=cable.model_copy(update=lies) if lies else cable)
        findings = findings_of(tried)
        score = _score(findings)
        if best is None or score < best[0]:
            best = (score, tried, findings)
        if score[1] == 0:
            break
    if best is None:
        return Proposed(run, run.cable, why_not="the pack's tables have no size for it")
    if best[0][0] and _as_read(job, run) is None:  # what can't carry its current isn't proposed
        bad = next(finding for finding in best[2] if finding.code in MUST and finding.blocks)
        return Proposed(run, run.cable, best[2], f"no size of the pack's tables carries it: {bad.text}")
    return Proposed(best[1], run.cable, best[2])


def _score(findings: tuple[Finding, ...]) -> tuple[int, int, float]:
    """How bad a candidate is: what it can't carry, how much else is wrong, and how far it drops."""
    bad = [finding for finding in findings if finding.verdict in BAD]
    drops = [finding.figure.value for finding in bad if finding.code == "WIRE-DROP" and finding.figure]
    return sum(other.code in MUST and other.blocks for other in bad), len(bad), max(drops, default=0.0)


def findings_of(run: Run) -> tuple[Finding, ...]:
    """What the checks of conductors and devices say of a run."""
    checks = [wire_amp, wire_drop, sto_dc, wire_fault]
    if run.pack.conductor_rule == "IEC":
        checks.append(wire_rcd)
    return tuple(finding for check in checks for finding in check(run))


def _candidates(reckoner: Reckoner, job: Job, run: Run, usual: UsualRun) -> Iterator[Cable]:
    """Cables from the smallest up, of each method in its order; for each size with as little else as may
    do."""
    pack, standing = run.pack, run.cable
    methods = (standing.table,) if standing is not None else usual.methods
    curves = dict.fromkeys((usual.curve, "B")) if usual.curve is not None else (None,)
    read = _as_read(job, run)
    if read is not None:
        yield _cable(reckoner, job, run, usual, (methods[0], read, None, None))
        return
    for method in methods:
        for size in _sizes(pack, method, run):
            if usual.least_mm2 is not None and size < usual.least_mm2:
                continue
            for rcd in _rcds(job, run):
                for curve in curves:
                    yield _cable(reckoner, job, run, usual, (method, size, rcd, curve))


def _as_read(job: Job, run: Run) -> float | None:
    """The size of the service's own conductors where it was read: they lie there, whatever passes."""
    return job.site.supply.tails_mm2.value if run.use == "service" and run.cable is None else None


def _sizes(pack: Pack, method: str, run: Run) -> list[float]:
    """The sizes that a method has a rating for."""
    dc = method == DC_TABLE
    table = pack.table("dc_cables" if dc else "cables")
    three = run.legs >= 3 and not run.dc and pack.conductor_rule == "IEC"
    column = "A" if dc else f"{method} 3 A" if three else f"{method} A"
    place = table.columns.index(column) if column in table.columns else 0
    return sorted(row[0] for row in table.rows if row[0] is not None and row[place] is not None)


def _rcds(job: Job, run: Run) -> tuple[float | None, ...]:
    if run.dc or run.use == "service" or run.pack.conductor_rule == "NEC":
        return (None,)
    apart = run.pack.values.get("building_electrode_apart")
    if apart is not None and apart.value and run.id in _rods(job):
        return RCDS_MA  # the building's own electrode trips nothing else
    if run.use == "output" and run.load <= OUTLET_UP_TO_A:
        return (None, 30.0)
    return (None, *RCDS_MA)


def _rods(job: Job) -> set[str]:
    """Feeds of boards in further buildings that have an electrode of their own."""
    rods = {address(part.at).part for part in job.parts if isinstance(part, Electrode)}
    boards = [part for part in job.parts if isinstance(part, Board) and part.building]
    return {f"{board.id}-feed" for board in boards if board.id in rods}


# a method, a size in mm², a residual-current device in mA, a device's curve
Choice = tuple[str, float, float | None, str | None]


def _cable(reckoner: Reckoner, job: Job, run: Run, usual: UsualRun, choice: Choice) -> Cable:
    method, size, rcd, curve = choice
    pack, standing = run.pack, run.cable
    fields = standing.model_dump() if standing is not None else {}
    device = _device(job, run, usual)
    of_pack = usual is pack.usual_runs.runs.get(run.use)
    note = f"proposed: {plain(usual.length_m)} m and the way are the pack's usual ones"
    note = note if of_pack else "proposed: the length is that between its places on the walls"
    fresh = {
        "length_m": usual.length_m,
        "known": Fact[str](value="yes", known=Known.ASSUMED, note=note).model_dump(),
        "existing": run.use == "service",
    }
    chosen = {
        "id": run.id,
        "size_mm2": size,
        "table": method,
        "device_a": device,
        "curve": curve,
        "cpc_mm2": None if run.dc or run.use == "service" else _protective(pack, method, size, device),
        "rcd_ma": rcd,
        "why": "",
    }
    if rcd is not None:
        asked = run.asked_rcd_type
        chosen["rcd_type"] = asked if asked in RCD_TYPES else "A"
        if run.two_way:
            both = Fact[str](value="yes", known=Known.ASSUMED, note="to be ordered so")
            chosen["rcd_bidirectional"] = both.model_dump()
    if run.kind == "array":
        chosen |= _on_the_roof(reckoner, job, run)
    return Cable.model_validate({**fresh, **fields, **chosen})


def _device(job: Job, run: Run, usual: UsualRun) -> float | None:
    """The device ahead of a run, A: the service's own, the next standard size, or the next battery fuse."""
    pack = run.pack
    if run.kind == "array":
        return None
    if run.use == "service":
        return job.site.supply.rating_a.value
    if run.kind == "battery":
        wanted, sizes = pack.value("battery_current_margin").value * run.design_a, "battery_fuses"
    else:
        factor = pack.value("continuous_load_factor").value if pack.conductor_rule == "NEC" else 1.0
        wanted, sizes = max(factor * run.design_a, usual.least_device_a or 0.0), "device_sizes"
    return _next(pack, sizes, wanted)


def _protective(pack: Pack, method: str, size: float, device: float | None) -> float | None:
    """The protective conductor that goes with a conductor or a device, mm²; None where no table says."""
    try:
        table = pack.usual_table("protective")
        if pack.conductor_rule == "NEC":
            return table.above(device, "mm2") if device is not None else None
        own = method in table.columns and any(row[0] == size and row[1] is not None for row in table.rows)
        return table.at(size, method if own else "other")
    except JobError:
        return None


def _on_the_roof(reckoner: Reckoner, job: Job, run: Run) -> dict[str, float | None]:
    """The DC isolator and the fuse of each string, where one is needed."""
    home: HomeRuns | None = next(
        (way_home for way_home in home_runs(reckoner, job, False) if way_home.run == run.id), None
    )
    if home is None:
        return {}
    pack, amps = run.pack, home.factor.value * sum(joint.isc_a for joint in home.strings)
    lengths = {
        "isolator_v": _next(pack, "dc_isolators", home.cold_v),
        "isolator_a": _next(pack, "dc_isolators_a", amps),
        "string_fuse_a": None,
    }
    module = job.sheets.modules[job.modules_in(home.strings[0].id)[0][0].module]
    if module.max_series_fuse_a is not None:
        least = pack.values.get("string_fuse_least")
        fuse = string_fuse(
            len(home.strings),
            module.isc_a,
            module.max_series_fuse_a,
            pack.table("string_fuses").row_keys(),
            least.value if least is not None else None,
        )
        lengths["string_fuse_a"] = fuse.choices_a[0] if fuse.needed and fuse.choices_a else None
    return lengths


def _next(pack: Pack, table: str, least: float) -> float | None:
    """The next size of a table at or above a value; an older edition goes by the shipped one's table."""
    rows = pack.usual_table(table).row_keys()
    return next((size for size in sorted(rows) if size >= least - 1e-9), None)


# --- along the way from the origin ---------------------------------------------------------------------
def _along_paths(
    reckoner: Reckoner, job: Job, all_runs: tuple[Run, ...], proposals: dict[str, Proposed]
) -> None:
    """Enlarge proposals until the sum from the origin keeps its limit, the section that drops most first;
    then take back what came to be larger than it need."""
    before, first = reckoner.wiring(job).before, dict(proposals)

    def too_long(with_: dict[str, Proposed]) -> tuple[Path, ...]:
        now = tuple(with_[run.id].run if run.id in with_ else run for run in all_runs)
        return tuple(
            path
            for path in paths_of(job, before, now)
            if any(finding.verdict in BAD for finding in summed_drop(path))
        )

    def enlarge() -> bool:
        for path in too_long(proposals):
            drops = [(drop.drop_pct, run.id) for run, drop in path.parts() if drop is not None]
            for _, id in sorted(drops, reverse=True):
                larger = _larger(proposals[id]) if id in proposals else None
                if larger is not None:
                    proposals[id] = larger
                    return True
        return False

    while enlarge():
        pass
    left = len(too_long(proposals))
    for id, proposal in first.items():
        while proposal is not proposals[id] and len(too_long({**proposals, id: proposal})) > left:
            larger = _larger(proposal)
            if larger is None or larger.cable == proposals[id].cable:
                break
            proposal = larger
        else:
            proposals[id] = proposal


def _larger(proposal: Proposed) -> Proposed | None:
    """The same with the next size of its method; None where there is none that passes."""
    cable = proposal.cable
    if cable is None:
        return None
    for size in _sizes(proposal.run.pack, cable.table, proposal.run):
        if size > cable.size_mm2:
            more = cable.model_copy(
                update={
                    "size_mm2": size,
                    "cpc_mm2": _protective(proposal.run.pack, cable.table, size, cable.device_a)
                    if cable.cpc_mm2 is not None
                    else None,
                }
            )
            run = replace(proposal.run, cable=more)
            findings = findings_of(run)
            bad = sum(finding.verdict in BAD for finding in findings)
            return Proposed(run, proposal.standing, findings) if bad <= len(proposal.left) else None
    return None
