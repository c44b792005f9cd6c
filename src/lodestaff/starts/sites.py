"""Sites, settings and prices to begin with, by rule pack; every fact is assumed until somebody reads it."""

from lodestaff.job import Fact, Known, Limits, Site, SyntheticWeather, Tariff
from lodestaff.job.plan import Mains
from lodestaff.job.site import Permission, Supply
from lodestaff.starts.wanted import Wanted

WEATHER = {
    "uk": ((0.29, 0.34, 0.38, 0.43, 0.46, 0.45, 0.44, 0.43, 0.41, 0.36, 0.31, 0.27),
           (0.8, 0.9, 1.9, 3.4, 6.0, 9.0, 11.0, 10.8, 8.8, 6.2, 3.3, 1.2),
           (6.0, 6.6, 8.8, 11.6, 15.0, 17.6, 19.4, 19.0, 16.6, 12.8, 8.9, 6.4)),
    "anz": ((0.55, 0.54, 0.52, 0.5, 0.46, 0.43, 0.45, 0.48, 0.5, 0.52, 0.53, 0.54),
            (15.0, 15.4, 13.6, 10.4, 7.6, 5.2, 4.4, 5.0, 7.0, 9.2, 11.4, 13.6),
            (26.2, 26.0, 24.0, 20.6, 16.8, 13.8, 13.2, 14.4, 17.2, 19.8, 22.4, 24.6)),
    "na": ((0.58, 0.6, 0.63, 0.66, 0.68, 0.69, 0.63, 0.62, 0.65, 0.65, 0.61, 0.57),
           (-4.0, -2.0, 1.5, 5.0, 9.5, 14.5, 18.0, 17.0, 12.5, 6.0, 0.0, -3.8),
           (10.0, 13.0, 17.5, 22.0, 27.5, 33.0, 34.5, 33.0, 29.5, 23.0, 15.0, 10.0)),
}  # fmt: skip
WHERE = {"uk": (53.6, -2.1, 0.0, 120.0), "anz": (-38.3, 144.9, 10.0, 20.0), "na": (35.1, -108.4, -7.0, 1650.0)}
PRICES = {
    "uk": ("GBP", 0.30, 0.12, 0.13, 0.6),
    "anz": ("AUD", 0.36, 0.22, 0.05, 1.1),
    "na": ("USD", 0.19, 0.11, 0.06, 0.5),
}


def site(wanted: Wanted) -> Site:
    """A site of which only what was told is known."""
    latitude, longitude, offset, height = WHERE[wanted.pack]
    clearness, low, high = WEATHER[wanted.pack]
    told = Known.TOLD
    return Site(
        place=wanted.place, latitude_deg=latitude, longitude_deg=longitude, altitude_m=height, utc_offset_h=offset,
        phases=wanted.phases,
        supply=Supply(earthing=Fact(value=wanted.earthing, known=told),
                      rating_a=Fact(value=wanted.rating_a, known=told if wanted.rating_a else Known.ASSUMED),
                      voltage_v=Fact()),
        permission=Permission(export_kw=Fact(), state="not asked"), building=wanted.circuits,
        weather=SyntheticWeather(seed=11, clearness=clearness, temperature_low_c=low, temperature_high_c=high,
                                 wind_m_s=(4.0,) * 12),
    )  # fmt: skip


def mains(wanted: Wanted) -> Mains:
    return Mains(grid=wanted.grid, system=wanted.system)


def limits(wanted: Wanted, floor: float, charge_kw: float, discharge_kw: float) -> Limits:
    """Careful settings: nothing is exported until somebody permits it."""
    amps = wanted.rating_a or 60
    volts = {"uk": 230, "anz": 230, "na": 120}[wanted.pack]
    most = round(0.9 * amps * volts * len(wanted.phases) / 1000, 1)
    reserve = max(0.3, floor)
    return Limits(reserve_soc=reserve, export_kw=0, import_kw=most, charge_kw=charge_kw, discharge_kw=discharge_kw,
                  shed_soc=max(0.5, reserve))  # fmt: skip


def tariff(wanted: Wanted) -> Tariff:
    currency, high, low, export, standing = PRICES[wanted.pack]
    return Tariff(currency=currency, import_high=high, import_low=low, low_start_h=0.5, low_end_h=5.5, export=export,
                  standing_per_day=standing)  # fmt: skip
