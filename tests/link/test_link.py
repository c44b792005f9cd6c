"""The link: an independent client reads and writes the plant; whatever a device does is a state, never a
wrong value."""

from datetime import timedelta
from pathlib import Path

import pytest

from lodestaff.job import load_job
from lodestaff.link import Link, LinkState, PlantServer
from lodestaff.link.client import on_loopback
from lodestaff.link.definitions import SITE_SETTINGS, definitions, known, model, placed, point_of
from lodestaff.link.image import Image, RefusedError
from lodestaff.link.points import key_of, setting_points, to_points
from lodestaff.plant import Plant
from lodestaff.quantities.errors import JobError
from lodestaff.samples import sample_names, sample_path

from .fake import FakeDevice

WINDOWS = ("night",)


@pytest.fixture
def plant(larkmoor):
    plant = Plant(larkmoor)
    plant.advance(10)
    return plant


@pytest.fixture
def served(plant):
    with PlantServer(plant) as server:
        yield server


def link_to(port, timeout_s=0.4, host="127.0.0.1"):
    return Link(host, port, 1, WINDOWS, timeout_s)


@pytest.fixture
def link(served):
    link = link_to(served.port, 2.0)
    yield link
    link.close()


def fake(plant, twist=lambda *_: "", change=None, **more):
    registers = Image(plant, "hybrid").registers()
    if change:
        change(registers)
    return FakeDevice(registers, twist, **more)


# --- an independent client (pysunspec2's own)
# ---------------------------------------------------------------------
@pytest.fixture
def independent(served):
    import sunspec2.modbus.client as client

    definitions()  # both clients read the same definition files
    device = client.SunSpecModbusClientDeviceTCP(
        slave_id=1, ipaddr="127.0.0.1", ipport=served.port, timeout=2
    )
    device.scan()
    yield device
    device.close()


def test_an_independent_client_scans_the_plant(independent, plant):
    numbers = [number for number in independent.models if isinstance(number, int)]
    assert numbers == [1, *range(701, 715), 201, 64901]
    for models in independent.models.values():
        assert all(not one.error_info for one in models)
    assert independent.common[0].Md.value == "Hybrid 6 kVA"
    assert independent.DERMeasureAC[0].W.cvalue == pytest.approx(1000 * plant.units["hybrid"].ac_kw, abs=1)
    assert independent.DERStorageCapacity[0].SoC.cvalue == pytest.approx(55.0, abs=0.2)
    assert independent.models[201][0].W.cvalue == pytest.approx(1000 * plant.meter_kw, abs=1)


def test_an_independent_client_writes_the_plant(independent, plant):
    settings = independent.site_settings[0]
    settings.ExpLimW.cvalue = 2500
    settings.ExpLimW.write()
    settings.ExpLimEna.value = 1
    settings.ExpLimEna.write()
    assert plant.units["hybrid"].settings.export_kw == 2.5
    assert plant.units["hybrid"].settings.export_enabled
    controls = independent.DERCtlAC[0]
    controls.WMaxLimPct.cvalue = 40.0
    controls.WMaxLimPct.write()
    controls.WMaxLimPctEna.value = 1
    controls.WMaxLimPctEna.write()
    plant.units["hybrid"].hold_battery = True
    plant.advance(30)
    independent.DERMeasureAC[0].read()
    assert independent.DERMeasureAC[0].W.cvalue == pytest.approx(0.4 * 5800, rel=0.02)


# --- our client on the plant
# ----------------------------------------------------------------------------------------
def test_scan_and_read(link, plant):
    assert link.scan() is LinkState.OK
    assert all(found.known for found in link.models.values())
    meter = link.read(201, "W")
    assert (meter.state, meter.unit) == (LinkState.OK, "W")
    assert meter.value == pytest.approx(1000 * plant.meter_kw, abs=1)
    assert link.read(SITE_SETTINGS, "GrdPrf").value == "none"
    both = link.read_all(714, ("Prt.0.DCV", "Prt.2.IDStr"))
    assert both["Prt.2.IDStr"].value == "battery"


def test_what_the_device_does_not_give_is_absent(link):
    for number, path in ((203, "W"), (201, "nothing"), (201, "WphB"), (714, "Prt.9.DCW"), (5, "x")):
        assert link.read(number, path).state is LinkState.ABSENT


