"""The owner's part: what stands there, what it does over day and year, what to do when the grid fails, in
plain words. Nothing is said of what a kind doesn't have."""

from lodestaff.catalogue.families import sealed
from lodestaff.energy.calendar import MONTH_NAMES, STEP_H, month_of_step
from lodestaff.handover.built_page import photos_of
from lodestaff.handover.model import Block, Caution, Chart, Diagram, Page, Picture, Series, Table, Text
from lodestaff.handover.owner_steps import doing_page, door_pages
from lodestaff.job import Job, Role, Unit
from lodestaff.quantities import text_of
from lodestaff.quantities.convention import grouped, plain
from lodestaff.reckoning import Moment, Reckoner
from lodestaff.reckoning.agreed import agreed
from lodestaff.reckoning.back_again import starts_again
from lodestaff.reckoning.flows import DayFlows, mean_flows
from lodestaff.reckoning.put_over import hands, outages_by_hand
from lodestaff.register import Register
from lodestaff.topology import Topology
from lodestaff.topology.questions import asked, has_generator

SHORT = tuple(name[:3] for name in MONTH_NAMES)
WEEK_H, LEAST_KW = 168.0, 0.01
HOURS = tuple(f"{hour % 24}" for hour in range(12, 36))
CARE = (
    "Keep the room about each unit free and its vents open; put nothing on it, hang nothing over it.",
    "Look at the display once a month: it should say what stands under 'What it should read'.",
    "Press the test button of each residual-current device as often as is printed on it.",
    "After a storm look at the modules from the ground. Nobody climbs up to them: ask us.",
)  # common practice, no source
NEVER = (
    "Never open a unit, a battery or a connector of the modules: they stay live with everything off.",
    "Never pull a solar connector apart in daylight.",
    "Never pour water on a battery or a unit that smokes: leave the room, close the door, call the fire "
    "service and say that there is a battery and solar modules.",
    "Never drill, dig or nail where the labels show the solar cables.",
)  # common practice, no source
ALWAYS = "They give power whenever there is light and can't be switched off."
NEVER_PLUG = "Never plug a generator into a socket of the building."


def owner_pages(reckoner: Reckoner, job: Job, register: Register) -> tuple[Page, ...]:
    """All pages of the owner's part."""
    topology = reckoner.wiring(job).topology
    questions = asked(topology)
    lasts: tuple[Page, ...] = ()
    if questions.has_backup and reckoner.leads(job):
        lasts = (outage_page(reckoner, job, topology),)
    return (
        what_page(job, topology),
        days_page(reckoner, job),
        year_page(reckoner, job),
        *lasts,
        doing_page(job, topology),
        care_page(reckoner, job),
        *door_pages(job, topology, register),
    )


# --- what you have ---------------------------------------------------------------------------------------
def what_page(job: Job, topology: Topology) -> Page:
    """Each thing with what it does, and the installation in one picture."""
    rows = tuple(_things(job, topology))
    table = Table(("What", "What it does"), rows, (34, 66), name="What you have")
    photos = [photo for thing in job.site.found for photo in thing.photos][:2]
    before = tuple(Picture(photo, "As it stood when we first came") for photo in photos)
    pictures = photos_of(job, [""]) or before
    return Page(
        "owner", f"Your installation: {job.title}", (table, Diagram(simple=True), *pictures), part="owner"
    )


