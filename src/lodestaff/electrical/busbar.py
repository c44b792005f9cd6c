"""Busbars with sources on them: what main and source devices may come to."""

from dataclasses import dataclass

ROOM = 1.2  # of the busbar, where the source sits at the end opposite the main


@dataclass(frozen=True)
class BusbarRules:
    """A busbar by the three rules of the North American code, and what would be right.

    `room_a` is what the 120 % rule leaves for sources, `need_a` 1.25 x their current; `most_main_a` the
    largest main by the 120 % rule, `most_source_a` the largest source current.
    """

    need_a: float
    room_a: float
    keeps_120: bool
    keeps_100: bool
    sum_a: float | None
    keeps_sum: bool | None
    most_main_a: float
    most_source_a: float


def busbar_rules(
    busbar_a: float,
    main_a: float,
    source_a: float,
    devices_a: tuple[float, ...] | None,
    continuous_factor: float = 1.25,
) -> BusbarRules:
    """120 %: main + 1.25 I <= 1.2 busbar, the source at the far end. 100 %: main + 1.25 I <= busbar. Sum: all
    branch and source devices, the main left out, <= busbar; `devices_a` None where one isn't known.

    Source: NEC 705.12(B) (from memory; the numbering of its paragraphs differs between code cycles).
    """
    need = continuous_factor * source_a
    room = ROOM * busbar_a - main_a
    total = sum(devices_a) if devices_a is not None else None
    return BusbarRules(
        need_a=need,
        room_a=room,
        keeps_120=need <= room + 1e-9,
        keeps_100=main_a + need <= busbar_a + 1e-9,
        sum_a=total,
        keeps_sum=total <= busbar_a + 1e-9 if total is not None else None,
        most_main_a=ROOM * busbar_a - need,
        most_source_a=max(0.0, room) / continuous_factor,
    )
