"""Units that carry one island together, as the one converter and the one battery that they are."""

from lodestaff.energy.dispatch import Battery, Converter


def together(converters: tuple[Converter, ...]) -> Converter:
    """Units of one island that share in proportion to their ratings: ratings and energies add up. Derived.

    The loss of n units that share a power P by the parts s of their ratings is sum(k1 s) P + sum(k2 s²) P².
    Those without a battery bring their rating only. Raises ValueError for none.
    """
    if not converters:
        raise ValueError("no unit")
    if len(converters) == 1:
        return converters[0]
    rated = sum(converter.rated_kw for converter in converters)
    parts = [converter.rated_kw / rated for converter in converters]
    banks = [converter.battery for converter in converters if converter.battery is not None]
    return Converter(
        phase=converters[0].phase,
        rated_kw=rated,
        rated_kva=sum(converter.rated_kva for converter in converters),
        surge_kva=sum(converter.surge_kva for converter in converters),
        k1=sum(other.k1 * part for other, part in zip(converters, parts, strict=True)),
        k2=sum(other.k2 * part**2 for other, part in zip(converters, parts, strict=True)),
        own_use_kw=sum(converter.own_use_kw for converter in converters),
        pv_max_kw=sum(converter.pv_max_kw for converter in converters),
        battery=_banks(banks) if banks else None,
        ac_charge=all(converter.ac_charge for converter in converters),
        keeps_limit=all(converter.keeps_limit for converter in converters),
        also=converters[0].also,
        unequal=converters[0].unequal,
    )


def _banks(banks: list[Battery]) -> Battery:
    capacity = sum(bank.capacity_kwh for bank in banks)

    def mean(name: str) -> float:
        return float(sum(getattr(bank, name) * bank.capacity_kwh for bank in banks) / capacity)

    return Battery(
        capacity_kwh=capacity,
        floor_soc=mean("floor_soc"),
        reserve_soc=mean("reserve_soc"),
        top_soc=mean("top_soc"),
        charge_kw=sum(bank.charge_kw for bank in banks),
        discharge_kw=sum(bank.discharge_kw for bank in banks),
        eta_charge=mean("eta_charge"),
        eta_discharge=mean("eta_discharge"),
        taper_start_soc=mean("taper_start_soc"),
        taper_end_share=mean("taper_end_share"),
    )
