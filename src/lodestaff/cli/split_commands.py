"""The subcommand that proposes a split and deals circuits over the legs."""

import argparse
from dataclasses import asdict
from pathlib import Path

from lodestaff.cli.answering import open_job, print_json
from lodestaff.cli.exits import FINE
from lodestaff.cli.output import write_job
from lodestaff.job import Change, Job, edit
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning import Reckoner
from lodestaff.reckoning.legs import Dealing, deal_out
from lodestaff.reckoning.panels import deal_panels
from lodestaff.reckoning.proposal import Proposal, propose


def split(options: argparse.Namespace) -> int:
    """The best set for each island; with `--deal` the legs of each board."""
    job, reckoner = open_job(options)
    if options.panels:
        return _panels(options, job, reckoner)
    return _deal(options, job, reckoner) if options.deal else _propose(options, job, reckoner)


def _propose(options: argparse.Namespace, job: Job, reckoner: Reckoner) -> int:
    proposals: list[Proposal] = []
    for unit in job.units:
        if reckoner.backed(job, unit).forming[:1] == (unit,):
            proposals.append(propose(reckoner, job, unit))
    if not proposals:
        raise JobError("no unit forms an island", "split", "give one a battery and a board to feed")
    _written(options, job, tuple(change for proposal in proposals for change in proposal.changes))
    if options.json:
        print_json({"job": job.id, "proposals": [asdict(proposal) for proposal in proposals]})
        return FINE
    for proposal in proposals:
        choice = proposal.choice
        print(
            f"{', '.join(proposal.units)}: hold {len(choice.chosen)} circuits, {choice.points:g} "
            f"points{'' if choice.exact else f' (no set is worth more than {choice.most_points:g})'}; "
            f"{choice.running:.2f} of {proposal.limits.continuous:.2f} kVA, "
            f"worst start {choice.peak:.2f} of {proposal.limits.surge:.2f} kVA, "
            f"{choice.energy_kwh:.1f} of {proposal.limits.energy_kwh:.1f} kWh"
        )
        print(f"  backed up: {', '.join(choice.chosen) or 'none'}")
        for name, why in choice.left_out:
            print(f"  left out: {name} ({', '.join(why) or 'others are worth more'})")
        for more in proposal.further:
            print(f"  {more.words} would let in {', '.join(more.gained)}")
    return FINE


def _deal(options: argparse.Namespace, job: Job, reckoner: Reckoner) -> int:
    dealings: tuple[Dealing, ...] = deal_out(reckoner, job)
    _written(options, job, tuple(change for dealing in dealings for change in dealing.changes))
    if options.json:
        print_json({"job": job.id, "boards": [asdict(dealing) for dealing in dealings]})
        return FINE
    for dealing in dealings:
        print(
            f"{dealing.board}: imbalance {dealing.before.imbalance_pct:.1f} to "
            f"{dealing.after.imbalance_pct:.1f} %, neutral {dealing.before.neutral_a:.1f} to "
            f"{dealing.after.neutral_a:.1f} A, {len(dealing.moved)} circuits moved"
        )
        for name, before, after in dealing.moved:
            print(f"  {name}: {before} to {after}")
    if not dealings:
        print("no board stands on several legs")
    return FINE


def _panels(options: argparse.Namespace, job: Job, reckoner: Reckoner) -> int:
    """Circuits dealt between the panels of sources of their own."""
    dealing = deal_panels(reckoner, job)
    if dealing is None:
        raise JobError(
            "fewer than two sources of their own feed panels", "split --panels", "deal the legs with --deal"
        )
    _written(options, job, dealing.changes)
    if options.json:
        print_json({"job": job.id, **asdict(dealing)})
        return FINE
    for (panel, leg), rated, before, after in zip(
        dealing.bins, dealing.rated_kva, dealing.before_kva, dealing.after_kva, strict=True
    ):
        print(f"{panel} {leg}: {before:.2f} to {after:.2f} kVA of {rated:.2f}")
    for name, there, here in dealing.moved:
        print(f"  {name}: {there} to {here}")
    return FINE


def _written(options: argparse.Namespace, job: Job, changes: tuple[Change, ...]) -> None:
    if options.output:
        write_job(edit(job, *changes), Path(options.output), Path(options.job))
