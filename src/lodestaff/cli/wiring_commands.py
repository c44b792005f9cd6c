"""Subcommands of the wiring and of new jobs: switching states, what hands can do next, adjustments,
starting points."""

import argparse
from dataclasses import asdict
from pathlib import Path
from typing import Any

from lodestaff.cli.answering import open_job, open_wiring, print_json
from lodestaff.cli.exits import FINE
from lodestaff.cli.output import write_job
from lodestaff.job import Change, Job, edit, load_job
from lodestaff.quantities.disk import read_whole
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning.passing import passing
from lodestaff.reckoning.wired import Wiring
from lodestaff.samples import KIND_OF, sample_names, sample_path
from lodestaff.templates.kinds import KINDS
from lodestaff.topology import Answer, State, Topology, answer, build
from lodestaff.topology.flows import Flows
from lodestaff.topology.moves import failures, next_moves
from lodestaff.topology.questions import inside_cases, shown_states, state_words
from lodestaff.wiring.isolation import isolation
from lodestaff.wiring.reordering import reordered


def wire(options: argparse.Namespace) -> int:
    """What is live from what in each state; with `--moves` what hands can do next; with `--failures` what
    is left."""
    job, wiring = open_wiring(options)
    topology = wiring.topology
    if options.failures:
        return _failures(options, job, topology)
    states = _states(options, topology)
    answers = [(state, answer(topology, state)) for state in states]
    if options.moves:
        return _moves(options, job, topology, answers[0][0])
    if options.json:
        print_json(
            {"job": job.id, "states": [_state(job, wiring, state, outcome) for state, outcome in answers]}
        )
        return FINE
    for state, outcome in answers:
        _print_state(topology, state, outcome, passing(wiring, job, outcome))
    return FINE


def _states(options: argparse.Namespace, topology: Topology) -> list[State]:
    usual = shown_states(topology)
    names = [state_words(topology, state.name) for state in usual]
    if options.state is not None and options.state not in names:
        raise JobError(f"no state {options.state!r}", "--state", f"this installation has {', '.join(names)}")
    states = [state for state, name in zip(usual, names, strict=True) if options.state in (None, name)]
    switches = {part.id: part for part in topology.switches()}
    for text in options.set:
        part, _, position = text.partition("=")
        if part not in switches or position not in switches[part].positions:
            likely = {part: switches[part]} if part in switches else switches
            choices = "; ".join(f"{name}={'|'.join(other.positions)}" for name, other in likely.items())
            raise JobError(f"{text!r} is no switch and position", "--set", f"choose from {choices}")
        states = [state.with_hand(part, position) for state in states]
    return states


def _state(job: Job, wiring: Wiring, state: State, outcome: Answer) -> dict[str, Any]:
    topology, flow = wiring.topology, passing(wiring, job, outcome)
    return {
        "state": state_words(topology, state.name),
        "grid_present": state.grid_present,
        "positions": outcome.positions,
        "units": outcome.unit_modes,
        "live": {name: sorted(kinds) for name, kinds in outcome.live.items()},
        "sources": {name: sorted(parts) for name, parts in outcome.sources.items()},
        "fed": {name: sorted(kinds) for name, kinds in outcome.fed.items()},
        "neutral_networks": [
            {"sources": sorted(n.sources), "bonds": list(n.bonds), "behind_rcd": list(n.behind_rcd)}
            for n in outcome.networks
        ],
        "hazards": [{"kind": hazard.kind, "leads": list(hazard.leads)} for hazard in outcome.hazards],
        "through_a": {name: asdict(other) for name, other in flow.conductors.items()},
        "transformers": flow.seen,
    }


def _print_state(topology: Topology, state: State, outcome: Answer, flow: Flows) -> None:
    fed = [name for name, kinds in outcome.fed.items() if kinds]
    inside = inside_cases(topology)  # nothing that a hand reaches
    live = [name for name in outcome.still_live() if name not in inside]
    print(
        f"{state_words(topology, state.name)}: {len(live)} of {len(outcome.live) - len(inside)} conductors "
        f"live; {len(fed)} of {len(outcome.fed)} circuits fed"
    )
    modes = [f"{topology.parts[name].name} {mode}" for name, mode in outcome.unit_modes.items()]
    print(f"  units: {', '.join(modes)}")
    for network in outcome.networks:
        print(
            f"  neutral live from {', '.join(sorted(network.sources))}: "
            f"{'; '.join(network.bonds) or 'no bond'}"
        )
    for hazard in outcome.hazards:
        print(f"  {hazard.kind}: {' and '.join(hazard.leads)}")
    for ct in topology.cts:
        seen = flow.seen[ct.id]
        turned = sum(sign < 0 for sign in seen.values())
        print(f"  {ct.name} sees {len(seen)} flows{f', {turned} the wrong way round' if turned else ''}")
    if len(live) <= 12:
        for name in live:
            print(f"  live from {', '.join(sorted(outcome.live[name]))}: {name}")


