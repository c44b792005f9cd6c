"""From choices to a job: parts put together one choice after the other."""

from typing import Any

from lodestaff.catalogue import load_pack
from lodestaff.catalogue.kinds import checked, kind_named
from lodestaff.electrical.battery_power import least_powers
from lodestaff.job import SCHEMA_VERSION, Change, Fact, Job
from lodestaff.job.edit import edit, validated
from lodestaff.job.plan import Adjustment, Placed
from lodestaff.shelf.model import starter
from lodestaff.templates import sites
from lodestaff.templates.circuits import base_circuits
from lodestaff.templates.distribution import distribution
from lodestaff.templates.layout import Layout
from lodestaff.templates.roofs import OPTIMISER, faces_and_strings, tracker_names
from lodestaff.templates.units import Chosen, chosen_units
from lodestaff.templates.wanted import Wanted

SHEET_PLACES = {"hybrid": "hybrids", "battery": "batteries", "module": "modules", "inverter": "inverters",
                "microinverter": "microinverters", "battery-unit": "battery_units",
                "optimiser": "optimisers"}  # fmt: skip


def compose(wanted: Wanted) -> Job:
    """A job of the choices, complete enough to open: all that was not told is assumed and keeps its checks
    open.

    Raises JobError where choices don't go together.
    """
    chosen = chosen_units(wanted)
    layout = distribution(wanted, chosen, base_circuits(wanted))
    faces, strings = faces_and_strings(wanted, chosen)
    sheets = _sheets(chosen, wanted)
    floor = max((sheets["batteries"][bank["sheet"]]["floor_soc"] for bank in chosen.banks), default=0.1)
    kw = [tracker_names(unit).rated_kw for unit in chosen.units] or [5.0]
    data: dict[str, Any] = {
        "schema_version": SCHEMA_VERSION,
        "id": "-".join("".join(c if c.isalnum() else " " for c in wanted.title.lower()).split())[:40]
        or "job",
        "title": wanted.title,
        "pack": load_pack(wanted.pack).model_dump(mode="json"),
        "site": sites.site(wanted).model_dump(mode="json"),
        "mains": sites.mains(wanted).model_dump(mode="json"),
        "circuits": [circuit.model_dump(mode="json") for circuit in layout.circuits],
        "faces": faces,
        "strings": strings,
        "units": [unit.fields for unit in chosen.units],
        "banks": list(chosen.banks),
        "parts": [_plain(part) for part in layout.parts],
        "adjustments": [_plain(adjustment) for adjustment in layout.adjustments],
        "limits": sites.limits(wanted, floor, max(kw), max(kw)).model_dump(mode="json"),
        "tariff": sites.tariff(wanted).model_dump(mode="json"),
        "wishes": {"outage_h": 10.0, "known": Fact().model_dump(mode="json")},
        "sheets": sheets,
    }
    return _careful(validated(_placed(data, layout), wanted.title))


def _careful(job: Job) -> Job:
    """Charge and discharge at the least that any unit, its bank and its cable bear."""
    least = [least_powers(job, unit) for unit in job.units if job.bank_of(unit) is not None]
    if not least:
        return job
    charge, discharge = (min(powers) for powers in zip(*least, strict=True))
    return edit(job, Change("limits/charge_kw", charge), Change("limits/discharge_kw", discharge))


def _placed(data: dict[str, Any], layout: Layout) -> dict[str, Any]:
    """Units with where they are fed from, as the distribution has it."""
    data["units"] = [
        {**unit, "fed_from": layout.feeds.get(unit["id"], unit.get("fed_from", ""))} for unit in data["units"]
    ]
    return data


def _plain(part: Placed | Adjustment) -> dict[str, Any]:
    return part.model_dump(mode="json")


def _sheets(chosen: Chosen, wanted: Wanted) -> dict[str, dict[str, Any]]:
    """The sheets of everything chosen, from the starter set, and the next sizes of hybrid to compare with."""
    shelf = starter()
    sheets: dict[str, dict[str, Any]] = {place: {} for place in SHEET_PLACES.values()}
    names = (
        {unit.fields["sheet"] for unit in chosen.units}
        | {bank["sheet"] for bank in chosen.banks}
        | {chosen.module}
    )
    if wanted.optimisers != "none":
        names |= {OPTIMISER}
    if wanted.family == "hybrid" and not wanted.across:
        names |= {"hybrid-3", "hybrid-5", "hybrid-6", "hybrid-8", "hybrid-10"}
    for entry in shelf.entries:
        if entry.id in names:
            sheet = checked(kind_named(entry.kind), dict(entry.values), entry.id)
            sheets[SHEET_PLACES[entry.kind]][entry.id] = sheet.model_dump(mode="json")
    return sheets