def _things(job: Job, topology: Topology) -> list[tuple[str, str]]:
    modules = sum(len(face.modules) for face in job.faces)
    rows: list[tuple[str, str]] = []
    if modules:
        kwp = sum(job.sheets.modules[face.module].pmp_w * len(face.modules) for face in job.faces) / 1000
        where = ", ".join(face.name for face in job.faces if face.modules)
        rows.append((f"{modules} solar modules, {plain(kwp, 2)} kWp", f"On {where}. {ALWAYS}"))
    rows += [(unit.name, _unit_words(job, unit)) for unit in job.units]
    for bank in job.banks:
        unit, sheet = job.unit(bank.unit), job.sheets.batteries[bank.sheet]
        usable = (sheet.top_soc - sheet.floor_soc) * sheet.module_kwh * bank.modules * bank.state_of_health
        inside = f" It sits inside {unit.name}." if sealed(job.sheet_of(unit)) else ""
        share = plain(job.limits.reserve_soc * 100)
        kept = f" {share} % of it is kept for an outage." if _holds(job, topology) else ""
        words = f"Keeps sun for the evening.{kept}{inside}"
        rows.append((f"Battery, {plain(usable, 1)} kWh usable", words))
    kinds = {part.kind for part in topology.parts.values()}
    if "gateway" in kinds:
        rows.append(("Gateway", "Takes the building off the grid by itself when the grid fails, and back."))
    if "bypass" in kinds:
        other = "the grid" if job.mains.grid else "the generator"
        rows.append(("Bypass switch", f"Puts your circuits straight on {other} while a unit is serviced."))
    if has_generator(topology):
        rows.append(("Generator", "Gives power when the battery runs low. It may start by itself."))
    if any(circuit.role is Role.SURPLUS for circuit in job.circuits):
        names = ", ".join(c.name for c in job.circuits if c.role is Role.SURPLUS)
        rows.append((names, "Takes sun that would otherwise be given away or lost."))
    return rows


def _holds(job: Job, topology: Topology) -> bool:
    return job.mains.grid and asked(topology).has_backup


def _unit_words(job: Job, unit: Unit) -> str:
    sheet, bank = job.sheet_of(unit), job.bank_of(unit)
    size = text_of(sheet.rated_kva, "kVA")
    if sheet.module_level:
        return f"A converter behind each module, together {size}: each works by itself."
    if sheet.trackers and bank is not None:
        return f"Turns sun and battery into mains power, up to {size}, and fills the battery."
    if bank is not None:
        return f"Fills and empties the battery, up to {size}."
    return f"Turns the sun's power into mains power, up to {size}."


# --- day and year ----------------------------------------------------------------------------------------
def days_page(reckoner: Reckoner, job: Job) -> Page:
    """A mean day of the brightest and the darkest month."""
    year, converters = reckoner.year(job), reckoner.converters(job)
    bright, dark = (6, 12) if job.site.latitude_deg >= 0 else (12, 6)
    blocks: list[Block] = []
    for name, month in (("summer", bright), ("winter", dark)):
        flows = mean_flows(year, converters, month, False)
        blocks.append(Text(f"A mean day in {name}, {MONTH_NAMES[month - 1]}", "head"))
        blocks.append(_day_chart(job, flows))
        blocks.append(Text(_day_words(job, flows)))
    return Page("owner-days", "A day in summer, a day in winter", tuple(blocks), part="owner")


def _by_hour(values: object) -> tuple[float, ...]:
    steps = round(1 / STEP_H)
    return tuple(float(mean) for mean in values.reshape(-1, steps).mean(axis=1))  # type: ignore[attr-defined]


def _day_chart(job: Job, flows: DayFlows) -> Chart:
    series = [Series("sun", _by_hour(flows.sun), "sun")]
    if job.banks:
        series.append(Series("from the battery", _by_hour(flows.battery_out), "battery"))
    if job.mains.grid or flows.imported.sum() > LEAST_KW:
        series.append(Series(_other(job), _by_hour(flows.imported), "grid"))
    series.append(Series("your circuits", _by_hour(flows.circuits), "load", below=True))
    if job.banks:
        series.append(Series("into the battery", _by_hour(flows.into_battery), "battery", below=True))
    if job.mains.grid and flows.exported.sum() > 0.01:
        series.append(Series("to the grid", _by_hour(flows.exported), "export", below=True))
    return Chart(
        "From noon to noon: what comes in above the line, where it goes below it", HOURS, tuple(series), "kW"
    )


def _other(job: Job) -> str:
    """What gives beside sun and battery."""
    return "from the grid" if job.mains.grid else "from the generator"


def _day_words(job: Job, flows: DayFlows) -> str:
    sun, used = flows.sun.sum() * STEP_H, flows.circuits.sum() * STEP_H
    words = f"The sun gives {text_of(float(sun), 'kWh')}, your circuits take {text_of(float(used), 'kWh')}"
    if flows.imported.sum() > LEAST_KW:
        words += f", {_other(job)} come {text_of(float(flows.imported.sum() * STEP_H), 'kWh')}"
    return words + "."


