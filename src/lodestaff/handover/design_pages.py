"""Pages that follow from the design: summary, split, diagram, findings, cautions."""

from datetime import date

from lodestaff.catalogue.families import sealed
from lodestaff.commissioning.expect import net_generation_kwh
from lodestaff.commissioning.reading import Status
from lodestaff.commissioning.record import Proof
from lodestaff.energy.calendar import STEP_H
from lodestaff.handover.model import Block, Caution, Diagram, Page, Table, Text
from lodestaff.job import Fact, Job, Role
from lodestaff.quantities import text_of
from lodestaff.quantities.convention import grouped, plain
from lodestaff.reckoning import Moment, Reckoner
from lodestaff.reckoning.figures import YearFigures
from lodestaff.reckoning.findings import findings
from lodestaff.reckoning.generating import generator_words
from lodestaff.register import Register
from lodestaff.topology.questions import inside_cases, shown_states, state_words
from lodestaff.wiring.cautions import all_off

REGISTER_KWH = 100_000.0  # at which a meter's register begins anew; common practice
OUTAGE_ENDS = {
    "held": "the end of the week that was followed",
    "energy": "an empty battery",
    "overload": "an overload",
    "start": "a start the unit can't give",
}


def _fact(name: str, fact: Fact[float], unit: str) -> str:
    value = text_of(fact.value, unit) if fact.value is not None else "unknown"
    return f"{name} {value} ({fact.words()})"


def summary_page(reckoner: Reckoner, job: Job, proof: Proof, register: Register, printed: date) -> Page:
    """What was built, for whom, by whom, what a year brings, and how far it is proven."""
    supply, permission, firm, grid = job.site.supply, job.site.permission, register.firm, job.mains.grid
    facts = "; ".join(
        _fact(name, fact, unit)
        for name, fact, unit in (
            ("service rating", supply.rating_a, "A"),
            ("voltage", supply.voltage_v, "V"),
            ("Ze", supply.ze_ohm, "ohm"),
        )
    )
    built = [
        f"{unit.name} of {text_of(job.sheet_of(unit).rated_kva, 'kVA')} on {unit.phase}" for unit in job.units
    ]
    for bank in job.banks:
        kwh = job.sheets.batteries[bank.sheet].module_kwh * bank.modules
        unit = job.unit(bank.unit)
        count = f"{bank.modules} module{'s' if bank.modules > 1 else ''}"
        inside = sealed(job.sheet_of(unit))
        built.append(
            f"battery of {text_of(kwh, 'kWh')} inside {unit.name}"
            if inside
            else f"battery of {count}, {text_of(kwh, 'kWh')}"
        )
    kwp = sum(job.sheets.modules[face.module].pmp_w * len(face.modules) for face in job.faces) / 1000
    built.append(f"array of {sum(len(face.modules) for face in job.faces)} modules, {plain(kwp, 2)} kWp")
    export = permission.export_kw.value
    allowed = "unknown" if export is None else text_of(export, "kW")
    passed, doubtful = proof.count(Status.PASSED), proof.count(Status.DOUBTFUL)
    left = len(proof.results) - passed - doubtful
    missing = []
    if not firm.name:
        missing.append("the firm's details are not in the register")
    if left:
        missing.append(f"{left} of {len(proof.results)} steps of the procedure are not passed")
    if grid and (permission.state != "granted" or permission.parallel_state != "granted"):
        missing.append(f"{job.pack.word('permission')} is not granted in all its parts")
    address = ", ".join(part for part in (firm.name, firm.address, firm.phone, firm.registration) if part)
    blocks: list[Block] = [
        Text(f"{job.site.place}. {supply.earthing.value or 'Earthing unknown'} supply on "
             f"{', '.join(job.site.phases)}; {facts}."
             if grid else f"{job.site.place}. No grid; {', '.join(job.site.phases)}."),
        Text(f"Built: {'; '.join(built)}."),
        Text(f"By: {address or 'not stated'}."),
        *((Text(f"Permission: export up to {allowed}, {permission.state} {permission.date}; running in "
                "parallel "
                f"{permission.parallel_state} "
                f"{permission.parallel_date}.".replace(" .", ".").replace(" ;", ";")),) if grid else ()),
        Text(f"Proof: {passed} steps passed, {doubtful} doubtful, {left} open or failed."),
        Text(f"Rules: {job.pack.title}, edition {job.pack.edition}. Printed {printed.isoformat()}.", "small"),
        *_year(reckoner, job),
    ]  # fmt: skip
    return Page("summary", job.title, tuple(blocks), tuple(missing))


