"""Subcommands of sizes, outages over the year, and the best possible."""

import argparse
from dataclasses import asdict
from pathlib import Path

from lodestaff.cli.answering import open_job, print_json
from lodestaff.cli.exits import FINE
from lodestaff.cli.output import write_job
from lodestaff.energy.calendar import MONTH_NAMES
from lodestaff.job import Job, edit
from lodestaff.job.plan import Generator
from lodestaff.quantities import text_of
from lodestaff.quantities.convention import grouped, plain
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning import Moment, Sky


def sizes(options: argparse.Namespace) -> int:
    """The storage map of each unit with a battery."""
    from lodestaff.reckoning.storage import UNITS, outcomes, storage_map
    from lodestaff.shelf.prices import load_prices

    job, reckoner = open_job(options)
    answers = []
    for unit in job.units:
        if job.bank_of(unit) is None:
            continue
        outcome = options.outcome or outcomes(reckoner, job)[1]
        if outcome not in outcomes(reckoner, job):
            words = f"this job knows: {', '.join(outcomes(reckoner, job))}"
            raise JobError(f"no outcome {outcome!r} here", "--outcome", words)
        map_of_sizes = storage_map(
            reckoner,
            job,
            unit,
            with_endurance=outcome == "endurance",
            with_money=outcome == "saved over years",
            prices=load_prices(Path(options.prices) if options.prices else None),
        )
        assert map_of_sizes is not None
        answers.append(
            {
                "unit": unit.id,
                "now": {"hybrid": map_of_sizes.now[0], "modules": map_of_sizes.now[1]},
                "outcomes": list(map_of_sizes.outcomes),
                "permitted_kva": map_of_sizes.permitted_kva,
                "held_kva": map_of_sizes.held_kva,
                "cells": [asdict(cell) for cell in map_of_sizes.cells.values()],
            }
        )
        if not options.json:
            print(
                f"{unit.name}: {outcome}, {UNITS[outcome] or job.tariff.currency}; a cell in brackets is "
                "forbidden by the site"
            )
            print(
                " " * 8 + "".join(f"{map_of_sizes.rated_kva[name]:>10g} kVA" for name in map_of_sizes.hybrids)
            )
            for modules in reversed(map_of_sizes.modules):
                row = [map_of_sizes.cells[name, modules] for name in map_of_sizes.hybrids]
                said = [f"{grouped(cell.value(outcome) or 0.0, 1)}" for cell in row]
                print(
                    f"{modules:>3} mod "
                    + "".join(
                        f"{f'({word})' if cell.barred else word:>14}"
                        for cell, word in zip(row, said, strict=True)
                    )
                )
    if options.json:
        print_json({"job": job.id, "maps": answers})
    return FINE


def outage(options: argparse.Namespace) -> int:
    """One outage for each island that units form."""
    from lodestaff.reckoning.back_again import back_again
    from lodestaff.reckoning.put_over import outages_by_hand

    job, reckoner = open_job(options)
    moment = Moment(options.month, options.hour, Sky(options.sky), grid=False, soc=options.soc)
    results = []
    for unit in reckoner.leads(job):
        blackout = reckoner.outage(job, unit, moment)
        start, after = reckoner.island_energy(job, unit, moment), back_again(reckoner, job, unit, blackout)
        results.append(
            {
                "unit": unit.id,
                "units": [member.id for member in reckoner.backed(job, unit).forming],
                "hours": blackout.hours,
                "reason": blackout.reason,
                "black_start": after.can if after else None,
                "dark_h": after.dark_h if after and after.can else None,
                "energy_start_kwh": start,
                "month": moment.month,
                "hour": moment.hour,
                "sky": str(moment.sky),
            }
        )
        if not options.json:
            ends = "still fed after a week" if blackout.reason == "held" else f"ended by {blackout.reason}"
            alone = "" if job.mains.grid else _by_hand(job)
            if reckoner.generator(job, unit) is not None:
                alone = ", with the generator that starts by itself"
            alone += f"; {after.words}" if after else ""
            print(
                f"{reckoner.island_name(job, unit)}: from {moment.words}, {moment.sky} sky, "
                f"{text_of(start, 'kWh')}: {text_of(blackout.hours, 'h')}, {ends}{alone}"
            )
    put = outages_by_hand(reckoner, job, moment)
    for by_hand in put if not options.json else ():
        kept = (
            f"; kept off: {', '.join(c.name for c in by_hand.hand.kept_off)}" if by_hand.hand.kept_off else ""
        )
        ends = (
            "still fed after a week"
            if by_hand.outage.reason == "held"
            else f"ended by {by_hand.outage.reason}"
        )
        print(
            f"{by_hand.unit}, {by_hand.hand.words}, {len(by_hand.hand.more)} circuits more: "
            f"{text_of(by_hand.outage.hours, 'h')}, {ends}{kept}"
        )
    if options.json:
        rows = [
            {
                "switch": by_hand.hand.part,
                "position": by_hand.hand.position,
                "hours": by_hand.outage.hours,
                "reason": by_hand.outage.reason,
                "more": [c.id for c in by_hand.hand.more],
                "kept_off": [c.id for c in by_hand.hand.kept_off],
            }
            for by_hand in put
        ]
        print_json({"job": job.id, "outages": results, "by_hand": rows})
    elif not results:
        print("no backup: nothing here forms an island in an outage")
    return FINE