def test_settings_are_written_then_put_in_force_and_read_back(link, plant):
    now = plant.right_clock()
    for key, value in (
        ("export_kw", 3.6),
        ("reserve_soc", 30.0),
        ("charge_kw", 5.0),
        ("mode", "time of use"),
        ("window:night", (1.0, 5.0, 80.0, 3.0)),
        ("clock", now),
    ):
        written = link.write_setting(key, value)
        assert written.equal, key
    held = plant.units["hybrid"].settings
    assert (held.export_kw, held.export_enabled, held.reserve_pct) == (3.6, True, 30.0)
    window = held.windows[0]
    assert (window.start_min, window.end_min, window.target_pct, window.power_kw) == (60, 300, 80.0, 3.0)
    assert window.enabled
    assert abs(plant.device_clock("hybrid") - now) < timedelta(seconds=2)


def test_refusals(link, plant):
    """Not writable over the link, out of range, unknown to the device; the old value stands."""
    before = plant.units["hybrid"].settings.import_kw
    assert link.write_setting("import_kw", 23.0).state is LinkState.REFUSED
    assert link.write_setting("charge_kw", 99.0).state is LinkState.REFUSED
    assert link.write_setting("reserve_soc", 101.0).state is LinkState.REFUSED
    assert link.write_setting("charge_kw", 1e12).state is LinkState.REFUSED
    assert link.write_setting("window:noon", (1, 2, 50, 1)).state is LinkState.ABSENT
    assert link.write_setting("colour", 1.0).state is LinkState.ABSENT
    assert link.write_point(701, "W", 1.0).state is LinkState.REFUSED
    assert plant.units["hybrid"].settings.import_kw == before
    assert not link.write_setting("charge_kw", 99.0).equal
    assert link.read(201, "W").ok  # a refusal doesn't cost the connection


def test_a_slipped_limit_reads_back_unequal(larkmoor):
    from lodestaff.plant import PlantStart
    from lodestaff.plant.faults import fault_named

    plant = Plant(larkmoor, PlantStart(faults=(fault_named("export-unit"),)))
    with PlantServer(plant) as server:
        link = link_to(server.port, 2.0)
        written = link.write_setting("export_kw", 3.6)
        link.close()
    assert written.state is LinkState.OK
    assert (written.wanted, written.read_back) == ((3600.0,), (36000.0,))
    assert not written.equal


def test_the_plant_is_served_on_loopback_and_ends(plant):
    server = PlantServer(plant, speed=100.0).start()
    link = link_to(server.port, 2.0)
    assert link.scan() is LinkState.OK
    link.close()
    before = plant.now
    import time

    until = time.monotonic() + 5
    while plant.now - before < timedelta(seconds=20) and time.monotonic() < until:
        time.sleep(0.05)
    assert plant.now - before >= timedelta(seconds=20)
    with pytest.raises(JobError, match="port"):
        PlantServer(plant, server.port).start()
    server.stop()
    assert link_to(server.port).scan() is LinkState.NO_CONNECTION


def test_several_units_have_addresses_of_their_own(larkmoor):
    from lodestaff.job import Change, edit

    second = larkmoor.units[0].model_dump(mode="json") | {"id": "second", "name": "Second"}
    bank = larkmoor.banks[0].model_dump(mode="json") | {"id": "battery-2", "unit": "second"}
    job = edit(
        larkmoor,
        Change("units", [larkmoor.units[0].model_dump(mode="json"), second]),
        Change("banks", [larkmoor.banks[0].model_dump(mode="json"), bank]),
    )
    with PlantServer(Plant(job)) as server:
        first, other = Link("127.0.0.1", server.port, 1), Link("127.0.0.1", server.port, 2)
        assert first.read(1, "SN").value == "SIM-hybrid"
        assert other.read(1, "SN").value == "SIM-second"
        assert first.read(201, "W").ok
        assert other.read(201, "W").state is LinkState.ABSENT
        first.close(), other.close()