def year_page(reckoner: Reckoner, job: Job) -> Page:
    """The year by month."""
    year, figures, months = reckoner.year(job), reckoner.figures(job), month_of_step()

    def by_month(kw: object) -> tuple[float, ...]:
        total = kw.sum(axis=0) * year.step_h  # type: ignore[attr-defined]
        return tuple(float(total[months == month].sum()) for month in range(12))

    series = [
        Series("made by the sun", by_month(year.series.pv_ac_kw + 0.0), "sun"),
        Series("taken by your circuits", by_month(year.load_kw), "load"),
    ]
    if job.mains.grid:
        series.append(Series("from the grid", by_month(year.import_kw), "grid"))
        if figures.export_kwh > 1:
            series.append(Series("to the grid", by_month(year.export_kw), "export"))
    words = f"In a typical year the sun gives {text_of(figures.pv_kwh, 'kWh', 0)}"
    words += f" and your circuits take {text_of(figures.load_kwh, 'kWh', 0)}."
    blocks: list[Block] = [Chart("The year by month", SHORT, tuple(series), "kWh", beside=True), Text(words)]
    if job.mains.grid:
        money = job.tariff.currency
        blocks.append(
            Text(
                f"The grid gives {text_of(figures.import_kwh, 'kWh', 0)} and takes "
                f"{text_of(figures.export_kwh, 'kWh', 0)}. The bill is {grouped(figures.bill)} {money}; "
                f"without sun and battery it would be {grouped(figures.money.without)} {money}."
            )
        )
        exports = figures.export_kwh >= 1
        paid_by = agreed(job, exports).paid_by
        missing = ("who pays for export",) if exports and not paid_by else ()
        if paid_by and exports:
            blocks.append(Text(f"What you export is paid by {paid_by}."))
    else:
        missing = ()
        if figures.generator_h > 0:
            blocks.append(Text(f"The generator runs {text_of(figures.generator_h, 'h', 0)} of it."))
        served = plain(figures.self_sufficiency * 100, 0)
        blocks.append(Text(f"Of what your circuits ask for, {served} % is served."))
    blocks.append(Text("A typical year of weather, no record: each year differs.", "small"))
    return Page("owner-year", "Your year", tuple(blocks), missing, part="owner")


AFTER: dict[bool | None, str] = {
    True: " Should the battery run empty, the sun starts it again.",
    False: " Should the battery run empty, it stays off until the grid is back.",
}


