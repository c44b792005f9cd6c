"""Starting each unit: what wakes it, then its settings, and only then what closes it onto the grid."""

from lodestaff.catalogue.families import sealed, states
from lodestaff.catalogue.lifting import lifting
from lodestaff.commissioning.rules import Between, Confirmed, Rule
from lodestaff.commissioning.step import Measure, Step
from lodestaff.commissioning.string_steps import string_hazard, wired_strings
from lodestaff.electrical.permission import held_back
from lodestaff.job import Bank, Job, Unit
from lodestaff.quantities.convention import plain
from lodestaff.topology import Topology
from lodestaff.topology.questions import asked

BATTERY_PCT = 12.0  # the voltage follows the state of charge
UNORDERED = " Its sheet gives no order of starting: the maker's instructions rule."


class Starts:
    """The start of every unit in two parts: before the settings, and after them."""

    def __init__(self, job: Job, topology: Topology, before: tuple[str, ...]) -> None:
        self.job, self.topology = job, topology
        self.held, self.backup = held_back(job), asked(topology).has_backup
        self._last = {unit.id: before for unit in job.units}
        self._settled: tuple[str, ...] = ()

    def before(self) -> list[Step]:
        """What wakes the units without the grid."""
        steps = []
        for unit in self.job.units:
            order = self._order(unit)
            for source in order[: order.index("grid")]:
                steps += self._source(unit, source)
        return steps

    def after(self, settled: str) -> list[Step]:
        """Onto the grid, and what follows; all of it waits for the settings."""
        self._settled = (settled,)
        steps = []
        units = self.job.units
        if not self.job.mains.grid:  # what makes the supply comes before what follows it
            units = tuple(sorted(units, key=lambda unit: not self.topology.unit(unit.id).forms))
        for unit in units:
            order = self._order(unit)
            steps += self._grid(unit)
            for source in order[order.index("grid") + 1 :]:
                steps += self._source(unit, source)
        return steps

    def _order(self, unit: Unit) -> tuple[str, ...]:
        return self.job.sheet_of(unit).start_order

    def _waits(self, unit: Unit) -> tuple[str, ...]:
        return tuple(dict.fromkeys((*self._last[unit.id], *self._settled)))

    def _add(self, unit: Unit, step: Step, chain: bool = True) -> list[Step]:
        if chain:
            self._last[unit.id] = (step.id,)
        return [step]

    def _source(self, unit: Unit, source: str) -> list[Step]:
        return self._battery(unit) if source == "battery" else self._array(unit)

    def _suffix(self, unit: Unit) -> str:
        return "" if states(self.job.sheet_of(unit), "start_order") else UNORDERED

    def _said(self, unit: Unit, words: str) -> str:
        """The words with the unit's name ahead, where there are several."""
        return f"{unit.name}: {words[0].lower()}{words[1:]}" if len(self.job.units) > 1 else words

    # --- the battery -----------------------------------------------------------------------------------
    def _battery(self, unit: Unit) -> list[Step]:
        bank, pack = self.job.bank_of(unit), self.job.pack
        if bank is None:
            return []
        cells = self.job.sheets.batteries[bank.sheet]
        name = f"start-{unit.id}-battery"
        if sealed(self.job.sheet_of(unit)):
            text = (
                f"{unit.name}: switched on at its own case; it shows its state of charge.{self._suffix(unit)}"
            )
            caution = f"{pack.caution('sealed_battery')} {lifting(pack, cells.weight_kg)}"
            return self._add(
                unit,
                Step(
                    name,
                    "start",
                    text=text,
                    rule=Confirmed(),
                    waits_for=self._waits(unit),
                    caution=caution,
                    measure=Measure("confirm", unit.id, "battery"),
                    topic="start",
                    proves=(unit.id, bank.id),
                ),
            )
        series = cells.modules_in_series(bank.modules)
        here = ""
        if cells.v_nominal is not None and series is not None:
            here = f" Here {plain(cells.v_nominal * series, 0)} V DC, live at all times."
        caution = f"{pack.caution('battery')}{here} {lifting(pack, cells.weight_kg)}"
        steps = self._add(unit, self._volts(unit, bank, caution))
        whole = "its battery" if bank.modules == 1 else f"its battery with all {bank.modules} modules"
        text = self._said(unit, f"Close the battery {pack.word('isolator')}; the unit shows {whole}.")
        text += " A cycle of calibration, where its maker asks for one, begins now; it takes hours."
        return steps + self._add(
            unit,
            Step(
                name,
                "start",
                text=text,
                rule=Confirmed(),
                waits_for=self._waits(unit),
                caution=caution,
                topic="start",
                measure=Measure("confirm", unit.id, "battery"),
                proves=(unit.id,),
            ),
        )

    def _volts(self, unit: Unit, bank: Bank, caution: str) -> Step:
        cells = self.job.sheets.batteries[bank.sheet]
        series = cells.modules_in_series(bank.modules)
        rule: Rule = Confirmed()
        needs, measure = "", Measure("battery v", unit.id, bank.id)
        if cells.v_nominal is not None and series is not None:
            volts = cells.v_nominal * series
            room = volts * BATTERY_PCT / 100
            wired = f", {series} modules in series" if series > 1 else ""
            rule = Between(
                volts,
                "V",
                volts - room,
                volts + room,
                f"battery's sheet{wired}; the voltage follows the state of charge",
            )
        else:
            needs, measure = (
                "the battery's sheet: its volts and how its modules are wired",
                Measure("confirm", unit.id, bank.id),
            )
        count = f"{bank.modules} modules: addresses" if bank.modules > 1 else "1 module: address"
        text = self._said(
            unit, f"{count}, terminator, the right port; polarity and voltage of the bank before closing."
        )
        return Step(
            f"battery-{bank.id}",
            "start",
            text=text,
            rule=rule,
            waits_for=self._waits(unit),
            caution=caution,
            needs=needs,
            measure=measure,
            proves=(bank.id, f"{bank.id}-isolator"),
        )

    # --- the array -------------------------------------------------------------------------------------
    def _array(self, unit: Unit) -> list[Step]:
        port, pack = self.topology.unit(unit.id), self.job.pack
        if not port.arrays or port.module_level:
            return []  # plugged in behind each module
        text = self._said(
            unit,
            f"Close the DC {pack.word('isolator')}s one after the other; the unit shows each tracker's "
            f"volts.{self._suffix(unit)}",
        )
        own = [string for string in wired_strings(self.job) if string.unit == unit.id]
        hazards = [
            string_hazard(self.job, string) for string in own if self.job.optimisers_on(string) == "none"
        ]
        return self._add(
            unit,
            Step(
                f"start-{unit.id}-array",
                "start",
                text=text,
                rule=Confirmed(),
                waits_for=self._waits(unit),
                caution=" ".join([pack.caution("live_in_daylight"), *hazards]),
                measure=Measure("confirm", unit.id, "array"),
                topic="start",
                proves=(unit.id,),
            ),
        )

    # --- the grid --------------------------------------------------------------------------------------
    def _grid(self, unit: Unit) -> list[Step]:
        port, pack = self.topology.unit(unit.id), self.job.pack
        proves = (
            unit.id,
            *(part.id for part in self.topology.on_way("grid", unit.id) if part.kind == "breaker"),
        )
        if not self.job.mains.grid:
            forms = f"it makes its own supply, {plain(pack.value('nominal_v').value)} V to neutral"
            follows = "it waits for the supply that is made there, then follows it"
            text = self._said(unit, f"Switched on: {forms if port.forms else follows}.")
            return self._add(
                unit,
                Step(
                    f"start-{unit.id}-output",
                    "start",
                    text=text,
                    rule=Confirmed(),
                    waits_for=self._waits(unit),
                    caution=pack.caution("no_grid"),
                    measure=Measure("confirm", unit.id, "grid"),
                    topic="start",
                    proves=proves,
                ),
            )
        if port.module_level:
            text = (
                f"Close the {pack.word('protective_device')} of {unit.name}; the units behind the "
                "modules wait their time and start."
            )
        else:
            text = self._said(unit, "Close the unit's feed; the unit shows the grid, and waits its time.")
            if self._order(unit)[0] == "grid":
                text += " Profile and limits are confirmed on its first screen before it connects."
        needs = ""
        if self.held:
            meanwhile = (
                f"until then only its island may run, the main {pack.word('isolator')} open"
                if self.backup
                else "until then it stays off the grid"
            )
            needs = f"{self.held}; {meanwhile}"
        step = Step(
            f"start-{unit.id}-grid",
            "start",
            text=text,
            rule=Confirmed(),
            waits_for=self._waits(unit),
            caution=pack.caution("prove_dead"),
            needs=needs,
            measure=Measure("confirm", unit.id, "grid"),
            topic="start",
            proves=proves,
        )
        return self._add(unit, step, chain=not self.held)