# --- devices that misbehave
# -------------------------------------------------------------------------------------------
@pytest.mark.parametrize(
    ("how", "state"),
    [
        ("stall", {LinkState.TIMEOUT}),
        ("close", {LinkState.LOST, LinkState.TIMEOUT}),
        ("garbage", {LinkState.GARBAGE, LinkState.TIMEOUT, LinkState.LOST}),
        ("short", {LinkState.GARBAGE, LinkState.TIMEOUT}),
        ("wrong id", {LinkState.TIMEOUT, LinkState.GARBAGE, LinkState.LOST}),
        ("refuse", {LinkState.REFUSED}),
    ],
)
@pytest.mark.parametrize("at", [1, 3, 10])
def test_trouble_at_any_request_is_a_state(plant, how, state, at):
    device = fake(plant, lambda number, *_: how if number == at else "")
    link = link_to(
        device.port, *((5.0,) if how == "refuse" else ())
    )  # it answers: a busy machine may be late
    states = {link.scan(), link.read(201, "W").state, link.read(713, "SoC").state}
    assert states - {LinkState.OK, LinkState.ABSENT} <= state
    assert states & state
    assert link.read(201, "W").value == pytest.approx(1000 * plant.meter_kw, abs=1)  # and it recovers
    link.close()
    device.close()


def test_a_late_answer_is_not_the_next_ones(plant):
    """The answer to a timed-out request comes while the next is under way; it must not be taken for it."""
    device = fake(plant, lambda number, *_: "late" if number == 20 else "", late_s=0.6)
    link = link_to(device.port, 0.3)
    assert link.scan() is LinkState.OK
    truth = {"SoC": 55.0, "W": 1000 * plant.meter_kw}
    for _ in range(12):
        for number, path in ((713, "SoC"), (201, "W")):
            value = link.read(number, path)
            assert not value.ok or value.value == pytest.approx(truth[path], abs=1)
    link.close()
    device.close()


@pytest.mark.parametrize("how", ["close", "stall"])
def test_cut_off_in_mid_write_is_never_equal(plant, how):
    """The setpoint went out, the point that puts it in force did not: the state says so."""
    writes = []

    def twist(_number, function, _address):
        if function == 16:
            writes.append(1)
            return how if len(writes) == 2 else ""
        return ""

    device = fake(plant, twist)
    link = link_to(device.port)
    written = link.write_setting("export_kw", 3.6)
    assert written.state in (LinkState.LOST, LinkState.TIMEOUT)
    assert not written.equal
    link.close()
    device.close()


@pytest.mark.parametrize("at", range(1, 30, 4))
def test_cut_off_anywhere_in_a_write_is_never_equal_unless_all_was_read_back(plant, at):
    device = fake(plant, lambda number, *_: "close" if number == at else "")
    link = link_to(device.port)
    written = link.write_setting("export_kw", 3.6)
    if written.equal:
        assert len(device.requests) < at or device.requests[-1][0] == 3
    else:
        assert written.state is not LinkState.OK
    link.close()
    device.close()


def test_no_marker_and_other_damage_is_garbage(plant):
    def change_at(offset, value):
        def change(registers):
            registers[offset] = value

        return change

    lengths = Image(plant, "hybrid")
    offset = 2
    for one in lengths.models:
        if one.model_id == 201:
            scale = next(at for path, _, at in placed(one) if path == "W_SF")
            meter, scale_at = offset, offset + scale
        offset += len(one.get_mb()) // 2
    cases = [(0, 0x1234), (meter + 1, 40), (scale_at, 99), (3, 60000)]
    for at, value in cases:
        device = fake(plant, change=change_at(at, value))
        link = link_to(device.port)
        link.scan()
        found = link.read(201, "W")
        assert not found.ok, (at, value)
        assert found.value is None
        link.close()
        device.close()


def test_a_model_that_moves_after_the_scan_is_noticed(plant):
    device = fake(plant)
    link = link_to(device.port)
    assert link.scan() is LinkState.OK
    at = link.models[201].address - 40000
    device.registers[at] = 203
    assert link.read(201, "W").state is LinkState.GARBAGE
    link.close()
    device.close()


def test_nobody_there():
    link = link_to(1, 0.3)
    assert link.scan() is LinkState.NO_CONNECTION
    assert link.read(201, "W").state is LinkState.NO_CONNECTION


