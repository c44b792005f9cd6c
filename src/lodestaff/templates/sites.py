"""Sites, settings and prices to begin with, by rule pack; every fact is assumed until somebody reads it."""

from lodestaff.catalogue import load_pack
from lodestaff.job import Fact, Known, Limits, Site, SyntheticWeather, Tariff
from lodestaff.job.plan import Mains
from lodestaff.job.site import Permission, Supply
from lodestaff.templates.wanted import Wanted


def site(wanted: Wanted) -> Site:
    """A site of which only what was told is known."""
    begins, told = wanted.begins, Known.TOLD
    return Site(
        place=wanted.place,
        latitude_deg=begins.latitude_deg,
        longitude_deg=begins.longitude_deg,
        altitude_m=begins.altitude_m,
        utc_offset_h=begins.utc_offset_h,
        place_known=Fact(value="yes"),
        time_zone=Fact(value=begins.time_zone),
        phases=wanted.phases,
        supply=Supply(
            earthing=Fact(value=wanted.earthing, known=told),
            rating_a=Fact(value=wanted.rating_a, known=told if wanted.rating_a else Known.ASSUMED),
            voltage_v=Fact(),
        ),
        permission=Permission(export_kw=Fact(), state="not asked"),
        building=wanted.circuits,
        weather=SyntheticWeather(
            seed=11,
            clearness=begins.clearness,
            temperature_low_c=begins.temperature_low_c,
            temperature_high_c=begins.temperature_high_c,
            wind_m_s=(4.0,) * 12,
        ),
    )


def mains(wanted: Wanted) -> Mains:
    return Mains(grid=wanted.grid, system=wanted.system)


def limits(wanted: Wanted, floor: float, charge_kw: float, discharge_kw: float) -> Limits:
    """Careful settings: nothing is exported until somebody permits it."""
    amps = wanted.rating_a or 60
    volts = load_pack(wanted.pack).value("nominal_v").value
    most = round(0.9 * amps * volts * len(wanted.phases) / 1000, 1)
    reserve = max(0.3, floor)
    return Limits(
        reserve_soc=reserve,
        export_kw=0,
        import_kw=most,
        charge_kw=charge_kw,
        discharge_kw=discharge_kw,
        shed_soc=max(0.5, reserve),
    )


def tariff(wanted: Wanted) -> Tariff:
    begins = wanted.begins
    return Tariff(
        currency=begins.currency,
        import_high=begins.import_high,
        import_low=begins.import_low,
        low_start_h=0.5,
        low_end_h=5.5,
        export=begins.export,
        standing_per_day=begins.standing_per_day,
    )
