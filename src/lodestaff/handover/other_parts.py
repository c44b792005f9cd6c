"""The operator's part, what a notification or application asks; and the firm's part, hours, costs, snags."""

from collections.abc import Sequence
from typing import Any

from lodestaff.commissioning.snags import snags
from lodestaff.electrical.permission import held_back, registered, supply_phases
from lodestaff.handover.model import Page, Table, Text
from lodestaff.job import Job
from lodestaff.job.journal import Entry
from lodestaff.quantities import text_of
from lodestaff.quantities.convention import plain
from lodestaff.reckoning.costing import design_cost
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.visiting import bookings, tasks_of
from lodestaff.register import Register
from lodestaff.shelf.prices import PriceBook


def operator_data(job: Job, register: Register) -> dict[str, Any]:
    """What an operator asks for, with stable keys; None is what isn't known."""
    site, firm = job.site, register.firm
    permission = site.permission
    units = [
        {
            "name": unit.name,
            "sheet": unit.sheet,
            "count": unit.count,
            "phases": unit.phase,
            "rated_kva": job.sheet_of(unit).rated_kva,
            "there_before": unit.existing,
            "stores_kwh": sum(
                job.sheets.batteries[bank.sheet].module_kwh * bank.modules
                for bank in job.banks
                if bank.unit == unit.id
            ),
        }
        for unit in job.units
    ]
    phases = {
        "+".join(part): round(sum(kva for _, kva in registered(job, part)), 3) for part in supply_phases(job)
    }
    return {
        "place": site.place,
        "latitude_deg": site.latitude_deg,
        "longitude_deg": site.longitude_deg,
        "system": job.mains.system,
        "service_a": site.supply.rating_a.value,
        "earthing": site.supply.earthing.value,
        "registered_kva": phases,
        "units": units,
        "array_kwp": round(
            sum(job.sheets.modules[face.module].pmp_w * len(face.modules) for face in job.faces) / 1000, 3
        ),
        "export_limit_kw": job.limits.export_kw,
        "export_permitted_kw": permission.export_kw.value,
        "export_state": permission.state,
        "parallel_permitted_kva": permission.parallel_kva.value,
        "parallel_state": permission.parallel_state,
        "asked_kva": permission.asked_kva.value,
        "expanded_kva": permission.expanded_kva.value,
        "firm": firm.name,
        "firm_registration": firm.registration,
        "rules": f"{job.pack.title}, {job.pack.edition}",
    }


WORDS = {
    "place": ("Place", ""),
    "latitude_deg": ("Latitude", "°"),
    "longitude_deg": ("Longitude", "°"),
    "system": ("Supply", ""),
    "service_a": ("Service rating", "A"),
    "earthing": ("Earthing", ""),
    "array_kwp": ("Array", "kWp"),
    "export_limit_kw": ("Export limited to", "kW"),
    "export_permitted_kw": ("Export permitted", "kW"),
    "export_state": ("Its state", ""),
    "parallel_permitted_kva": ("In parallel permitted", "kVA"),
    "parallel_state": ("Its state ", ""),
    "asked_kva": ("Asked for", "kVA"),
    "expanded_kva": ("It will come to", "kVA"),
    "firm": ("Installed by", ""),
    "firm_registration": ("Registration", ""),
    "rules": ("Rules", ""),
}


def operator_page(job: Job, register: Register) -> Page:
    """The notification's data; what isn't known is missing."""
    data, missing = operator_data(job, register), list[str]()
    rows = []
    for key, (words, unit) in WORDS.items():
        value = data[key]
        if value in (None, ""):
            missing.append(words.strip().lower())
        said = value if isinstance(value, str) else "unknown" if value is None else text_of(value, unit)
        rows.append((words.strip(), said or "not stated"))
    rows += [(f"Registered on {phase}", text_of(kva, "kVA")) for phase, kva in data["registered_kva"].items()]
    units = tuple(
        (
            row["name"],
            str(row["count"]),
            row["phases"],
            text_of(row["rated_kva"], "kVA"),
            text_of(row["stores_kwh"], "kWh") if row["stores_kwh"] else "-",
            "yes" if row["there_before"] else "no",
        )
        for row in data["units"]
    )
    blocks = (
        Table(("What is asked", "Answer"), tuple(rows), (40, 60), name="Notification"),
        Table(
            ("Unit", "Of it", "Phases", "Rated", "Stores", "There before"),
            units,
            (30, 10, 14, 16, 16, 14),
            name="Generating units",
        ),
        *((Text(held),) if (held := held_back(job)) else ()),
    )
    gaps = (f"not known: {', '.join(missing)}",) if missing else ()
    return Page("operator", "For the operator", blocks, gaps, part="operator")


def firm_pages(
    reckoner: Reckoner, job: Job, entries: Sequence[Entry], prices: PriceBook | None
) -> tuple[Page, ...]:
    """Hours planned and booked, what it cost, what is still to be mended."""
    booked = bookings(entries)
    rows, planned, worked = [], 0.0, 0.0
    for task in tasks_of(reckoner, job):
        hours = [booking.hours for booking in booked if booking.task == task.id]
        planned, worked = planned + task.hours * task.people, worked + sum(hours) * task.people
        rows.append(
            (
                task.name,
                f"{plain(task.hours, 2)} h",
                str(task.people),
                f"{plain(sum(hours), 2)} h" if hours else "-",
                task.why_hours,
            )
        )
    rows.append(("Together, hours of hands", f"{plain(planned, 1)} h", "", f"{plain(worked, 1)} h", ""))
    heads = ("Task", "Planned", "Hands", "Booked", "Planned by")
    table = Table(heads, tuple(rows), (40, 14, 10, 14, 22), name="Hours")
    hours_page = Page("firm-hours", "Hours", (table,), part="firm")
    book = prices or PriceBook()
    costs = design_cost(reckoner, job, book)
    money = costs.currency
    lines = tuple(
        (
            line.words,
            f"{plain(line.count, 2)} {line.unit}".strip(),
            "open" if line.each is None else f"{plain(line.each, 2)} {money}",
            "open" if line.total is None else f"{plain(line.total, 2)} {money}",
        )
        for line in costs.lines
    )
    sums = ("Sum of what has a price, before tax", "", "", f"{plain(costs.net, 2)} {money}")
    gaps = (f"without a price: {', '.join(costs.open)}",) if costs.open else ()
    cost_page = Page(
        "firm-cost",
        "Cost",
        (Table(("What", "How much", "Each", "Together"), (*lines, sums), (46, 18, 18, 18), name="Cost"),),
        gaps,
        part="firm",
    )
    left = tuple(
        (snag.text, snag.owner or "nobody", snag.due or "no day", snag.done or "open")
        for snag in snags(entries)
    )
    snag_page = Page(
        "firm-snags",
        "Still to be mended",
        (
            Table(("What", "Whose", "By", "State"), left, (50, 18, 16, 16), name="Snags of the firm")
            if left
            else Text("Nothing is noted."),
        ),
        part="firm",
    )
    return hours_page, cost_page, snag_page
