"""Every setting of a job as a row: its words, where it stands, how it is shown and read."""

import re
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any, Literal, get_args

from pydantic import BaseModel

from lodestaff.job import Band, Bank, Circuit, Job, Limits, Site, Tariff, Unit, Window
from lodestaff.job.plan import Generator
from lodestaff.quantities.convention import plain
from lodestaff.quantities.errors import JobError
from lodestaff.quantities.reader import read_number
from lodestaff.quantities.units import clock

Form = Literal["number", "clock", "choice", "yes or no", "months", "dates"]
NONE = "–"
LAST_HOUR, MINUTES = 24, 1440
MOST_KW = 400.0  # more than any unit of a house or workshop; a number typed in W
YES, NO = "yes", "no"
COUNTED = ("sum of phases", "each phase")  # by the meter


@dataclass(frozen=True)
class SettingRow:
    """A setting: its words, path in the job, value, unit and factor from typed to stored.

    `fact`: stored with where it is known from. `may_be_none`: a dash takes it away.
    """

    words: str
    path: str
    value: Any
    unit: str = ""
    factor: float = 1.0
    form: Form = "number"
    choices: tuple[str, ...] = ()
    fact: bool = False
    may_be_none: bool = False

    @property
    def text(self) -> str:
        if self.value is None:
            return NONE
        if self.form == "clock":
            return clock(self.value)
        if self.form == "yes or no":
            return YES if self.value else NO
        if self.form in ("months", "dates"):
            return ", ".join(map(str, self.value)) or "all"
        return str(self.value) if self.form == "choice" else plain(self.value / self.factor)

    def stored(self, value: Any) -> Any:
        """The value as the job keeps it."""
        return {"value": value, "known": "told", "note": "", "date": ""} if self.fact else value


def _choice(model: type[BaseModel], field: str) -> tuple[str, ...]:
    """The words that a field of the job takes."""
    return get_args(model.model_fields[field].annotation)


def choice(words: str, path: str, model: type[BaseModel], of: Any) -> SettingRow:
    """A row of a field with words to choose from."""
    field = path.rsplit("/", 1)[-1]
    return SettingRow(words, path, getattr(of, field), form="choice", choices=_choice(model, field))


def rows_of(job: Job) -> list[SettingRow]:
    """All settings of a job."""
    rows = [*_limits(job), *_units(job)]
    for bank in job.banks if len(job.banks) > 1 else ():
        name, path = job.unit(bank.unit).name, f"banks/{bank.id}"
        rows += [
            SettingRow(f"{name}: charge limit of its own", f"{path}/charge_kw", bank.charge_kw, "kW",
                       may_be_none=True),
            SettingRow(f"{name}: discharge limit of its own", f"{path}/discharge_kw", bank.discharge_kw, "kW",
                       may_be_none=True),
        ]  # fmt: skip
    for unit in job.units if len(job.units) > 1 and job.mains.grid else ():
        for words, field in (("export limit", "export_kw"), ("import limit", "import_kw")):
            path, value = f"units/{unit.id}/{field}", getattr(unit, field)
            rows.append(SettingRow(f"{unit.name}: {words} of its own", path, value, "kW", may_be_none=True))
    for window in job.limits.windows:
        rows += _window(window)
    for part in job.parts:
        if isinstance(part, Generator) and part.started_by:
            rows += _generator(part)
    return [*rows, *_money(job), *_places(job)]


def _limits(job: Job) -> Iterator[SettingRow]:
    limits, at = job.limits, "limits"
    grid = job.mains.grid
    if grid:
        yield SettingRow("Reserve", f"{at}/reserve_soc", limits.reserve_soc, "%", 0.01)
    yield SettingRow("Shed level", f"{at}/shed_soc", limits.shed_soc, "%", 0.01)
    if grid:
        yield SettingRow("Export limit", f"{at}/export_kw", limits.export_kw, "kW")
        yield SettingRow("Import limit", f"{at}/import_kw", limits.import_kw, "kW")
    yield SettingRow("Charge limit", f"{at}/charge_kw", limits.charge_kw, "kW")
    yield SettingRow("Discharge limit", f"{at}/discharge_kw", limits.discharge_kw, "kW")
    if grid and job.banks:
        yield choice("Mode", f"{at}/mode", Limits, limits)
        yield SettingRow("Peak to stay below", f"{at}/peak_kw", limits.peak_kw, "kW", may_be_none=True)
        yield SettingRow("Charge late, with room for noon", f"{at}/keep_room", limits.keep_room,
                         form="yes or no", choices=(YES, NO))  # fmt: skip
    yield choice("Clock of the device", f"{at}/device_clock", Limits, limits)
    if grid and len(job.site.phases) > 1:
        yield choice("Export limit is counted", f"{at}/counted", Limits, limits)
        if job.mains.system != "120/240 V":
            yield SettingRow("The meter counts", "mains/netting", job.mains.netting.value, form="choice",
                             choices=COUNTED, fact=True)  # fmt: skip


