"""Subcommands for the roof: arrangements of its modules, and the families that could stand on it."""

import argparse
from dataclasses import asdict
from pathlib import Path

from lodestaff.cli.answering import open_job, print_json
from lodestaff.cli.exits import FINE
from lodestaff.cli.output import write_job
from lodestaff.energy.calendar import MONTH_NAMES
from lodestaff.job import edit
from lodestaff.quantities import text_of
from lodestaff.quantities.convention import plain
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning.arranging import Arranged, arranged
from lodestaff.reckoning.records.shade import shaded_modules
from lodestaff.reckoning.roof_families import families_on
from lodestaff.reckoning.shade_by_hour import shade_by_hour


def arrange(options: argparse.Namespace) -> int:
    """The best arrangements; with `-o` one of them is written into a job."""
    job, reckoner = open_job(options)
    arrangement = arranged(reckoner, job)
    if options.output:
        if not 1 <= options.take <= len(arrangement.ways):
            right = f"1 to {len(arrangement.ways)}" if arrangement.ways else "no arrangement fits"
            raise JobError(f"there is no arrangement {options.take}", "--take", right)
        changed = edit(job, *arrangement.ways[options.take - 1].changes)
        write_job(changed, Path(options.output), Path(options.job))
    if options.json:
        print_json({"job": job.id, **asdict(arrangement)})
        return FINE
    _print(arrangement)
    return FINE


def _print(arrangement: Arranged) -> None:
    for number, way in enumerate(arrangement.ways, start=1):
        left = f", {way.left} module{'s' if way.left > 1 else ''} left" if way.left else ""
        print(
            f"{number:2}  {_kwh(way.kwh)} a year, {plain(100 * way.lost_share, 1)} % lost by mismatch and "
            f"limits, {len(way.strings)} home runs{left}"
        )
        for unit, tracker, words in way.strings:
            print(f"      {unit}, {tracker}: {words}")
    if not arrangement.ways:
        print("no arrangement fits")
    of_all = "of all" if arrangement.exact else "the best of"
    print(f"{of_all} {arrangement.looked_at:,} looked at".replace(",", " "))
    stands = f"as it stands: {_kwh(arrangement.now_kwh)} a year"
    print(stands + (f", against {', '.join(arrangement.now_blocks)}" if arrangement.now_blocks else ""))
    for fit in arrangement.fits:
        lengths = f"{fit.least} to {fit.most} modules" if fit.least <= fit.most else "no length fits"
        print(f"  {fit.modules} on {fit.unit}, {fit.tracker}: {lengths} ({fit.why})")


def shade(options: argparse.Namespace) -> int:
    """Each module's year in its shade; with a module its shade by month and hour."""
    job, reckoner = open_job(options)
    if options.module:
        name, _, module = options.module.partition("/")
        face = next((face for face in job.faces if name in (face.id, face.name)), None)
        if face is None:
            right = f"FACE/MODULE, with a face of {', '.join(face.id for face in job.faces)}"
            raise JobError(f"there is no face {name!r}", "--module", right)
        by_hour = shade_by_hour(reckoner, job, face, module)
        if options.json:
            print_json({"job": job.id, "face": face.id, "module": module, **asdict(by_hour)})
            return FINE
        print(f"{face.name} {module}: percent of the beam that reaches it, by hour of standard time")
        hours = [hour for hour in range(24) if any(row[hour] is not None for row in by_hour.beam)]
        print("     " + "".join(f"{hour:>5}" for hour in hours))
        for month, row in zip(MONTH_NAMES, by_hour.beam, strict=True):
            cells = (row[hour] for hour in hours)
            print(f"{month[:3]:5}" + "".join("    ·" if c is None else f"{100 * c:>5.0f}" for c in cells))
        print(f"of an even sky it sees {plain(100 * by_hour.sky, 0)} %")
        return FINE
    rows = [(face, module) for face in job.faces for module in shaded_modules(reckoner, job, face)]
    if options.json:
        told = [{"face": face.id, **asdict(module), "lost_share": module.lost_share} for face, module in rows]
        print_json({"job": job.id, "modules": told})
        return FINE
    for face, module in rows:
        lost = f"{plain(100 * module.lost_share, 1):>5} % to shade in {plain(module.hours, 0)} hours"
        print(f"{face.name:20} {module.id:6} {_kwh(module.kwh):>10} a year alone, {lost}")
    return FINE


def families(options: argparse.Namespace) -> int:
    """The families side by side on the job's modules."""
    from lodestaff.shelf.prices import load_prices

    job, reckoner = open_job(options)
    on_roof = families_on(reckoner, job, load_prices(Path(options.prices)) if options.prices else None)
    if options.json:
        print_json({"job": job.id, **asdict(on_roof)})
        return FINE
    print(
        f"{_kwh(on_roof.unshaded_kwh)} a year without shade, of which shade takes {_kwh(on_roof.shade_kwh)}"
    )
    for family in on_roof.families:
        print(f"{'*' if family.present else ' '} {family.name}: {_kwh(family.kwh_ac)} on AC")
        print(
            f"    lost by mismatch {_kwh(family.lost_mismatch_kwh)}, by conversion "
            f"{_kwh(family.lost_conversion_kwh)}; away while a unit fails "
            f"{plain(100 * family.unit_fails_share, 0)} %, while a module stands open "
            f"{plain(100 * family.module_fails_share, 0)} %"
        )
        many = f"{family.on_roof} converter{'' if family.on_roof == 1 else 's'}"
        print(f"    {many} on the roof, cost {_cost(family.cost)}")
    return FINE


def _cost(cost: float | None) -> str:
    return "open" if cost is None else plain(cost, 0)


def _kwh(kwh: float) -> str:
    return text_of(kwh, "kWh", decimals=0)
