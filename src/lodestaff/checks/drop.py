"""Voltage drop of loads, voltage rise of sources, by run and summed from the origin: WIRE-DROP."""

from dataclasses import dataclass

from lodestaff.catalogue import PackValue
from lodestaff.checks.check import check
from lodestaff.checks.finding import Finding, Findings, Verdict, soft
from lodestaff.checks.makers import at_most
from lodestaff.checks.runs import DC_TABLE, TABLES, Run, reckoned, unreckoned
from lodestaff.electrical.conductors import Drop, dc_drop, legs_drop, longest_m, table_drop
from lodestaff.quantities import Input, text_of
from lodestaff.quantities.convention import plain
from lodestaff.quantities.errors import JobError

LIMITS = {"rise": "generation_drop_pct", "drop": "load_drop_pct"}
ByLeg = tuple[tuple[str, float], ...]


@check("WIRE-DROP", station="wire", rests_on="pack")
def wire_drop(run: Run) -> Findings:
    """Is the drop or rise of every run within its limit?"""
    return reckoned(run, _ways)


def _ways(run: Run) -> Findings:
    if run.unknown or not run.voltage_v:
        yield unreckoned(run, (*run.unknown, "its voltage isn't known")[0], "Complete the sheet.")
        return
    if run.load > 0 or run.dc:
        yield _way(run, "drop", run.load_a)
    if run.source > 0 and not run.dc:
        yield _way(run, "rise", run.source_a)


def _drop(run: Run, by_leg: ByLeg) -> Drop:
    """Raises JobError where no table has the cable."""
    cable, pack, volts, amps = run.chosen, run.pack, run.voltage_v, [value for _, value in by_leg]
    assert volts is not None
    if cable.table == DC_TABLE:
        return dc_drop(cable.length_m, _r20(run), 70.0, max(amps), volts)
    mv = pack.table("cables").at(cable.size_mm2, f"{cable.table} mV/A/m")
    if run.dc or run.legs < 2:
        return table_drop(mv, max(amps), cable.length_m, volts)
    return legs_drop(mv, amps, cable.length_m, volts, run.angles_deg)


def _r20(run: Run) -> float:
    return run.pack.table("copper_r20").at(run.chosen.size_mm2, "class5_tinned")


def _way(run: Run, way: str, by_leg: ByLeg) -> Finding:
    cable, pack, drop = run.chosen, run.pack, _drop(run, by_leg)
    limit, metric = pack.value("dc_drop_pct" if run.dc else LIMITS[way]), cable.table == DC_TABLE
    inputs = [
        *(Input(f"current{f' on {leg}' if leg else ''}", amps, "A") for leg, amps in by_leg),
        Input("length, one way", cable.length_m, "m"),
        Input("loop resistance", drop.r_loop_ohm * 1000, "mohm"),
        Input(way, drop.drop_v, "V"),
        Input("loss", drop.loss_w, "W"),
        Input("of", run.voltage_v or 0.0, "V", "line to neutral" if not run.dc else ""),
    ]
    if metric and run.voltage_v:
        most = longest_m(limit.value, _r20(run), 70.0, max(amps for _, amps in by_leg), run.voltage_v)
        inputs.append(Input("longest way at the limit", most, "m"))
    formula = "I x half of the loop, and the neutral's vector sum over the other half"
    if run.legs < 2 or run.dc:
        formula = "I x loop resistance / voltage"
    return at_most(
        value=drop.drop_pct,
        limit=limit.value,
        unit="%",
        worse=Verdict.WARNS,
        quantity=way,
        text=f"{run.name}: {way} {text_of(drop.drop_v, 'V', 1)}, {plain(drop.drop_pct, 2)} % of "
        f"{plain(limit.value)} %.",
        name=f"{run.name}: voltage {way}",
        formula=formula,
        inputs=tuple(inputs),
        source=pack.table("copper_r20" if metric else "cables").cite(),
        rests_on=limit.cite(),
        note="The unit's terminals at full export: SITE-VOLTAGE." if way == "rise" else "",
        because=soft(cable=cable.known),
        advice="A larger conductor or a shorter way.",
        cures=lambda: run.smallest(lambda larger: _drop(larger, by_leg).drop_pct <= limit.value),
    )


@dataclass(frozen=True)
class Path:
    """The runs one after the other from the origin to a board or a unit, and which way is summed.

    `limit` is None where neither the pack nor its shipped edition has one.
    """

    end: Run
    runs: tuple[Run, ...]
    way: str
    limit: PackValue | None

    @property
    def owner(self) -> str:
        return self.end.id

    @property
    def subjects(self) -> tuple[str, ...]:
        return tuple(run.id for run in self.runs)

    def parts(self) -> tuple[tuple[Run, Drop | None], ...]:
        """Each section with its drop or rise; None where it isn't known."""
        drops: list[tuple[Run, Drop | None]] = []
        for run in self.runs:
            try:
                by_leg = run.source_a if self.way == "rise" else run.load_a
                known = run.cable is not None and run.voltage_v and not run.unknown
                drops.append((run, _drop(run, by_leg) if known else None))
            except JobError:
                drops.append((run, None))
        return tuple(drops)


@check("WIRE-DROP", "from the origin", station="wire", rests_on="pack")
def summed_drop(path: Path) -> Findings:
    """Is the drop or rise along every way from the origin within its limit?"""
    parts = path.parts()
    known = [drop for _, drop in parts if drop is not None]
    total, volts = sum(drop.drop_pct for drop in known), sum(drop.drop_v for drop in known)
    missing = tuple(f"{run.name} isn't known" for run, drop in parts if drop is None)
    worst = max(parts, key=lambda pair: pair[1].drop_pct if pair[1] else 0.0)[0]
    limit = path.limit.value if path.limit is not None else None
    most = f" of {plain(limit)} %" if limit is not None else ""
    yield at_most(
        value=total,
        limit=limit,
        unit="%",
        worse=Verdict.WARNS,
        quantity=f"{path.way} from the origin",
        text=f"{path.end.name}: {path.way} {text_of(volts, 'V', 1)}, {plain(total, 2)} %{most} from the "
        f"origin, over {len(parts)} sections.",
        name=f"{path.end.name}: voltage {path.way} from the origin",
        formula="sum of the sections",
        inputs=tuple(
            Input(run.name, drop.drop_pct if drop is not None else "unknown", "%") for run, drop in parts
        ),
        source=path.limit.cite() if path.limit is not None else TABLES,
        because=(
            *missing,
            *soft(**{f"cable of {run.name}": run.chosen.known for run, drop in parts if drop}),
        ),
        advice=f"A larger conductor on {worst.name}, or a shorter way.",
    )


def loop_ohm(run: Run) -> float | None:
    """Loop resistance of a run; None where no table has its cable."""
    if run.cable is None or not run.voltage_v:
        return None
    try:
        return _drop(run, tuple((str(leg), 1.0) for leg in range(max(1, run.legs)))).r_loop_ohm
    except JobError:
        return None
