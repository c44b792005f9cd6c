"""The simulated site behaves like its kind: units behind modules, optimisers, islands that others follow,
generators, a lost meter, windows, own ports."""

import pytest

from lodestaff.job import Change, edit, load_job
from lodestaff.plant import Plant, PlantStart
from lodestaff.plant.faults import fault_named
from lodestaff.plant.instruments import Instruments
from lodestaff.samples import sample_path


def plant_of(name, *faults, **more):
    start = PlantStart(faults=tuple(fault_named(fault) for fault in faults), **more)
    return Plant(load_job(sample_path(name)), start)


def test_units_behind_modules_give_each_its_own_best():
    whole, silent = plant_of("pinfold-terrace-3"), plant_of("pinfold-terrace-3", "module-unit-silent")
    for plant in (whole, silent):
        plant.advance(20)
    counts = [Instruments(plant).reporting("branch-1") for plant in (whole, silent)]
    assert counts[1] == counts[0] - 1
    faces = {face: len(set(map(round, watts))) for face, watts in whole.units["branch-1"].modules_w.items()}
    assert all(number <= len(whole.job.faces) for number in faces.values())
    one = whole.units["branch-1"]
    assert one.pv_there_kw <= one.sheet.rated_kw / 0.9


def test_optimisers_rest_at_about_a_volt_until_they_are_released():
    plant = plant_of("ludd-hall-annexe")
    resting = Instruments(plant).string_voc_v("string-1")
    count = plant.strings["string-1"].modules
    assert 0.7 * count < resting < 1.3 * count
    plant.release("hybrid-1")
    assert Instruments(plant).string_voc_v("string-1") > 20 * count


def test_a_string_the_wrong_way_round_reads_below_zero_and_gives_nothing(larkmoor):
    plant = Plant(larkmoor, PlantStart(faults=(fault_named("string-reversed"),)))
    assert Instruments(plant).string_voc_v("string-2") < -200
    plant.advance(5)
    assert plant.units["hybrid"].trackers["B"] == (0.0, 0.0)


def test_what_follows_an_island_yields_to_its_frequency():
    """Sun for more than circuits and battery take: the follower goes back, nothing trips."""
    plant = plant_of("brockle-vicarage")
    plant.switch("main-isolator", "open")
    plant.units["battery-unit"].battery.energy_kwh = plant.units["battery-unit"].battery.capacity_kwh
    plant.advance(30)
    follower = plant.units["inverter"]
    assert follower.mode == "follows"
    assert follower.ac_kw < 1.0 < follower.pv_there_kw
    assert plant.units["battery-unit"].tripped == ""


def test_one_that_does_not_yield_takes_the_island_down():
    job = load_job(sample_path("brockle-vicarage"))
    field = f"sheets/inverters/{job.unit('inverter').sheet}/frequency_curtailment"
    plant = Plant(edit(job, Change(field, False)))
    plant.switch("main-isolator", "open")
    plant.units["battery-unit"].battery.energy_kwh = plant.units["battery-unit"].battery.capacity_kwh
    plant.advance(30)
    assert plant.units["battery-unit"].tripped == "frequency"


def test_a_generator_starts_by_the_charge_warms_up_and_stops():
    plant = plant_of("skerry-light-cottage")
    master, one = plant.units["hybrid"], plant.generators["generator"]
    master.settings.generator_start_pct, master.settings.generator_stop_pct = 30.0, 60.0
    plant.advance(5)
    assert not one.called
    master.battery.energy_kwh = 0.25 * master.battery.capacity_kwh
    plant.advance(5)
    assert (one.called, one.position) == (True, "stopped")  # it warms up first
    plant.advance(60)
    assert one.position == "running"
    assert master.mode == "generator"
    assert master.battery.power_kw < 0
    assert 0 < plant.wires.generators_kw() <= one.part.usable_kw * 1.02
    master.battery.energy_kwh = 0.65 * master.battery.capacity_kwh
    plant.advance(5)
    assert one.position == "stopped"
    assert master.mode == "island"


@pytest.mark.parametrize("how", ["locked", "start-pair-open"])
def test_a_generator_that_is_called_and_cannot_start(how):
    plant = plant_of("skerry-light-cottage", *(() if how == "locked" else (how,)))
    if how == "locked":
        plant.lock_generator("generator", True)
    plant.units["hybrid"].settings.generator_start_pct = 100.0
    plant.advance(60)
    assert plant.generators["generator"].called
    assert plant.generators["generator"].position == "stopped"


@pytest.mark.parametrize(("faults", "goes_on"), [((), False), (("meter-lost",), True)])
def test_a_lost_meter_stops_what_could_go_out(larkmoor, faults, goes_on):
    plant = Plant(larkmoor, PlantStart(faults=tuple(fault_named(name) for name in faults)))
    plant.units["hybrid"].hold_battery = True
    plant.advance(20)
    plant.pull_meter("hybrid-ct", True)
    plant.advance(20)
    assert (plant.site_kw < -0.3) is goes_on


def test_windows_hold_and_give_by_the_clock(larkmoor):
    plant = Plant(larkmoor)
    unit = plant.units["hybrid"]
    unit.settings.mode = "time of use"
    slot = unit.settings.windows[0]
    slot.start_min, slot.end_min, slot.enabled, slot.target_pct, slot.power_kw = 0, 1439, True, 20.0, 2.0
    for isolator in ("hybrid-array-a-isolator", "hybrid-array-b-isolator"):
        plant.switch(isolator, "open")
    slot.kind = "give"
    plant.advance(30)
    assert unit.battery.power_kw == pytest.approx(2.0, rel=0.05)
    slot.kind = "hold"
    plant.run_circuit("autoclave", True)
    plant.advance(30)
    assert abs(unit.battery.power_kw) < 0.1


def test_units_on_one_meter_share_whatever_their_order():
    """Two paralleled units give in proportion, and the same when the list is turned round."""
    job = load_job(sample_path("ludd-hall-annexe"))
    turned = job.model_copy(update={"units": tuple(reversed(job.units))})
    found = []
    for one in (job, turned):
        plant = Plant(one)
        for circuit in one.circuits:
            plant.run_circuit(circuit.id, True)
        for name in ("hybrid-1", "hybrid-2"):
            plant.release(name)
        plant.advance(30)
        found.append({name: unit.ac_kw for name, unit in plant.units.items()})
    for name, kw in found[0].items():
        assert found[1][name] == pytest.approx(kw, rel=0.02)


def test_the_link_has_a_meter_for_each_transformer():
    from lodestaff.link.image import meters_of

    plant = plant_of("sotol-ridge-house")
    behind = [meters_of(plant.job, plant.drawn, unit.id) for unit in plant.job.units]
    assert sum(len(rows) for rows in behind) == len(
        [ct for ct in plant.drawn.cts if ct.serves in plant.units]
    )
    assert all(len(legs) == 2 for rows in behind for _, legs in rows)
    brindle = plant_of("brindle-mesa-field-station")
    assert not any(meters_of(brindle.job, brindle.drawn, unit.id) for unit in brindle.job.units)