# --- when the grid fails ---------------------------------------------------------------------------------
def outage_page(reckoner: Reckoner, job: Job, topology: Topology) -> Page:
    """How long it lasts by month, what stays on and what doesn't."""
    blocks: list[Block] = []
    grid = job.mains.grid
    leads = reckoner.leads(job)
    engine = not grid and has_generator(topology)
    if engine:
        blocks.append(Text("With the generator it goes on for as long as there is fuel."))
    for unit in () if engine else leads:
        hours = tuple(
            float(reckoner.outage(job, unit, Moment(month=month, hour=18.75)).hours) for month in range(1, 13)
        )
        whose = f", {unit.name}" if len(leads) > 1 else ""
        name = f"Hours from a quarter to seven in the evening, middling sky{whose}"
        blocks.append(Chart(name, SHORT, (Series("lasts", hours, "battery"),), "h", beside=True))
        least = min(hours)
        words = f"At least {plain(least, 0)} h in {MONTH_NAMES[hours.index(least)]}, as you use power today; "
        words += "longer if you switch off what you don't need."
        words += AFTER.get(starts_again(reckoner, job, unit)[0], "") if grid and least < WEEK_H else ""
        if max(hours) >= WEEK_H:
            words += " A bar to 168 h lasted the whole week that was followed."
        blocks.append(Text(words))
    questions = asked(topology)
    first = [c.id for c in job.circuits if c.role is Role.SHED and c.id in questions.lives()]
    by_hand = hands(reckoner, job)
    apart = {*first, *(c.id for hand in by_hand for c in hand.more)}
    lives, dead = (
        ", ".join(
            job.circuit(name).name
            for name in names
            if job.circuit(name).role is not Role.SURPLUS and name not in apart
        )
        for names in (questions.lives(), questions.dead())
    )
    shed = ", ".join(job.circuit(name).name for name in first)
    rows = [("Stays on", lives)]
    rows += [("Is switched off first", shed)] if shed else []
    rows += [("Is off until the grid is back", dead)] if dead and grid else []
    for hand in by_hand:
        on = ", ".join(c.name for c in hand.more if c not in hand.kept_off)
        off = ", ".join(c.name for c in hand.kept_off)
        rows.append((f"Is off until the {hand.name} is put to the {hand.position}", on or "nothing"))
        rows += [("Keep off then", off)] if off else []
    winter = 1 if job.site.latitude_deg > 0 else 7
    for outage in outages_by_hand(reckoner, job, Moment(month=winter, hour=18.75)):
        lasts = f"it lasts {plain(outage.outage.hours, 0)} h from an evening in {MONTH_NAMES[winter - 1]}."
        blocks.append(Text(f"With the {outage.hand.words} {lasts}"))
    head = "In an outage" if grid else "When energy is short"
    blocks.append(Table((head, "Circuits"), tuple(rows), (30, 70)))
    blocks.append(Caution(job.pack.caution("not_emergency")))
    title = "When the grid fails" if grid else "When energy is short"
    return Page("owner-outage", title, tuple(blocks), part="owner")


# --- living with it --------------------------------------------------------------------------------------
def _keeps_its_limit(reckoner: Reckoner, job: Job) -> bool:
    """Whether the year's export stays under the limit that is set: a unit that obeys no transformer keeps
    none."""
    most = float(reckoner.year(job).export_kw.sum(axis=0).max())
    return most <= job.limits.export_kw + 0.05


def _alone(job: Job) -> str:
    """What a battery without a grid should read."""
    made = [part for part in job.parts if part.kind == "generator" and part.started_by]
    starts = [part.start_soc for part in made if part.start_by == "charge"]
    volts = [part.start_v for part in made if part.start_by == "volts" and part.start_v is not None]
    if volts:
        return f"Battery above {text_of(min(volts), 'V', 1)}: there the generator starts."
    if starts:
        return f"Battery above {plain(min(starts) * 100)} %: there the generator starts."
    floor = max(job.sheets.batteries[bank.sheet].floor_soc for bank in job.banks)
    return f"Battery above {plain(floor * 100)} %: there circuits go off."


def care_page(reckoner: Reckoner, job: Job) -> Page:
    """What it should read, care, who may look, warranties, whom to call."""
    reads = []
    if job.banks:
        low = plain(job.limits.reserve_soc * 100)
        reads.append(f"Battery between {low} and 100 %." if job.mains.grid else _alone(job))
    if job.mains.grid and _keeps_its_limit(reckoner, job):
        reads.append(f"Export never above {text_of(job.limits.export_kw, 'kW')}.")
    reads.append("Power from the sun in daylight; a few percent of it under heavy cloud is right.")
    blocks: list[Block] = [Text("What it should read", "head"), *map(Text, reads)]
    blocks += [Text("Care", "head"), *map(Text, CARE)]
    never = [*NEVER, *([NEVER_PLUG] if job.mains.grid else [])]
    blocks += [Text("What must not be done", "head"), *map(Caution, never)]
    told = agreed(job, exports=False)
    blocks += [Text("Next inspection", "head"), Text(told.next_inspection)]
    blocks += [Text("Network", "head"), Text(told.network)]
    if told.accounts:
        heads = ("Account", "Whose it is", "Who may look")
        blocks.append(Table(heads, told.accounts, (34, 33, 33), name="Accounts"))
    if told.warranties:
        columns = ("Warranted", "For", "From and to", "By")
        blocks.append(Table(columns, told.warranties, (34, 14, 26, 26), name="Warranties"))
    missing = told.gaps
    return Page("owner-care", "Living with it", tuple(blocks), missing, part="owner")
