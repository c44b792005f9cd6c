"""The registers of one unit of a simulated site: its models filled from the plant, and writes decoded into
it."""

from typing import Any

from lodestaff.job import Job
from lodestaff.link import definitions as d
from lodestaff.link.points import EXPORT_OF, MODES, SERVES, from_clock, key_of, to_clock
from lodestaff.plant.settings import WINDOWS
from lodestaff.plant.site import Plant
from lodestaff.topology import Topology
from lodestaff.topology.questions import ct_phases

ENABLED = 1
MOST_IN_REGISTER = 32_767
NO_CURVE = dict(NPt=1, NCrv=1, NCrvSet=1, NCtl=1)  # the counts that a model of curves must have


class RefusedError(Exception):
    """A write that the unit does not take: an address that is not writable, or a value out of range."""

    def __init__(self, address: bool) -> None:
        super().__init__("address" if address else "value")
        self.address = address


class Image:
    """Models of one unit at their addresses. `unit` is the id in the job."""

    def __init__(self, plant: Plant, unit: str) -> None:
        self.plant, self.unit = plant, unit
        state = plant.units[unit]
        self.hz = plant.job.pack.hz
        self.windows = tuple(window.id for window in plant.job.limits.windows)
        self.models: list[Any] = [self._common(), d.model(d.AC, dict(W_SF=0, VA_SF=0, A_SF=-2, V_SF=-1,
                                                                     Hz_SF=-2, TotWh_SF=0)),
                                  self._capacity(), d.model(d.ENTER_SERVICE, {}),
                                  d.model(d.CONTROLS, dict(WMaxLimPct_SF=-1)),
                                  *(d.model(number, NO_CURVE) for number in d.CURVES)]  # fmt: skip
        if state.battery is not None:
            self.models.append(d.model(d.STORAGE, dict(WH_SF=0, Pct_SF=-1)))
        ports = len(state.sheet.trackers) + (state.battery is not None)
        scales = dict(DCA_SF=-2, DCV_SF=-1, DCW_SF=0, DCWH_SF=0, NPrt=ports, Prt=[{} for _ in range(ports)])
        self.models.append(d.model(d.DC, scales))
        self.meters: list[tuple[Any, str | None, tuple[str, ...]]] = []  # of a transformer, or the site's own
        for ct, legs in meters_of(plant.job, plant.drawn, unit):
            scales = dict(A_SF=-1, V_SF=-1, Hz_SF=-2, W_SF=self._watts(), VA_SF=self._watts(), TotWh_SF=0)
            self.models.append(d.model(d.METER_OF[len(legs)], scales))
            self.meters.append((self.models[-1], ct, legs))
        own = dict(NWin=WINDOWS, W_SF=0, Pct_SF=-1, Win=[{} for _ in range(WINDOWS)])
        self.models.append(d.model(d.SITE_SETTINGS, own))
        for model in self.models:
            model.points["ID"].value = model.model_id
            model.points["L"].value = len(model.get_mb()) // 2 - 2
            if model.model_id in d.CURVES:
                model.points["Ena"].value = 0
            elif model.model_id == d.ENTER_SERVICE:
                model.points["ES"].value = ENABLED
        fixed = (d.COMMON, d.CAPACITY, d.ENTER_SERVICE, *d.CURVES)
        self._fixed = {
            id(fixed_model): fixed_model.get_mb()
            for fixed_model in self.models
            if fixed_model.model_id in fixed
        }

    def _common(self) -> Any:
        sheet = self.plant.units[self.unit].sheet
        words = dict(
            Mn="invented",
            Opt=d.SIMULATED,
            Md=sheet.name.split(",")[0][:32],
            Vr="1.0",
            SN=f"SIM-{self.unit}"[:32],
            DA=1,
        )
        return d.model(d.COMMON, words)

    def _watts(self) -> int:
        """The power of ten in which a meter gives watts: its registers hold 32 767 of them."""
        service, legs = self.plant.job.site.supply.rating_a.value or 100.0, len(self.plant.job.site.phases)
        volts = self.plant.job.pack.value("nominal_v").value
        return 0 if 1.3 * service * volts * legs < MOST_IN_REGISTER else 1

    def _capacity(self) -> Any:
        """The ratings of its sheet."""
        state = self.plant.units[self.unit]
        model = d.model(d.CAPACITY, dict(W_SF=0, VA_SF=0, V_SF=-1))
        rated = dict(WMaxRtg=1000 * state.sheet.rated_kw, VAMaxRtg=1000 * state.sheet.rated_kva)
        if state.battery is not None:
            rated |= dict(
                WChaRteMaxRtg=1000 * state.sheet.charge_kw, WDisChaRteMaxRtg=1000 * state.sheet.discharge_kw
            )
        for name, value in rated.items():
            model.points[name].cvalue = value
        return model

    # --- out --------------------------------------------------------------------------------------------
    def registers(self) -> list[int]:
        """The whole image from the base address, as 16-bit registers."""
        with self.plant.lock:
            self._fill()
            body = b"".join(self._fixed.get(id(model)) or model.get_mb() for model in self.models)
        raw = d.MARKER + body + d.END.to_bytes(2, "big") + b"\x00\x00"
        return [int.from_bytes(raw[i : i + 2], "big") for i in range(0, len(raw), 2)]

    def _fill(self) -> None:
        for model in self.models:
            fill = {
                d.AC: self._ac,
                d.CONTROLS: self._controls,
                d.STORAGE: self._storage,
                d.DC: self._dc,
                d.SITE_SETTINGS: self._settings,
            }.get(model.model_id)
            if fill is not None:
                fill(model)
        for model, ct, legs in self.meters:
            self._meter(model, ct, legs)

    def _ac(self, m: Any) -> None:
        unit = self.plant.units[self.unit]
        volts = self._volts()
        on = unit.mode != "off" and not unit.tripped
        for name, number in dict(ACType=0, St=int(on), ConnSt=int(unit.mode == "grid")).items():
            m.points[name].value = number
        watts = 1000 * unit.ac_kw
        for name, value in dict(
            W=watts, VA=abs(watts), A=abs(watts) / max(volts, 1), LNV=volts, Hz=self.hz, WL1=watts, VL1=volts
        ).items():
            m.points[name].cvalue = value

    def _volts(self) -> float:
        unit = self.plant.units[self.unit]
        if unit.mode == "island":
            return 0.0 if unit.tripped else self.plant.job.pack.value("nominal_v").value
        return self.plant.supply_v()

    def _controls(self, m: Any) -> None:
        settings = self.plant.units[self.unit].settings
        m.points["WMaxLimPctEna"].value = int(settings.output_enabled)
        m.points["WMaxLimPct"].cvalue = settings.output_pct

    def _storage(self, m: Any) -> None:
        unit = self.plant.units[self.unit]
        assert unit.battery is not None
        m.points["WHRtg"].cvalue = 1000 * unit.battery.capacity_kwh
        m.points["WHAvail"].cvalue = 1000 * unit.battery.energy_kwh
        m.points["SoC"].cvalue = unit.device_pct()
        m.points["SoH"].cvalue = 100.0

    def _dc(self, m: Any) -> None:
        unit = self.plant.units[self.unit]
        there = sum(v * a for v, a in (unit.trackers or {}).values()) / 1000
        share = unit.pv_used_kw / (there * unit.sheet.eta_mppt) if there > 0 else 0.0
        rows = [(0, name, volts, amps * share) for name, (volts, amps) in (unit.trackers or {}).items()]
        if unit.battery is not None:
            volts = unit.battery.volts
            rows.append((1, "battery", volts, 1000 * unit.battery.power_kw / volts))
        for port, (kind, name, volts, amps) in zip(m.groups["Prt"], rows, strict=True):
            port.points["PrtTyp"].value = kind
            port.points["IDStr"].value = name
            port.points["DCV"].cvalue = volts
            port.points["DCA"].cvalue = amps
            port.points["DCW"].cvalue = volts * amps
        m.points["DCW"].cvalue = sum(volts * amps for _, _, volts, amps in rows)

    def _meter(self, m: Any, ct: str | None, legs: tuple[str, ...]) -> None:
        """A transformer's meter by leg; without a transformer the site's own. A lead that is out gives
        nothing."""
        plant = self.plant
        channels = plant.meters.of(ct) if ct is not None else {legs[0]: plant.site_kw}
        volts = self._volts()
        total = 1000 * sum(channels.values()) if channels is not None else None
        values: dict[str, float | None] = dict(
            W=total,
            VA=None if total is None else abs(total),
            A=None if total is None else total / max(volts, 1),
            PhV=volts,
            PhVphA=volts,
            Hz=self.hz,
        )
        for leg, point in zip(legs, d.LEG_POINTS, strict=False):
            values[point] = None if channels is None else 1000 * channels.get(leg, 0.0)
        for name, value in values.items():
            if value is None:
                m.points[name].value = None
            else:
                m.points[name].cvalue = value
        m.points["TotWhImp"].cvalue = 1000 * plant.imported_kwh
        m.points["TotWhExp"].cvalue = 1000 * plant.exported_kwh

    def _settings(self, m: Any) -> None:
        s = self.plant.units[self.unit].settings
        m.points["Clk"].value = to_clock(self.plant.device_clock(self.unit))
        m.points["GrdPrf"].value = s.grid_profile
        plain = dict(
            Mode=MODES.index(s.mode),
            Srv=SERVES.index(s.serves),
            ExpOf=EXPORT_OF.index(s.export_of),
            ExpLimEna=int(s.export_enabled),
            ImpLimEna=int(s.import_enabled),
        )
        for name, number in plain.items():
            m.points[name].value = number
        scaled = dict(
            ExpLimW=1000 * s.export_kw,
            ImpLimW=1000 * s.import_kw,
            ResSoC=s.reserve_pct,
            ShdSoC=s.shed_pct,
            ChaMaxW=1000 * s.charge_kw,
            DisMaxW=1000 * s.discharge_kw,
        )
        for name, value in scaled.items():
            m.points[name].cvalue = value
        for group, window in zip(m.groups["Win"], s.windows, strict=True):
            group.points["Str"].value, group.points["End"].value = window.start_min, window.end_min
            group.points["Tgt"].cvalue = window.target_pct
            group.points["Pwr"].cvalue = 1000 * window.power_kw
            group.points["Ena"].value = int(window.enabled)

    # --- in ---------------------------------------------------------------------------------------------
    def write(self, address: int, values: list[int]) -> None:
        """Take a write of whole points. Raises RefusedError where an address or a value is none that the
        unit takes."""
        raw = b"".join(value.to_bytes(2, "big") for value in values)
        at = d.BASE_ADDRESS + 2
        wanted: list[tuple[int, str, float]] = []
        reached = 0
        with self.plant.lock:
            for model in self.models:
                for path, point, offset in d.placed(model):
                    place, length = at + offset - address, int(point.len)
                    if place + length <= 0 or place >= len(values):
                        continue
                    if place < 0 or place + length > len(values) or not self._writable(model.model_id, path):
                        raise RefusedError(address=True)
                    number = point.info.data_to(raw[2 * place : 2 * (place + length)])
                    scale = model.points[point.sf].value if point.sf else 0
                    wanted.append((model.model_id, path, number * 10.0 ** (scale or 0)))
                    reached += length
                at += len(model.get_mb()) // 2
            if reached != len(values):
                raise RefusedError(address=True)
            for number, path, value in wanted:
                self._set(number, path, value)

    def _writable(self, number: int, path: str) -> bool:
        if number == d.CONTROLS:
            return path in ("WMaxLimPct", "WMaxLimPctEna")
        if number != d.SITE_SETTINGS:
            return False
        key = key_of(path, self.windows)
        return key != "" and key in self.plant.units[self.unit].sheet.settings_over_link

    def _set(self, number: int, path: str, value: float) -> None:
        unit = self.plant.units[self.unit]
        s, sheet = unit.settings, unit.sheet
        if number == d.CONTROLS:
            if path == "WMaxLimPct":
                s.output_pct = _between(value, 0, 100)
            else:
                s.output_enabled = _between(value, 0, 1) == ENABLED
        elif path.startswith("Win."):
            window = s.windows[int(path.split(".")[1])]
            match path.rsplit(".", 1)[1]:
                case "Str":
                    shift = 720 if "window-midnight" in self.plant.faults else 0
                    window.start_min = (int(_between(value, 0, 1439)) + shift) % 1440
                case "End":
                    window.end_min = int(_between(value, 0, 1439))
                case "Tgt":
                    window.target_pct = _between(value, 0, 100)
                case "Pwr":
                    window.power_kw = _between(value, 0, 1000 * sheet.charge_kw) / 1000
                case _:
                    window.enabled = _between(value, 0, 1) == ENABLED
                    window.kind = self.plant.job.limits.windows[int(path.split(".")[1])].kind
        else:
            self._set_plain(path, value)

    def _set_plain(self, path: str, value: float) -> None:
        unit = self.plant.units[self.unit]
        s, sheet = unit.settings, unit.sheet
        match path:
            case "Clk":
                self.plant.set_device_clock(self.unit, from_clock(value))
            case "Mode":
                s.mode = MODES[int(_between(value, 0, len(MODES) - 1))]
            case "Srv":
                s.serves = SERVES[int(_between(value, 0, 2))]
            case "ExpOf":
                s.export_of = EXPORT_OF[int(_between(value, 0, 2))]
            case "ExpLimW":
                self.plant.set_export_kw(self.unit, _between(value, 0, 100_000) / 1000)
            case "ExpLimEna":
                s.export_enabled = _between(value, 0, 1) == ENABLED
            case "ImpLimW":
                s.import_kw = _between(value, 0, 200_000) / 1000
            case "ImpLimEna":
                s.import_enabled = _between(value, 0, 1) == ENABLED
            case "ResSoC":
                s.reserve_pct = _between(value, 0, 100)
            case "ShdSoC":
                s.shed_pct = _between(value, 0, 100)
            case "ChaMaxW":
                s.charge_kw = _between(value, 0, 1000 * sheet.charge_kw) / 1000
            case "DisMaxW":
                s.discharge_kw = _between(value, 0, 1000 * sheet.discharge_kw) / 1000


def meters_of(job: Job, topology: Topology, unit: str) -> list[tuple[str | None, tuple[str, ...]]]:
    """The meters behind a unit: one for each transformer that serves it; the first unit has the site's own
    where none does."""
    own: list[tuple[str | None, tuple[str, ...]]] = [
        (ct.id, ct_phases(topology, ct)) for ct in topology.cts if ct.serves == unit
    ]
    if not own and unit == job.units[0].id and job.mains.grid:
        own = [(None, job.site.phases[:1])]
    return own


def _between(value: float, low: float, high: float) -> float:
    """A value in its range. Raises RefusedError outside of it."""
    if not low <= value <= high + 1e-9:
        raise RefusedError(address=False)
    return value