def _units(job: Job) -> Iterator[SettingRow]:
    for unit in job.units if job.mains.grid else ():
        yield choice(f"{unit.name}: serves", f"units/{unit.id}/serves", Unit, unit)
        yield choice(f"{unit.name}: may let out", f"units/{unit.id}/exports", Unit, unit)
    for circuit in job.circuits if job.banks and job.mains.grid else ():
        if circuit.kind == "car charger" or not circuit.from_battery:
            yield _from_battery(circuit)


def _from_battery(circuit: Circuit) -> SettingRow:
    path = f"circuits/{circuit.id}/from_battery"
    words = f"{circuit.name}: from the battery"
    return SettingRow(words, path, circuit.from_battery, form="yes or no", choices=(YES, NO))


def _window(window: Window) -> Iterator[SettingRow]:
    path, name = f"limits/windows/{window.id}", f"Window {window.id}"
    yield choice(f"{name}: does", f"{path}/kind", Window, window)
    yield SettingRow(f"{name}: begins", f"{path}/start_h", window.start_h, "clock", form="clock")
    yield SettingRow(f"{name}: ends", f"{path}/end_h", window.end_h, "clock", form="clock")
    yield SettingRow(f"{name}: target", f"{path}/target_soc", window.target_soc, "%", 0.01)
    yield SettingRow(f"{name}: power", f"{path}/power_kw", window.power_kw, "kW")
    yield choice(f"{name}: days", f"{path}/days", Window, window)
    yield SettingRow(f"{name}: months", f"{path}/months", window.months, "1 to 12", form="months")
    yield SettingRow(f"{name}: on", f"{path}/on", window.on, "MM-DD", form="dates")


def _generator(part: Generator) -> Iterator[SettingRow]:
    path, name = f"parts/{part.id}", part.name
    yield choice(f"{name}: starts by", f"{path}/start_by", Generator, part)
    if part.start_by == "charge":
        yield SettingRow(f"{name}: starts at", f"{path}/start_soc", part.start_soc, "%", 0.01)
        yield SettingRow(f"{name}: stops at", f"{path}/stop_soc", part.stop_soc, "%", 0.01)
    else:
        yield SettingRow(f"{name}: starts at", f"{path}/start_v", part.start_v, "V", may_be_none=True)
        yield SettingRow(f"{name}: stops at", f"{path}/stop_v", part.stop_v, "V", may_be_none=True)
        yield SettingRow(f"{name}: starts after", f"{path}/start_delay_min", part.start_delay_min, "min")
    for words, field in (("quiet from", "quiet_from_h"), ("quiet to", "quiet_to_h")):
        yield SettingRow(f"{name}: {words}", f"{path}/{field}", getattr(part, field), "clock", form="clock",
                         may_be_none=True)  # fmt: skip
    yield SettingRow(f"{name}: exercised a week", f"{path}/exercise_h_week", part.exercise_h_week, "h")
    yield SettingRow(f"{name}: power factor", f"{path}/power_factor", part.power_factor)
    yield SettingRow(f"{name}: share to be taken", f"{path}/usable_share", part.usable_share, "%", 0.01)
    yield SettingRow(
        f"{name}: each charger takes", f"{path}/charger_kw", part.charger_kw, "kW", may_be_none=True
    )
    yield SettingRow(f"{name}: its neutral is earthed in it", f"{path}/neutral_earthed",
                     part.neutral_earthed.value, form="choice", choices=(YES, NO), fact=True)  # fmt: skip
    least = part.least_load_share.value
    yield SettingRow(f"{name}: least load", f"{path}/least_load_share", least, "%", 0.01, fact=True)
    yield SettingRow(f"{name}: fuel", f"{path}/litre_per_kwh", part.litre_per_kwh.value, "l/kWh", fact=True)
    idle = part.idle_litre_per_h.value
    yield SettingRow(f"{name}: fuel when idle", f"{path}/idle_litre_per_h", idle, "l/h", fact=True)


