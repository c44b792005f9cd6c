"""The handful of figures that each station's decision turns on."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import wraps

from lodestaff.checks import Finding
from lodestaff.quantities import Figure, Input, Provenance, Source, text_of
from lodestaff.quantities.convention import grouped, plain
from lodestaff.reckoning.figures import YearFigures
from lodestaff.reckoning.generating import generator_words
from lodestaff.reckoning.night_charge import night_charge
from lodestaff.reckoning.put_over import HandOutage
from lodestaff.reckoning.results import Results

SPREAD = 0.005  # of a year's bill: less is nothing, for another year would move it more (common practice)
SIMULATED = Source("simulated year at 15 minutes", Provenance.DERIVED)


@dataclass(frozen=True)
class Reading:
    """One large figure of a station: its value, what it is held against or part of, and how that stands."""

    name: str
    figure: Figure
    beside: str
    status: str
    share: float  # of its limit where it has one, else of the whole that it is part of
    limited: bool = False
    better_up: bool = False
    finding: Finding | None = None
    quantity: str = ""  # what it is of where no finding says so
    said: str = ""  # in place of the number, where that is nothing within the spread
    owner: str = ""  # whose it is where no finding says so

    @property
    def key(self) -> tuple[str, str, str]:
        """What names this figure alone in a job: its rule or quantity, whose it is, its unit of measure."""
        rule, owner = (self.finding.rule, self.finding.owner) if self.finding else (self.quantity, self.owner)
        return rule, owner, self.figure.unit

    @property
    def text(self) -> str:
        return self.said or text_of(self.figure.value, self.figure.unit)


Readings = Callable[["Results"], list[Reading]]


def on_the_place(function: Readings) -> Readings:
    """Figures of the simulated year say so where the place that they rest on is only assumed."""

    @wraps(function)
    def read(results: Results) -> list[Reading]:
        known = results.job.site.place_known
        readings = function(results)
        return readings if known.firm else [_assumed(reading, known.words()) for reading in readings]

    return read


def _assumed(reading: Reading, known: str) -> Reading:
    if reading.figure.source is not SIMULATED:
        return reading
    note = f"{reading.figure.note} The place that it rests on is {known}.".strip()
    figure = replace(reading.figure, note=note)
    return replace(reading, figure=figure, status="open" if reading.status == "passed" else reading.status)


def of_rule(results: Results, rule: str) -> list[Finding]:
    return [finding for finding in results.findings if finding.rule == rule]


def least_margin(findings: list[Finding]) -> Finding | None:
    """The finding with the least margin relative to its limit."""
    sized = [finding for finding in findings if finding.limit and finding.margin is not None]
    return min(sized, key=lambda reading: (reading.margin or 0.0) / (reading.limit or 1.0), default=None)


def from_finding(name: str, finding: Finding, better_up: bool = False) -> Reading:
    """A reading of a finding, held against its limit."""
    limit = finding.limit or 0.0
    assert finding.figure is not None
    word = "needed" if better_up else "of"
    beside = f"{word} {text_of(limit, finding.unit)}" if limit > 0 or not better_up else ""
    return Reading(
        name,
        finding.figure,
        beside=beside,
        status=finding.status,
        share=finding.value / limit if limit > 0 else 0.0,
        limited=True,
        better_up=better_up,
        finding=finding,
    )


def _generator_words(f: YearFigures) -> str:
    """What a generator does in the year, in a line."""
    if f.generator_h <= 0:
        return "No generator runs in this year."
    fuel = "its fuel isn't known" if f.fuel_litres is None else text_of(f.fuel_litres, "l", 0)
    return (
        f"A generator runs {text_of(f.generator_h, 'h', 0)} in {f.generator_starts} starts and gives "
        f"{text_of(f.generator_kwh, 'kWh', 0)}; {fuel}."
    )


def _unserved(results: Results) -> Reading:
    """Without a grid: what circuits ask for and neither sun nor battery gives."""
    f = results.figures
    figure = Figure(
        "Unserved in a year",
        f.unserved_kwh,
        unit="kWh",
        formula="asked for by circuits and units − given by sun, battery and generator",
        inputs=(Input("asked for by circuits", f.load_kwh, "kWh"),),
        source=SIMULATED,
        note=_generator_words(f),
    )
    share = f.unserved_kwh / f.load_kwh if f.load_kwh else 0.0
    return Reading(
        "Unserved, a year",
        figure,
        f"generator {text_of(f.generator_h, 'h', 0)}" if f.generator_h > 0 else generator_words(results.job),
        "warns" if share > 0.001 else "passed",
        min(1.0, share),
        quantity="unserved",
    )


def _bill(results: Results) -> Reading:
    if results.figures.off_grid:
        return _unserved(results)
    money, currency = results.figures.money, results.job.tariff.currency
    past = results.figures.past_limit_kwh
    figure = Figure(
        "Bill of a year",
        money.bill,
        unit=currency,
        formula="import x price − export x price + standing charge",
        inputs=(
            Input("import", money.import_cost, currency),
            Input("export", money.export_income, currency),
            Input("standing", money.standing, currency),
            Input("without array and battery", money.without, currency),
        ),
        source=SIMULATED,
        note=f"{text_of(past, 'kWh')} of export go past the limit, by what keeps none, and earn nothing."
        if past > 0
        else "",
    )
    share = min(1.0, max(0.0, money.bill / money.without)) if money.without > 0 else 0.0
    return Reading(
        "Bill, a year", figure, f"without {grouped(money.without)}", "passed", share, quantity="bill"
    )


ENDS = {
    "held": "still fed after a week",
    "energy": "ends with an empty battery",
    "overload": "ends by overload",
    "start": "ends by a start the unit can't give",
}


def _lasts(results: Results) -> Reading | None:
    if not results.outages:
        return None
    view = min(results.outages, key=lambda outage: outage.outage.hours)
    wanted = results.job.wishes.outage_h
    outage = view.outage
    figure = Figure(
        f"An outage from {results.moment.words}",
        outage.hours,
        unit="h",
        formula="backed-up circuits in steps of 15 minutes until the battery is at its floor, an overload "
        "or a start trips the unit",
        inputs=(
            Input("in the battery", view.start_kwh, "kWh"),
            Input("floor", view.floor_soc * 100, "%"),
            Input("end", ENDS[outage.reason]),
            Input("sky", str(results.moment.sky)),
            *((Input("after it", view.after.words),) if view.after is not None else ()),
        ),
        source=SIMULATED,
        note="Circuits that run in the same quarter hour are taken to run together.",
    )
    bad = outage.hours < wanted
    status = "blocks" if outage.reason in ("overload", "start") and bad else "warns" if bad else "passed"
    return Reading(
        f"Lasts from {results.moment.words.split()[-1]}",
        figure,
        beside=f"needed {text_of(wanted, 'h')}",
        status=status,
        share=outage.hours / wanted,
        limited=True,
        better_up=True,
        quantity="lasts",
    )


def _lasts_by_hand(results: Results, by_hand: HandOutage) -> Reading:
    """How long it lasts where a switch is put over: what hangs on the units then is left on."""
    outage, kept = by_hand.outage, ", ".join(c.name for c in by_hand.hand.kept_off)
    figure = Figure(
        f"An outage from {results.moment.words}, {by_hand.hand.words}",
        outage.hours,
        unit="h",
        formula="as without it, with all that then hangs on the units and is left on",
        inputs=(
            Input("in the battery", by_hand.start_kwh, "kWh"),
            Input("more circuits", float(len(by_hand.hand.more) - len(by_hand.hand.kept_off))),
            Input("kept off", kept or "none"),
            Input("end", ENDS[outage.reason]),
        ),
        source=SIMULATED,
    )
    return Reading(
        f"Lasts with {by_hand.hand.name}",
        figure,
        beside=f"{len(by_hand.hand.more)} circuits more",
        status="passed" if outage.reason in ("held", "energy") else "warns",
        share=min(1.0, outage.hours / results.job.wishes.outage_h),
        better_up=True,
        quantity="lasts by hand",
        owner=by_hand.hand.part,
    )


@on_the_place
def loads_readings(results: Results) -> list[Reading]:
    """Continuous, worst start, night energy, endurance, money."""
    readings = [
        from_finding("Backed up together", finding) for finding in of_rule(results, "LOAD-CONT: held")
    ]
    readings += [from_finding("Worst start", finding) for finding in of_rule(results, "LOAD-SURGE: start")]
    readings += [from_finding("Night energy", finding) for finding in of_rule(results, "LOAD-ENERGY")]
    lasts = _lasts(results)
    by_hand = [_lasts_by_hand(results, other) for other in results.by_hand]
    promised = [_promise(results)] if lasts and not results.figures.off_grid else []
    return readings + ([lasts] if lasts else []) + [*by_hand, *promised, _bill(results)]


def _promise(results: Results) -> Reading:
    """What it costs a year to hold the present split for the promised hours in every month."""
    job, soc = results.job, results.promise_soc
    currency = job.tariff.currency
    inputs = (
        Input("promised", job.wishes.outage_h, "h", job.wishes.known.words()),
        Input("reserve now", job.limits.reserve_soc * 100, "%"),
        Input(
            "reserve needed",
            "more than the battery holds" if soc is None else soc * 100,
            "" if soc is None else "%",
        ),
    )
    cost = float("nan") if results.promise_cost is None else results.promise_cost
    figure = Figure(
        "Keeping the promise of the outage hours",
        cost,
        unit=currency,
        formula="bill with the reserve that the backed-up circuits need − bill now",
        inputs=inputs,
        source=SIMULATED,
        note="Backed-up circuits only, in every month, in 19 of 20 outages.",
    )
    beside = "not with this battery" if soc is None else f"reserve {plain(soc * 100, 0)} %"
    return Reading(
        "Cost of the reserve, a year",
        figure,
        beside,
        "warns" if soc is None else "passed",
        min(1.0, soc or 1.0),
        quantity="promise",
        said="nothing" if abs(cost) < SPREAD * abs(results.figures.bill) else "",
    )


@on_the_place
def limits_readings(results: Results) -> list[Reading]:
    """Money, endurance of the reserve, what is lost, cycles, self-sufficiency, the worth of a night
    charge."""
    f = results.figures
    readings = [_bill(results)]
    readings += [
        from_finding("Reserve alone, worst month", finding, True)
        for finding in of_rule(results, "LIM-RESERVE")
    ]
    lost = f.curtailed_kwh + f.clipped_kwh
    produced = f.pv_kwh + lost
    readings.append(
        Reading(
            "Sun lost",
            Figure(
                "Curtailed and clipped",
                lost,
                unit="kWh",
                formula="sun that had nowhere to go + above the unit's rating",
                inputs=(Input("curtailed", f.curtailed_kwh, "kWh"), Input("clipped", f.clipped_kwh, "kWh")),
                source=SIMULATED,
            ),
            f"{plain(lost / produced * 100 if produced else 0, 1)} % of the sun",
            "passed",
            min(1.0, lost / produced if produced else 0),
            quantity="sun lost",
        )
    )
    readings.append(
        Reading(
            "Served" if f.off_grid else "Met without import",
            Figure(
                "Served by sun and battery" if f.off_grid else "Self-sufficiency",
                f.self_sufficiency * 100,
                unit="%",
                formula="1 − unserved / asked for" if f.off_grid else "1 − import / load",
                inputs=(
                    Input("unserved", f.unserved_kwh, "kWh")
                    if f.off_grid
                    else Input("import", f.import_kwh, "kWh"),
                    Input("load", f.load_kwh, "kWh"),
                ),
                source=SIMULATED,
            ),
            generator_words(results.job)
            if f.off_grid
            else f"own sun used {plain(f.self_consumption * 100, 0)} %",
            "passed",
            max(0.0, min(1.0, f.self_sufficiency)),
            better_up=True,
            quantity="self-sufficiency",
        )
    )
    readings.append(
        Reading(
            "Cycles, a year",
            Figure(
                "Full cycles of the usable energy",
                f.cycles,
                unit="",
                formula="energy drawn / usable energy",
                inputs=(Input("out at the DC bus", f.battery_out_kwh, "kWh"),),
                source=SIMULATED,
            ),
            f"{text_of(f.battery_loss_kwh, 'kWh', 0)} lost in it",
            "passed",
            min(1.0, f.cycles / 365),
            quantity="cycles",
        )
    )
    if (charge := _night_charge(results)) is not None:
        readings.append(charge)
    return readings


def _night_charge(results: Results) -> Reading | None:
    """What one cycle charged in the cheap hours gains; None where there are none."""
    if results.cheap_hours is None:
        return None
    figure, above = night_charge(results.job, results.cheap_hours)
    return Reading(
        "A night charge gains",
        figure,
        f"pays above {plain(above, 2)}",
        "passed" if figure.value > 0 else "warns",
        0.0,
        quantity="night charge",
    )
