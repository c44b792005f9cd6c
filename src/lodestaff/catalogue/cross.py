"""Cross-checks of a sheet while it is typed: values that can't stand together, or seldom do."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any, Literal

from lodestaff.quantities.convention import plain

POWER_PCT = 3.0  # between Pmp and Vmp x Imp
USUAL_BETA, USUAL_GAMMA, USUAL_ALPHA = (
    (-0.40, -0.20),
    (-0.50, -0.20),
    (0.0, 0.12),
)  # %/K of silicon; common practice
FILL_FACTOR = (0.65, 0.86)  # of silicon; common practice


@dataclass(frozen=True)
class Remark:
    """A doubt: fields concerned, words, and whether it is wrong or only unusual."""

    fields: tuple[str, ...]
    words: str
    weight: Literal["wrong", "unusual"]


def remarks(kind: str, values: dict[str, Any]) -> tuple[Remark, ...]:
    """What stands out among the values typed so far. Missing ones are passed over, never guessed."""
    check = _CHECKS.get(kind)
    return tuple(check(values)) if check else ()


def _numbers(values: dict[str, Any], *names: str) -> list[float] | None:
    operands = [values.get(name) for name in names]
    if any(not isinstance(value, int | float) or isinstance(value, bool) for value in operands):
        return None
    return [float(value) for value in operands]  # type: ignore[arg-type]


def _module(v: dict[str, Any]) -> Iterator[Remark]:
    if (n := _numbers(v, "pmp_w", "vmp_v", "imp_a")) and n[0] > 0:
        pmp, product = n[0], n[1] * n[2]
        if abs(product / pmp - 1) * 100 > POWER_PCT:
            yield Remark(
                ("pmp_w", "vmp_v", "imp_a"),
                f"Vmp x Imp is {plain(product, 0)} W, not {plain(pmp, 0)} W",
                "wrong",
            )
    if (n := _numbers(v, "voc_v", "vmp_v")) and n[1] >= n[0]:
        yield Remark(("voc_v", "vmp_v"), "Vmp must lie below Voc", "wrong")
    if (n := _numbers(v, "isc_a", "imp_a")) and n[1] >= n[0]:
        yield Remark(("isc_a", "imp_a"), "Imp must lie below Isc", "wrong")
    if (n := _numbers(v, "pmp_w", "voc_v", "isc_a")) and n[1] * n[2] > 0:
        fill = n[0] / (n[1] * n[2])
        if not FILL_FACTOR[0] <= fill <= FILL_FACTOR[1]:
            yield Remark(
                ("pmp_w", "voc_v", "isc_a"),
                f"the fill factor of {plain(fill, 2)} is unusual for silicon",
                "unusual",
            )
    for field, words, usual in (
        ("beta_voc_pct_per_k", "Voc", USUAL_BETA),
        ("gamma_pmp_pct_per_k", "Pmp", USUAL_GAMMA),
        ("alpha_isc_pct_per_k", "Isc", USUAL_ALPHA),
    ):
        if n := _numbers(v, field):
            if n[0] > 0 and usual[1] < 0:
                yield Remark(
                    (field,),
                    f"the coefficient of {words} is below 0: voltage and power fall with heat",
                    "wrong",
                )
            elif not usual[0] <= n[0] <= usual[1]:
                yield Remark(
                    (field,), f"{plain(n[0])} %/K is unusual for {words}: is it in other units?", "unusual"
                )


def _trackers(v: dict[str, Any]) -> Iterator[Remark]:
    limit = _numbers(v, "max_dc_v")
    for tracker in v.get("trackers") or ():
        if not isinstance(tracker, dict):
            tracker = tracker.model_dump()
        name = tracker.get("name", "?")
        if (n := _numbers(tracker, "v_min", "v_max")) and n[0] >= n[1]:
            yield Remark(
                ("trackers",),
                f"tracker {name}: its window ends at {plain(n[1])} V, below its start at {plain(n[0])} V",
                "wrong",
            )
        if limit and (n := _numbers(tracker, "v_max")) and n[0] > limit[0]:
            yield Remark(
                ("trackers", "max_dc_v"),
                f"tracker {name}: its window reaches above the maximum voltage",
                "wrong",
            )
        if (n := _numbers(tracker, "imp_max_a", "isc_max_a")) and n[0] > n[1]:
            yield Remark(
                ("trackers",), f"tracker {name}: operating current above its short-circuit current", "wrong"
            )


def _hybrid(v: dict[str, Any]) -> Iterator[Remark]:
    if (n := _numbers(v, "rated_kw", "rated_kva")) and n[0] > n[1]:
        yield Remark(("rated_kw", "rated_kva"), "kW can't be above kVA", "wrong")
    if (n := _numbers(v, "surge_kva", "rated_kva")) and n[0] < n[1]:
        yield Remark(("surge_kva", "rated_kva"), "surge lies below the continuous rating", "wrong")
    if (n := _numbers(v, "rated_kw")) and n[0] > 200:
        yield Remark(("rated_kw",), f"{plain(n[0])} kW: is it in W?", "unusual")
    yield from _trackers(v)


def _battery(v: dict[str, Any]) -> Iterator[Remark]:
    if (n := _numbers(v, "floor_soc", "top_soc")) and n[0] >= n[1]:
        yield Remark(
            ("floor_soc", "top_soc"), "the lowest state of charge must lie below the highest", "wrong"
        )
    if (n := _numbers(v, "v_min", "v_nominal")) and n[0] >= n[1]:
        yield Remark(("v_min", "v_nominal"), "the lowest voltage must lie below the nominal", "wrong")
    if (n := _numbers(v, "module_kwh")) and n[0] > 100:
        yield Remark(("module_kwh",), f"{plain(n[0])} kWh a module: is it in Wh?", "unusual")
    if (n := _numbers(v, "discharge_c_per_h")) and n[0] > 3:
        yield Remark(
            ("discharge_c_per_h",), f"{plain(n[0])} C is unusual for storage; is it in A?", "unusual"
        )


_CHECKS: dict[str, Callable[[dict[str, Any]], Iterator[Remark]]] = {
    "module": _module, "hybrid": _hybrid, "inverter": _hybrid, "battery": _battery,
}  # fmt: skip