def _money(job: Job) -> Iterator[SettingRow]:
    tariff, money = job.tariff, f"{job.tariff.currency} a kWh"
    if job.mains.grid:
        yield SettingRow("Import, high band", "tariff/import_high", tariff.import_high, money)
        yield SettingRow("Import, low band", "tariff/import_low", tariff.import_low, money)
        yield SettingRow("Low band begins", "tariff/low_start_h", tariff.low_start_h, "clock", form="clock")
        yield SettingRow("Low band ends", "tariff/low_end_h", tariff.low_end_h, "clock", form="clock")
        yield choice("Clock of the tariff", "tariff/clock", Tariff, tariff)
        yield SettingRow("Export pay", "tariff/export", tariff.export, money)
        yield SettingRow("Standing charge", "tariff/standing_per_day", tariff.standing_per_day,
                         f"{tariff.currency} a day")  # fmt: skip
        yield SettingRow("Demand charge", "tariff/demand_per_kw_month", tariff.demand_per_kw_month,
                         f"{tariff.currency} a kW and month")  # fmt: skip
        for band in tariff.bands:
            yield from _band(band, money)
    if any(isinstance(part, Generator) for part in job.parts):
        yield SettingRow("Fuel price", "tariff/fuel_per_litre", tariff.fuel_per_litre,
                         f"{tariff.currency} a litre", may_be_none=True)  # fmt: skip
    if job.mains.grid:
        yield SettingRow("Years that money is looked at", "wishes/years", job.wishes.years)
        yield SettingRow("Prices drift a year", "wishes/price_drift", job.wishes.price_drift, "%", 0.01)
        yield SettingRow("Discount a year", "wishes/discount", job.wishes.discount, "%", 0.01)
        if job.banks:
            yield SettingRow(
                "Wear of the battery, a kWh out", "wishes/wear_per_kwh", job.wishes.wear_per_kwh, money
            )
    yield SettingRow(
        "Budget", "wishes/budget", job.wishes.budget, f"{tariff.currency} a job", may_be_none=True
    )
    yield SettingRow("Outage hours promised", "wishes/outage_h", job.wishes.outage_h, "h")


def _band(band: Band, money: str) -> Iterator[SettingRow]:
    path, name = f"tariff/bands/{band.id}", f"Band {band.id}"
    yield SettingRow(f"{name}: price", f"{path}/price", band.price, money)
    yield choice(f"{name}: of", f"{path}/of", Band, band)
    yield SettingRow(f"{name}: begins", f"{path}/start_h", band.start_h, "clock", form="clock")
    yield SettingRow(f"{name}: ends", f"{path}/end_h", band.end_h, "clock", form="clock")
    yield choice(f"{name}: days", f"{path}/days", Band, band)
    yield SettingRow(f"{name}: months", f"{path}/months", band.months, "1 to 12", form="months")


def _places(job: Job) -> Iterator[SettingRow]:
    def row(bank: Bank, words: str, field: str) -> SettingRow:
        value = getattr(bank, field).value
        name = job.unit(bank.unit).name
        return SettingRow(f"Battery of {name}: {words}", f"banks/{bank.id}/{field}", value, "°C", fact=True)

    yield choice("Light of the sky on planes", "site/sky_model", Site, job.site)
    for bank in job.banks:
        yield row(bank, "coldest of its place", "place_low_c")
        yield row(bank, "hottest of its place", "place_high_c")


def typed_value(text: str, row: SettingRow) -> Any:
    """What was typed as the stored value. Raises JobError with what would be right."""
    said = text.strip()
    if row.may_be_none and said in (NONE, "-", ""):
        return None
    if row.form in ("choice", "yes or no"):
        matches = (
            [choice for choice in row.choices if choice.casefold().startswith(said.casefold())]
            if said
            else []
        )
        if len(matches) != 1 and said not in row.choices:
            raise JobError(f"no choice {said!r}", row.words, f"choose from {', '.join(row.choices)}")
        word = said if said in row.choices else matches[0]
        return word == YES if row.form == "yes or no" else word
    if row.form in ("months", "dates"):
        return _list(said, row)
    at = re.fullmatch(r"(\d{1,2}):([0-5]\d)", said)
    if row.form == "clock" and at:
        return int(at[1]) + int(at[2]) / 60
    if row.unit == "kW" and re.fullmatch(r"[\d.,\s]+A", said):
        raise JobError(
            f"{said} is a current", row.words, "type kW: volts x amperes / 1000; 230 V and 16 A are 3.68 kW"
        )
    unit = "h" if row.form == "clock" else "" if " a " in row.unit or "/" in row.unit else row.unit
    value = read_number(text, unit)
    if row.form == "clock" and LAST_HOUR < value <= MINUTES:
        hours = clock(value / 60)
        raise JobError(
            f"no hour {plain(value)}", row.words, f"type {hours} if minutes past midnight are meant"
        )
    if row.unit == "kW" and value >= MOST_KW:
        raise JobError(
            f"{plain(value)} kW is past any unit", row.words, f"type {plain(value)} W if W is meant"
        )
    return value * row.factor


def _list(said: str, row: SettingRow) -> list[Any]:
    parts = [part for part in re.split(r"[\s,;]+", said) if part]
    if not parts or said.casefold() == "all":
        return []
    if row.form == "dates":
        return parts
    if not all(part.isdigit() and 1 <= int(part) <= 12 for part in parts):
        raise JobError(
            f"{said!r} are no months", row.words, "months from 1 to 12, as in 11, 12, 1; all for each"
        )
    return [int(part) for part in parts]