def _generator(f: YearFigures) -> tuple[str, str, str, str]:
    """What the generator does in the year, as a row."""
    fuel = "unknown" if f.fuel_litres is None else text_of(f.fuel_litres, "l", 0)
    return (
        "Generator runs",
        f"{text_of(f.generator_h, 'h', 0)}, {f.generator_starts} starts",
        "Its fuel",
        fuel,
    )


def _year(reckoner: Reckoner, job: Job) -> list[Block]:
    f, money = reckoner.figures(job), job.tariff.currency
    alone = (
        ("Produced", text_of(f.pv_kwh, "kWh", 0), "Unserved", text_of(f.unserved_kwh, "kWh", 0)),
        ("Asked for by the circuits", text_of(f.load_kwh, "kWh", 0), "Served",
         f"{plain(f.self_sufficiency * 100, 0)} %"),
        ("Curtailed", text_of(f.curtailed_kwh, "kWh", 0), "Battery cycles", f"{plain(f.cycles, 0)}"),
        *([_generator(f)] if f.generator_h > 0 else []),
    )  # fmt: skip
    rows = (
        alone
        if f.off_grid
        else (
            ("Produced", text_of(f.pv_kwh, "kWh", 0), "Bill", f"{grouped(f.bill)} {money}"),
            (
                "Taken by the circuits",
                text_of(f.load_kwh, "kWh", 0),
                "Without array and battery",
                f"{grouped(f.money.without)} {money}",
            ),
            (
                "Imported",
                text_of(f.import_kwh, "kWh", 0),
                "Own sun used on site",
                f"{plain(f.self_consumption * 100, 0)} %",
            ),
            (
                "Exported",
                text_of(f.export_kwh, "kWh", 0),
                "Met without import",
                f"{plain(f.self_sufficiency * 100, 0)} %",
            ),
            ("Curtailed", text_of(f.curtailed_kwh, "kWh", 0), "Battery cycles", f"{plain(f.cycles, 0)}"),
        )
    )
    words = (
        f"Weather: {reckoner.weather(job).source}, a typical year and no record; results of one year differ."
    )
    return [
        Text("The year, simulated at 15 minutes", "head"),
        Table(("A year", "", "", ""), rows, (27, 20, 33, 20), name="Year"),
        Text(words, "small"),
        *(
            (
                Text(
                    f"{text_of(f.past_limit_kwh, 'kWh', 0)} of the export go past the limit, by what keeps "
                    "none; the bill counts nothing for it."
                ),
            )
            if f.past_limit_kwh >= 0.5
            else ()
        ),
        *(Text(line, "small") for line in _meters(reckoner, job)),
    ]


def meter_year(reckoner: Reckoner, job: Job) -> dict[str, tuple[float, float, float]]:
    """What a two-way meter at each unit would count in the simulated year, kWh: out, in, and out less in."""
    series = reckoner.year(job).series
    meters = {}
    for index, unit in enumerate(job.units if job.mains.grid else ()):
        if not reckoner.wiring(job).topology.unit(unit.id).arrays:
            continue  # it generates nothing
        ac_kw = series.pv_ac_kw[index] + series.battery_ac_kw[index]
        out, into = (float(flow.sum()) * STEP_H for flow in (ac_kw.clip(min=0), (-ac_kw).clip(min=0)))
        meters[unit.name] = net_generation_kwh(0.0, out, 0.0, into, REGISTER_KWH)
    return meters


def _meters(reckoner: Reckoner, job: Job) -> list[str]:
    return [
        f"A two-way meter at {name} counts {text_of(out, 'kWh', 0)} out and {text_of(into, 'kWh', 0)} in; "
        + (
            f"what it generates is out less in, {text_of(net, 'kWh', 0)}."
            if net > 0
            else "more goes in than comes out: what it generates can't be read off that meter."
        )
        for name, (out, into, net) in meter_year(reckoner, job).items()
    ]


