"""The site: its supply, permissions, place and weather."""

import itertools
from typing import Annotated, Literal, Self

from pydantic import AfterValidator, Field, model_validator

from lodestaff.catalogue.frozen import Frozen
from lodestaff.job.facts import Fact
from lodestaff.job.found import Found, Interim, Permit, State
from lodestaff.job.metered import IntervalFile
from lodestaff.job.types import MonthShares, MonthTemperatures, NotNegative, Positive
from lodestaff.quantities.zones import zone_names


def _a_zone(name: str) -> str:
    if name not in zone_names():
        raise ValueError(f"no time zone {name!r}; write one like Europe/London")
    return name


ZoneName = Annotated[str, AfterValidator(_a_zone)]


class SyntheticWeather(Frozen):
    """A seeded synthetic year: monthly clearness (GHI over extraterrestrial), temperatures, wind."""

    kind: Literal["synthetic"] = "synthetic"
    seed: Annotated[int, Field(ge=0)] = 1
    clearness: MonthShares
    temperature_low_c: MonthTemperatures
    temperature_high_c: MonthTemperatures
    wind_m_s: Annotated[tuple[Annotated[float, Field(ge=0, le=30)], ...], Field(min_length=12, max_length=12)]

    @model_validator(mode="after")
    def _temperatures_in_order(self) -> Self:
        pairs = zip(self.temperature_low_c, self.temperature_high_c, strict=True)
        for month, (low, high) in enumerate(pairs, start=1):
            if low > high:
                raise ValueError(f"month {month}: low {low} °C is above high {high} °C")
        return self


class FileWeather(Frozen):
    """A typical year from an attached TMY3 or EPW file, by the attachment's SHA-256."""

    kind: Literal["file"] = "file"
    format: Literal["tmy3", "epw"]
    sha256: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]
    name: str = ""


ParallelState = State | Literal["granted without export"]
Temperature = Annotated[float, Field(ge=-70, le=65)]


class Supply(Frozen):
    """The grid supply as it was read."""

    earthing: Fact[Literal["TN-C-S", "TN-S", "TT", "TN-C", "MEN"]]
    rating_a: Fact[Positive]
    voltage_v: Fact[Positive]
    ze_ohm: Fact[Positive] = Fact()
    tails_mm2: Fact[Positive] = Fact()
    earthing_mm2: Fact[Positive] = Fact()
    bonding_mm2: Fact[Positive] = Fact()
    electrode_ohm: Fact[Positive] = Fact()
    spare_ways: Fact[Annotated[int, Field(ge=0, le=200)]] = Fact()
    surge_protection: Fact[Literal["yes", "no"]] = Fact()
    board_condition: Fact[Literal["good", "worn", "unfit"]] = Fact()
    isolator: Fact[Literal["yes", "no"]] = Fact()
    outside_disconnect: Fact[Literal["yes", "no", "no dwelling"]] = Fact()
    storage_shutdown: Fact[Literal["yes", "no", "no dwelling"]] = Fact()
    meter: Fact[Annotated[str, Field(max_length=60)]] = Fact()
    seal: Fact[Literal["intact", "broken", "none"]] = Fact()
    de_energise: Fact[Annotated[str, Field(max_length=120)]] = Fact()
    de_energise_how: Fact[Annotated[str, Field(max_length=120)]] = Fact()
    without_power: Fact[Annotated[str, Field(max_length=120)]] = Fact()  # when people can be without power


class Permission(Frozen):
    """What the operator allows: export, and generation in parallel per phase, each with state and date.

    `asked_kva` is what is asked of the operator for each phase, `expanded_kva` what the system will come to.
    """

    export_kw: Fact[NotNegative]
    state: State
    date: str = ""
    parallel_kva: Fact[NotNegative] = Fact()
    parallel_state: ParallelState = "not asked"
    parallel_date: str = ""
    asked_kva: Fact[NotNegative] = Fact()
    expanded_kva: Fact[NotNegative] = Fact()


class HorizonPoint(Frozen):
    """How high the far horizon stands in a direction, clockwise from north."""

    azimuth_deg: Annotated[float, Field(ge=0, lt=360)]
    elevation_deg: Annotated[float, Field(ge=0, le=85)]


class Site(Frozen):
    place: str
    latitude_deg: Annotated[float, Field(ge=-66, le=66)]
    longitude_deg: Annotated[float, Field(ge=-180, le=180)]
    altitude_m: Annotated[float, Field(ge=-400, le=5000)] = 0
    utc_offset_h: Annotated[float, Field(ge=-12, le=14)]  # of standard time
    place_known: Fact[Literal["yes"]] = Fact[
        Literal["yes"]
    ]()  # how latitude, longitude and altitude are known
    time_zone: Fact[ZoneName] = Fact[ZoneName]()  # by the IANA's names; clocks change by it
    phases: Annotated[tuple[str, ...], Field(min_length=1, max_length=3)]
    supply: Supply
    permission: Permission
    found: tuple[Found, ...] = ()
    permits: tuple[Permit, ...] = ()
    interim: tuple[Interim, ...] = ()
    building: Annotated[str, Field(max_length=40)] = (
        ""  # the kind of building, as the library of circuits has it
    )
    floor_m2: Fact[Positive] = Fact()
    metered: IntervalFile | None = None
    horizon: Annotated[tuple[HorizonPoint, ...], Field(max_length=400)] = ()
    record_low_c: Fact[Temperature] = Fact()
    record_high_c: Fact[Temperature] = Fact()
    weather: Annotated[SyntheticWeather | FileWeather, Field(discriminator="kind")]
    sky_model: Literal["hay-davies", "perez"] = "hay-davies"  # how the sky's light falls on planes

    @model_validator(mode="after")
    def _horizon_goes_round(self) -> Self:
        azimuths = [point.azimuth_deg for point in self.horizon]
        if any(after <= before for before, after in itertools.pairwise(azimuths)):
            raise ValueError("the horizon's azimuths rise from 0 to 360, each once")
        return self