def _moves(options: argparse.Namespace, job: Job, topology: Topology, state: State) -> int:
    moves = next_moves(topology, state)
    if options.json:
        print_json(
            {
                "job": job.id,
                "state": state_words(topology, state.name),
                "moves": [asdict(move) for move in moves],
            }
        )
        return FINE
    print(f"from {state_words(topology, state.name)}:")
    for move in moves:
        words = [f"darkens {len(move.darkened)} circuits"] if move.darkened else []
        words += [f"feeds {len(move.fed)} circuits"] if move.fed else []
        words += [f"{move.made_live} conductors become live"] if move.made_live else []
        words += [f"{move.made_dead} become dead"] if move.made_dead else []
        words += [f"MEETING: {' and '.join(hazard.leads)}" for hazard in move.hazards]
        print(
            f"  {topology.parts[move.part].name} to {move.position}: {', '.join(words) or 'nothing changes'}"
        )
    return FINE


def _failures(options: argparse.Namespace, job: Job, topology: Topology) -> int:
    all_failures = failures(topology)
    kwh = {bank.id: bank.modules * job.sheets.batteries[bank.sheet].module_kwh for bank in job.banks}
    if options.json:
        print_json(
            {
                "job": job.id,
                "failures": [
                    {**asdict(island), "battery_kwh": sum(kwh[b] for b in island.batteries)}
                    for island in all_failures
                ],
            }
        )
        return FINE
    for island in all_failures:
        left = sum(kwh[battery] for battery in island.batteries)
        print(
            f"{topology.parts[island.unit].name} fails in an outage: {len(island.fed)} circuits stay fed, "
            f"{len(island.lost)} are lost; {left:g} kWh of battery left"
        )
    return FINE


# --- adjustments -----------------------------------------------------------------------------------------
def adjust(options: argparse.Namespace) -> int:
    """List, add or take out the changes made by hand on the wiring."""
    job = load_job(Path(options.job))
    kept = [adjustment.model_dump(mode="json") for adjustment in job.adjustments]
    if options.remove:
        if options.remove not in [adjustment["id"] for adjustment in kept]:
            names = ", ".join(adjustment["id"] for adjustment in kept) or "none"
            raise JobError(f"no adjustment {options.remove!r}", "--remove", f"there are: {names}")
        kept = [adjustment for adjustment in kept if adjustment["id"] != options.remove]
    if options.add:
        kept.append(_typed(options.add))
    if options.step:
        job = edit(job, _put(job, options.step, options.to, options.why or ""))
    if options.add or options.remove:
        job = edit(job, Change("adjustments", kept))
    if options.add or options.remove or options.step:
        write_job(job, Path(options.output or options.job), Path(options.job))
    lost = {orphan.id: orphan.missing for orphan in build(job).orphans}
    if options.json:
        rows = [
            {**adjustment.model_dump(mode="json"), "lost": lost.get(adjustment.id, "")}
            for adjustment in job.adjustments
        ]
        order = [move.model_dump(mode="json") for move in job.reorderings]
        print_json({"job": job.id, "adjustments": rows, "reorderings": order})
        return FINE
    for adjustment in job.adjustments:
        rest = {
            key: value
            for key, value in adjustment.model_dump(mode="json").items()
            if key not in ("id", "kind")
        }
        words = ", ".join(f"{key} {value}" for key, value in rest.items())
        gone = f"; LOST: {lost[adjustment.id]}" if adjustment.id in lost else ""
        print(f"{adjustment.id}: {adjustment.kind}, {words}{gone}")
    if not job.adjustments:
        print("no adjustments")
    return FINE


def _put(job: Job, part: str, place: int | None, why: str) -> Change:
    """A step of shutting down at another place, by the part that it works; without a place at its own."""
    topology = build(job)
    order = [step.part for step in isolation(job, topology).shutdown]
    if part not in order:
        raise JobError(f"no step of shutting down works {part!r}", "--step", f"steps: {', '.join(order)}")
    return reordered(job, topology, order.index(part), "" if place is None else f"{place}: {why}")


LISTS = ("on", "circuits")
FLAGS = ("two_way", "automatic")


def _typed(words: list[str]) -> dict[str, Any]:
    """KIND key=value ... as an adjustment; lists are joined by commas."""
    if "=" in words[0]:
        raise JobError(
            f"{words[0]!r} is no kind", "--add", "insert, move ct, bypass, intercept or board comes first"
        )
    fields: dict[str, Any] = {"kind": words[0]}
    for word in words[1:]:
        key, equals, value = word.partition("=")
        if not equals:
            raise JobError(f"{word!r} has no value", "--add", "write key=value, as in into=hybrid:grid")
        fields[key] = value.split(",") if key in LISTS else value == "yes" if key in FLAGS else value
    return fields