@pytest.mark.parametrize(("host", "here"), [("127.0.0.1", True), ("127.3.2.1", True), ("::1", True),
                                            ("localhost", True),
                         ("192.0.2.7", False), ("inverter.example", False),
                         ("127.0.0.1.example", False)])  # fmt: skip
def test_a_device_elsewhere_is_read_only(host, here):
    assert on_loopback(host) is here
    if not here:
        link = Link(host, 502, timeout_s=0.1)
        assert link.write_setting("export_kw", 3.6).state is LinkState.READ_ONLY
        assert link.write_point(704, "WMaxLimPct", 50.0).state is LinkState.READ_ONLY
        assert link._client is None  # nothing was sent anywhere


# --- definitions and points
# --------------------------------------------------------------------------------------------
def test_our_definition_is_valid_by_the_packages_own_rules():
    import json
    from importlib import resources

    import sunspec2.mdef as mdef

    text = (resources.files("lodestaff.link") / "models" / "model_64901.json").read_text()
    assert not mdef.validate_model_def(json.loads(text))
    assert known(64901)
    assert not known(64902)


def test_definitions_are_not_taken_from_the_working_folder(tmp_path, monkeypatch):
    (tmp_path / "model_64902.json").write_text("{}")
    monkeypatch.chdir(tmp_path)
    assert "." not in definitions().get_model_defs_path()
    assert not known(64902)
    assert Path.cwd() == tmp_path


def test_every_setting_has_its_points_and_back(larkmoor):
    from lodestaff.commissioning.settings_sheet import settings_sheet
    from lodestaff.topology import build

    whole = model(SITE_SETTINGS, dict(NWin=4, W_SF=0, Pct_SF=-1, Win=[{} for _ in range(4)]))
    for setting in settings_sheet(larkmoor, build(larkmoor)):
        points = setting_points(setting.key, WINDOWS)
        assert points is not None, setting.key
        for path in (*points.setpoints, *([points.enable] if points.enable else [])):
            assert point_of(whole, path) is not None
            assert key_of(path, WINDOWS) == setting.key
    assert key_of("Win.3.Str", WINDOWS) == ""
    assert key_of("ID", WINDOWS) == ""
    assert to_points("mode", "time of use") == (1.0,)


def test_a_write_over_half_a_point_is_refused(plant):
    image = Image(plant, "hybrid")
    link_at = 40002 + sum(len(one.get_mb()) // 2 for one in image.models[:-1])
    export = next(at for path, _, at in placed(image.models[-1]) if path == "ExpLimW")
    with pytest.raises(RefusedError):
        image.write(link_at + export, [1])
    with pytest.raises(RefusedError):
        image.write(link_at + export + 1, [1, 1])
    with pytest.raises(RefusedError):
        image.write(39000, [1])
    image.write(link_at + export, [0, 1500, 1])
    assert plant.units["hybrid"].settings.export_kw == 1.5
    assert plant.units["hybrid"].settings.export_enabled


@pytest.mark.parametrize("name", sample_names())
def test_an_independent_client_scans_every_unit_of_every_kind(name):
    """Units behind modules, sealed batteries, three phases, two legs, no grid: each at its own address, a
    meter for each transformer."""
    import sunspec2.modbus.client as client

    definitions()
    plant = Plant(load_job(sample_path(name)))
    plant.advance(5)
    with PlantServer(plant) as server:
        for address, (unit, state) in enumerate(plant.units.items(), start=1):
            device = client.SunSpecModbusClientDeviceTCP(
                slave_id=address, ipaddr="127.0.0.1", ipport=server.port, timeout=2
            )
            device.scan()
            assert all(not one.error_info for models in device.models.values() for one in models)
            numbers = [number for number in device.models if isinstance(number, int)]
            assert numbers[:13] == [1, *range(701, 713)]
            assert (713 in numbers) == (state.battery is not None)
            assert device.common[0].SN.value == f"SIM-{unit}"[:32]
            assert device.models[702][0].WMaxRtg.cvalue == pytest.approx(1000 * state.sheet.rated_kw, abs=1)
            served = [ct for ct in plant.drawn.cts if ct.serves == unit]
            meters = [one for number in (201, 202, 203) for one in device.models.get(number, ())]
            own = len(served) or int(address == 1 and plant.job.mains.grid)
            assert len(meters) == own
            device.close()