def split_page(reckoner: Reckoner, job: Job) -> Page:
    """Which circuit goes where in an outage, and how long an outage lasts."""
    rows = []
    for role in Role:
        for c in sorted(job.with_role(role), key=lambda c: -c.running_w):
            starts = text_of(c.start_kva, "kVA") if c.start_kva > c.running_kva else "-"
            measured = "-"
            if c.measured_w.value is not None:
                measured = " ".join(
                    filter(None, (text_of(c.measured_w.value / 1000, "kW"), c.measured_w.date))
                )
            in_outage = "by hand" if role is Role.GRID and not job.mains.grid else str(role)
            rows.append(
                (
                    c.name,
                    in_outage,
                    c.phase,
                    text_of(c.running_w / 1000, "kW"),
                    starts,
                    measured,
                    text_of(c.kwh_year, "kWh", 0),
                    c.known.words(),
                )
            )
    backup = reckoner.asked(job).has_backup
    title = "In an outage" if job.mains.grid and backup else "What the site carries"
    columns = (
        "Circuit",
        title if job.mains.grid and backup else "Is",
        "Phase",
        "Runs",
        "Starts",
        "Measured",
        "A year",
        "Known",
    )
    blocks: list[Block] = [Table(columns, tuple(rows), (22, 12, 7, 11, 11, 14, 11, 12), name="Circuits")]
    hand = [
        finding.text
        for finding in findings(reckoner, job, deep=False, stations=frozenset(["loads"]))
        if finding.rule == "LOAD-LOCK: by hand"
    ]
    blocks += [Text(text) for text in hand]
    blocks += [Text(text) for text in _endurances(reckoner, job)]
    if backup:
        blocks.append(Caution(job.pack.caution("not_emergency")))
    unknown = sum(not circuit.known.firm for circuit in job.circuits)
    missing = (f"{unknown} circuits rest on what was assumed",) if unknown else ()
    return Page("split", title, tuple(blocks), missing)


def _endurances(reckoner: Reckoner, job: Job) -> list[str]:
    """How long each island lasts, in words; without one, that nothing lives."""
    if not reckoner.asked(job).has_backup:
        return ["No backup: nothing here works in an outage."]
    full = None if job.mains.grid else 1.0  # without a grid the question is what a full battery carries
    moment = Moment(month=1, hour=18.0, grid=False, soc=full)
    lines = []
    for unit in reckoner.leads(job):
        outage = reckoner.outage(job, unit, moment)
        shed = any(c.role is Role.SHED for c in reckoner.backed(job, unit).circuits)
        from_when = (
            f"An outage at {moment.words}"
            if job.mains.grid
            else f"From a full battery at {moment.words} {generator_words(job)}, all"
        )
        lasts = (
            f"{text_of(outage.hours, 'h')}"
            if outage.reason != "held"
            else "through the week that was followed"
        )
        end = f", ended by {OUTAGE_ENDS[outage.reason]}" if outage.reason != "held" else ""
        drops = (
            (
                f" Shed-first circuits drop at {plain(job.limits.shed_soc * 100, 0)} % or when the "
                f"unit{'s are' if len(reckoner.backed(job, unit).forming) > 1 else ' is'} overloaded."
            )
            if shed
            else ""
        )
        lines.append(
            f"{from_when} on a middling day lasts {lasts} on {reckoner.island_name(job, unit)}{end}.{drops}"
        )
    return lines


def diagram_page(reckoner: Reckoner, job: Job) -> Page:
    """The diagram, and what each switching state makes of it."""
    rows = []
    topology = reckoner.wiring(job).topology
    inside = inside_cases(topology)
    for answer in (reckoner.wiring(job).answer(state) for state in shown_states(topology)):
        fed = sum(bool(sources) for sources in answer.fed.values())
        live = [name for name in answer.still_live() if name not in inside]
        bonds = "; ".join("+".join(network.bonds) or "none" for network in answer.networks) or "-"
        sources = sorted(set().union(*(answer.live[name] for name in live)) if live else set())
        name = state_words(topology, answer.state.name)
        rows.append(
            (
                name,
                f"{len(live)} of {len(answer.live) - len(inside)}",
                f"{fed} of {len(answer.fed)}",
                bonds,
                ", ".join(sources) or "nothing",
            )
        )
    columns = (
        "State",
        "Live conductors",
        "Circuits fed",
        "Bonds in each live neutral network",
        "Still live from",
    )
    blocks: list[Block] = [
        Text(
            f"{'Grid present' if job.mains.grid else 'On the units alone'}. A conductor carries a line for "
            "each source it is live from.",
            "small",
        ),
        Diagram(),
        Text("Switching states", "head"),
        Table(columns, tuple(rows), (10, 15, 14, 41, 20), name="States"),
        *(
            Caution(f"Bypass: {job.pack.caution('bypass' if job.mains.grid else 'bypass_no_grid')}")
            for _ in range(job.has_bypass)
        ),
        Caution(f"All off: {all_off(job, topology)}"),
    ]
    return Page("diagram", "The diagram", tuple(blocks))