# --- new jobs --------------------------------------------------------------------------------------------
def new(options: argparse.Namespace) -> int:
    """A job from what stands there and what is wanted; a kind of system is a starting point."""
    from lodestaff.reckoning.cabling import with_cables
    from lodestaff.reckoning.reckoner import Reckoner
    from lodestaff.templates import KINDS, compose
    from lodestaff.templates.typed import changed, choices

    if options.choices:
        rows = choices()
        if options.json:
            print_json({"choices": rows, "kinds": {letter: point.words for letter, point in KINDS.items()}})
            return FINE
        for row in rows:
            print(f"{row['key']:18} {row['words']}: {row['values']}")
        for letter, point in KINDS.items():
            print(f"--kind {letter}: {point.words}")
        return FINE
    if not options.output:
        raise JobError("no file to write", "new", "give -o FILE, or --choices to see what can be chosen")
    letter = (options.kind or "").upper()
    if letter and letter not in KINDS:
        raise JobError(f"no kind {options.kind!r}", "--kind", f"kinds: {', '.join(KINDS)}")
    job = compose(changed(KINDS[letter].wanted if letter else None, options.set))
    job = with_cables(Reckoner(), job)
    target = Path(options.output)
    write_job(job, target)
    wiring = Wiring(build(job))
    if options.json:
        print_json(
            {
                "job": job.id,
                "file": str(target),
                "parts": len(wiring.topology.parts),
                "states": [
                    state_words(wiring.topology, state.name) for state in shown_states(wiring.topology)
                ],
            }
        )
    else:
        print(f"{target}: {job.title}, {len(job.units)} units, {len(job.circuits)} circuits")
    return FINE


def samples(options: argparse.Namespace) -> int:
    """The jobs that ship with the program."""
    rows = []
    for name in sample_names():
        job = load_job(sample_path(name))
        kind = KINDS[KIND_OF[name]]
        rows.append(
            {
                "name": name,
                "title": job.title,
                "pack": job.pack.name,
                "file": str(sample_path(name)),
                "kind": kind.letter,
                "kind_words": kind.words,
            }
        )
    if options.json:
        print_json(rows)
        return FINE
    for row in rows:
        print(f"{row['name']:28} {row['pack']:4} {row['kind']}  {row['title']}")
    return FINE


def edition(options: argparse.Namespace) -> int:
    """Whether a newer edition of the job's rule pack is there, and what becomes otherwise by it; `-o` takes
    it."""
    from lodestaff.catalogue.editions import newer_edition

    job = load_job(Path(options.job))
    newer = newer_edition(job.pack)
    if options.output and newer is not None:
        made = edit(job, Change("pack", newer.pack.model_dump(mode="json")))
        write_job(made, Path(options.output), Path(options.job))
    rows = newer.unlike if newer is not None else ()
    if options.json:
        print_json(
            {
                "pack": job.pack.name,
                "edition": job.pack.edition,
                "newer": newer and newer.pack.edition,
                "differences": [asdict(row) for row in rows],
                "written": options.output if newer else None,
            }
        )
        return FINE
    if newer is None:
        print(f"{job.pack.edition} is the edition that there is")
        return FINE
    print(f"{newer.pack.edition} in place of {job.pack.edition}: {len(rows)} differences")
    for row in rows:
        print(f"{row.kind:8} {row.name:32} {row.before or 'none'} -> {row.after or 'none'}")
    return FINE


def horizon(options: argparse.Namespace) -> int:
    """The far horizon of a file, or the job's own, and what it takes of a year."""
    from lodestaff.energy.horizon import read_horizon

    job, reckoner = open_job(options)
    rows = [point.model_dump() for point in job.site.horizon]
    if options.file:
        path = Path(options.file)
        points = read_horizon(read_whole(path), path.name, options.zero or "")
        rows = [{"azimuth_deg": azimuth, "elevation_deg": elevation} for azimuth, elevation in points]
    behind, free = edit(job, Change("site/horizon", rows)), edit(job, Change("site/horizon", []))
    if options.output:
        write_job(behind, Path(options.output), Path(options.job))
    without, kwh = reckoner.figures(free).pv_kwh, reckoner.figures(behind).pv_kwh
    if options.json:
        years = {"pv_kwh": kwh, "pv_without_kwh": without}
        print_json({"job": job.id, "points": rows, **years, "file": options.output})
        return FINE
    highest = max(rows, key=lambda row: row["elevation_deg"], default=None)
    at = f", highest {highest['elevation_deg']:g} at {highest['azimuth_deg']:g} degrees" if highest else ""
    print(f"{len(rows)} points{at}: {kwh:.0f} kWh a year, {without:.0f} without it")
    return FINE
