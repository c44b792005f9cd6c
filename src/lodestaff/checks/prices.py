"""Whether the tariff's prices can be: LIM-WINDOW, as far as money goes."""

from dataclasses import dataclass

from lodestaff.checks.check import check
from lodestaff.checks.finding import Findings, Verdict
from lodestaff.checks.makers import at_most
from lodestaff.quantities import Input, Provenance, Source, text_of

USUAL = Source("what a kWh costs in this currency, at most", Provenance.COMMON_PRACTICE)
BANDS = Source("the tariff of this job", Provenance.JOB)
# Currency units a kWh, far above what a household pays: a price typed in pence or cents shows.
MOST_A_KWH = {"GBP": 3.0, "EUR": 3.0, "USD": 3.0, "AUD": 3.0, "NZD": 4.0, "CAD": 3.0, "CHF": 3.0}
CENTS = 100


@dataclass(frozen=True)
class Prices:
    """The tariff: prices of a kWh in currency units."""

    currency: str
    import_high: float
    import_low: float
    export: float


@check("LIM-WINDOW", "prices", station="limits", rests_on="the tariff")
def tariff_prices(record: Prices) -> Findings:
    """Can the tariff's prices be, and is the low band the cheaper one?"""
    unit, high, low = f"{record.currency} a kWh", record.import_high, record.import_low
    dearest, most = max(high, low, record.export), MOST_A_KWH.get(record.currency.upper())
    prices = {"high band": high, "low band": low, "export": record.export}
    inputs = tuple(Input(name, price, unit) for name, price in prices.items())
    slip = f"; is {text_of(dearest / CENTS, unit)} meant?" if dearest > (most or dearest) else "."
    yield at_most(
        value=dearest,
        limit=most,
        unit=unit,
        worse=Verdict.WARNS,
        text=f"The dearest kWh of the tariff costs {text_of(dearest, unit)}{slip}",
        name="Dearest kWh of the tariff",
        formula="the highest of its prices",
        inputs=inputs,
        source=USUAL,
        because=() if most else (f"what a kWh usually costs in {record.currency} isn't known here",),
        quantity="usual",
        advice="Read the customer's bill: prices are in whole currency units.",
    )
    yield at_most(
        value=low,
        limit=high,
        unit=unit,
        worse=Verdict.WARNS,
        text=f"The low band costs {text_of(low, unit)}, the high band {text_of(high, unit)}.",
        name="Price of the low band",
        formula="the tariff",
        inputs=inputs,
        source=BANDS,
        quantity="bands",
        advice="Change the two prices, or the hours of the low band.",
    )