def _by_hand(job: Job) -> str:
    """What may feed an island without a grid whose generator no unit starts."""
    there = any(isinstance(part, Generator) for part in job.parts)
    return ", no grid; the generator waits for a hand" if there else ", no grid and no generator"


def ride(options: argparse.Namespace) -> int:
    """How long backed-up circuits last, by month and hour at which an outage begins, of each island."""
    from lodestaff.reckoning.ride_map import ride_map

    job, reckoner = open_job(options)
    maps = [ride_map(reckoner, job, unit) for unit in reckoner.leads(job)]
    if options.json:
        rows = [
            {
                "unit": rides.unit,
                "starts_h": list(rides.starts_h),
                "followed_h": rides.followed_h,
                "hours": rides.hours.tolist(),
                "median_h": rides.median.tolist(),
                "survived": {plain(asked): share for asked, share in rides.survived.items()},
            }
            for rides in maps
        ]
        print_json({"job": job.id, "islands": rows})
        return FINE
    if not maps:
        print("no backup: nothing here forms an island in an outage")
    for rides in maps:
        print(f"{rides.name}: hours that nine of ten outages last, by month and hour of their start")
        print(" " * 4 + "".join(f"{hour:>6}h" for hour in rides.starts_h))
        for month, row in enumerate(rides.hours):
            cells = (
                f">{rides.followed_h:g}" if hours >= rides.followed_h else f"{hours:.1f}" for hours in row
            )
            print(f"{MONTH_NAMES[month][:3]:4}" + "".join(f"{cell:>7}" for cell in cells))
        shares = (f"{100 * share:.0f} % of {text_of(hours, 'h')}" for hours, share in rides.survived.items())
        print(f"outages survived: {', '.join(shares)}")
    return FINE


def best(options: argparse.Namespace) -> int:
    """How far the settings are from the best possible, and the best that were found; `-o` takes them."""
    from lodestaff.reckoning.best import best_possible
    from lodestaff.reckoning.best_settings import best_settings

    job, reckoner = open_job(options)
    if not job.mains.grid or not job.banks:
        if options.json:
            print_json({"job": job.id, "settings": None})
        else:
            print(
                f"no {'battery' if job.mains.grid else 'grid'}: there is no bill to make better by settings"
            )
        return FINE
    possible, settings = best_possible(reckoner, job), best_settings(reckoner, job)
    assert possible is not None
    assert settings is not None
    money, share = job.tariff.currency, possible.reached_by(settings.bill)
    if options.output:
        write_job(edit(job, *settings.changes), Path(options.output), Path(options.job))
    if options.json:
        print_json(
            {
                "job": job.id,
                "currency": money,
                "bill": possible.bill,
                "bill_idle": possible.idle,
                "bill_best": possible.best,
                "bound": possible.bound,
                "joined": possible.joined,
                "reached": possible.reached,
                "settings": {
                    "bill": settings.bill,
                    "reached": share,
                    "words": list(settings.words),
                    "changes": {change.path: change.value for change in settings.changes},
                },
            }
        )
        return FINE
    print(
        f"bill {text_of(possible.bill, money)}; batteries idle {text_of(possible.idle, money)}; "
        f"best {text_of(possible.best, money)}, {possible.words}"
    )
    if possible.reached is None or share is None:
        print("a battery could save nothing here, however it is set")
        return FINE
    print(f"your settings reach {100 * possible.reached:.1f} % of what a battery could save")
    if settings.changes:
        print(f"best settings: {text_of(settings.bill, money)}, {100 * share:.1f} %")
        for words in settings.words:
            print(f"  {words}")
    else:
        print("no better settings were found")
    return FINE


def years(options: argparse.Namespace) -> int:
    """Money over years: what ages and is replaced, against what stood there before, and when it pays back."""
    from lodestaff.reckoning.costing import design_cost
    from lodestaff.reckoning.over_years import over_years
    from lodestaff.shelf.prices import load_prices

    job, reckoner = open_job(options)
    if not job.mains.grid:
        if options.json:
            print_json({"job": job.id, "years": None})
        else:
            print("no grid: there is no bill over years")
        return FINE
    balance, money = over_years(reckoner, job), job.tariff.currency
    book = load_prices(Path(options.prices) if options.prices else None)
    priced = design_cost(reckoner, job, book)
    banks = {bank.sheet for bank in job.banks}
    again = [line.total for line in priced.lines if line.item in banks]
    anew = sum(each for each in again if each is not None) if None not in again and again else None
    paid = priced.gross if priced.gross > 0 and not priced.open else None
    back = balance.pays_back(paid) if paid is not None else None
    if options.json:
        print_json(
            {
                "job": job.id,
                "currency": money,
                "saved": balance.saved,
                "replacements": balance.replacements,
                "replacement_cost": anew,
                "cost": paid,
                "cost_open": list(priced.open),
                "pays_back_years": back,
                "assumed": list(balance.assumed),
                "years": [{**asdict(row), "saving": row.saving} for row in balance.rows],
            }
        )
        return FINE
    print("year  battery   sun       before         with        saved")
    for row in balance.rows:
        print(
            f"{row.year:>4}  {100 * row.health:>5.0f} %  {100 * row.sun_share:>3.0f} %  "
            f"{grouped(row.bill_before):>9}  {grouped(row.bill):>11}  {grouped(row.present):>11}"
            + ("  new batteries" if row.replaced else "")
        )
    print(
        f"saved in all, today's money: {text_of(balance.saved, money)}; assumed: {'; '.join(balance.assumed)}"
    )
    if paid is None:
        print(
            "what it costs is open: prices are missing"
            + (f" ({', '.join(priced.open)})" if priced.open else "")
        )
    else:
        when = "never within these years" if back is None else f"after {back:.1f} years"
        print(f"it costs {text_of(paid, money)}; paid back {when}")
    if balance.replacements:
        price = "an open price" if anew is None else text_of(anew, money)
        print(
            f"batteries are new {balance.replacements} more time(s), at {price} before tax, not in the sums"
        )
    return FINE


def coupling(options: argparse.Namespace) -> int:
    """DC- against AC-coupled on this job: flows, losses and the bill of both."""
    from lodestaff.reckoning.coupling import coupling as compared
    from lodestaff.reckoning.coupling import rows_of

    job, reckoner = open_job(options)
    pair = compared(reckoner, job)
    rows = rows_of(pair, job)
    if options.json:
        plain_rows = [{"name": name, "dc": dc, "ac": ac, "unit": unit} for name, dc, ac, unit in rows]
        print_json({"job": job.id, "now": pair.now, "currency": job.tariff.currency, "rows": plain_rows})
        return FINE
    print(f"{'':34}{'DC-coupled':>14}{'AC-coupled':>14}   (it is {pair.now}-coupled)")
    for name, dc, ac, unit in rows:
        print(f"{name:34}{text_of(dc, unit, 0):>14}{text_of(ac, unit, 0):>14}")
    return FINE
