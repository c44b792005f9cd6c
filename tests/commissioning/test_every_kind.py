"""Steps and settings of every sample and kind: only of what stands there, in an order that harms nobody."""

import pytest

from lodestaff.catalogue.families import sealed
from lodestaff.commissioning.ct_steps import seen_loads
from lodestaff.commissioning.procedure import procedure
from lodestaff.commissioning.settings_sheet import settings_sheet
from lodestaff.electrical.permission import held_back
from lodestaff.job import Change, edit, load_job
from lodestaff.samples import sample_names, sample_path
from lodestaff.templates import KINDS, compose
from lodestaff.topology import build
from lodestaff.topology.questions import asked, ct_phases, has_generator, led

JOBS = [*(f"sample {name}" for name in sample_names()), *(f"kind {letter}" for letter in KINDS)]


@pytest.fixture(scope="module", params=JOBS)
def site(request):
    how, name = request.param.split(" ", 1)
    job = load_job(sample_path(name)) if how == "sample" else compose(KINDS[name].wanted)
    topology = build(job)
    return job, topology, procedure(job, topology)


def words(steps):
    return " ".join(f"{step.text} {step.needs}" for step in steps)


def test_a_step_waits_only_for_steps_before_it_and_proves_what_is_there(site):
    _, topology, steps = site
    known = set(topology.parts) | {one.id for one in topology.conductors}
    seen = set()
    for step in steps:
        assert set(step.waits_for) <= seen, step.id
        assert step.id not in seen
        assert set(step.proves) <= known, step.id
        seen.add(step.id)


def test_units_behind_modules_have_no_string(site):
    """One module on one unit: no string volts, no insulation test, no DC isolator; a map of what sits
    where."""
    job, topology, steps = site
    for unit in job.units:
        if not job.sheet_of(unit).module_level or unit.existing:
            continue
        mine = [s.id for s in job.strings if s.unit == unit.id]
        ids = {step.id for step in steps}
        for string in mine:
            assert not ids & {f"insulation-{string}", f"voc-{string}", f"isc-{string}"}
            assert f"map-{string}" in ids
        assert f"start-{unit.id}-array" not in ids
        one = next(step for step in steps if step.id.startswith("module-"))
        module = next(iter(one.rule.parts))
        assert module[1] == 1
        assert not any(
            name.startswith(f"{unit.id}-array") and name.endswith("isolator") for name in topology.parts
        )


def test_what_stood_there_before_is_looked_over_and_not_tested_anew(site):
    job, _, steps = site
    for unit in job.units:
        if unit.existing:
            mine = [s.id for s in job.strings if s.unit == unit.id]
            ids = {step.id for step in steps}
            assert f"there-{unit.id}" in ids
            assert not {one for one in ids if one.startswith(f"set-{unit.id}-")}
            assert not ids & {f"{kind}-{string}" for kind in ("voc", "isc", "insulation") for string in mine}


def test_strings_behind_optimisers_are_never_tested_at_full_volts(site):
    """At rest about a volt each, the modules without one at their own; at full volts only where the sheet
    names no safe state."""
    job, _, steps = site
    by_id = {step.id: step for step in steps}
    for string in job.strings:
        if job.optimisers_on(string) == "none" or not job.modules_in(string.id):
            continue
        assert "electronics disconnected" not in by_id[f"insulation-{string.id}"].text
        assert "its optimisers stay in" in by_id[f"insulation-{string.id}"].text
        assert f"isc-{string.id}" not in by_id
        assert f"released-{string.id}" in by_id
        volts = by_id[f"voc-{string.id}"]
        if volts.needs:
            assert "noted on the roof" in volts.needs
            continue
        count = sum(n for _, n in job.modules_in(string.id))
        sheet = job.sheets.optimisers.get(string.optimiser)
        if job.optimisers_on(string) == "all":
            assert volts.rule.high <= 1.5 * count  # about a volt each
        elif sheet is not None and sheet.safe_v is not None:
            assert sum(number for _, number in volts.rule.parts) < count
            assert volts.rule.at_rest_v > 0
        else:
            assert "no safe state" in volts.text


def test_sealed_batteries_have_nothing_that_an_installer_touches(site):
    job, topology, steps = site
    for unit in job.units:
        bank = job.bank_of(unit)
        if bank is None or not sealed(job.sheet_of(unit)):
            continue
        assert f"battery-{bank.id}" not in {step.id for step in steps}
        start = next(step for step in steps if step.id == f"start-{unit.id}-battery")
        for word in ("terminal", "terminator", "address", "isolator", "disconnect"):
            assert word not in f"{start.text} {start.caution}".lower()
        assert f"{bank.id}-isolator" not in topology.parts
        assert f"{bank.id}-run" not in {one.run for one in topology.conductors}


def test_lifting_is_by_weight(site):
    job, _, steps = site
    for bank in job.banks:
        weight = job.sheets.batteries[bank.sheet].weight_kg
        cautions = " ".join(step.caution for step in steps if step.id.startswith("start-"))
        if weight is not None and weight > 100:
            assert f"{weight:g} kg: a lifting aid" in cautions
        assert "two lifters" not in cautions


def test_without_an_island_nothing_is_said_of_one(site):
    job, topology, steps = site
    if asked(topology).has_backup:
        return
    ids = {step.id for step in steps}
    assert not ids & {"outage", "transfer", "return", "bypass", "island"}
    assert not any(one.startswith("bond-") for one in ids)
    text = words([step for step in steps if step.id != "explain"])
    for word in ("island", "outage", "bypass", "backup"):
        assert word not in text.lower(), word
    assert "nothing here works in an outage" in next(step.text for step in steps if step.id == "explain")
    sheet = settings_sheet(job, topology)
    assert not any("backup port" in one.shown or "outage" in one.shown for one in sheet)
    assert not any(one.key == "shed_soc" for one in sheet)


def test_without_a_grid_nothing_meets_one(site):
    job, topology, steps = site
    if job.mains.grid:
        return
    ids = {step.id for step in steps}
    assert not ids & {"supply-v", "ct", "export", "outage", "transfer", "return"}
    assert not any(one.endswith("-grid") for one in ids)
    pack = job.pack
    for step in steps:
        text = f"{step.text} {step.caution} {step.needs}"
        for word in (pack.word("operator"), pack.word("cutout"), "main fuse", "export", "import", "the grid"):
            assert word not in text.replace("no grid", "").replace("No grid", ""), (step.id, word)
    keys = {one.key for one in settings_sheet(job, topology)}
    assert not keys & {"export_kw", "import_kw", "export_of", "reserve_soc"}
    assert not any(
        "fuse" in one.because or pack.word("permission") in one.because
        for one in settings_sheet(job, topology)
    )
    for step in steps:
        if step.id.startswith("generator-"):
            assert pack.caution("generator") in step.caution
    assert pack.caution("generator") in steps[0].caution  # its start is locked out before anything


def test_profile_and_limits_stand_before_anything_closes_onto_the_grid(site):
    job, _, steps = site
    order = [step.id for step in steps]
    closing = [order.index(one) for one in order if one.endswith("-grid")]
    setting = [order.index(one) for one in order if one.startswith("set-")]
    assert not closing or max(setting) < min(closing)
    by_id = {step.id: step for step in steps}
    last = order[max(setting)]
    for number in closing:
        assert last in by_id[order[number]].waits_for
    assert len(closing) == (len(job.units) if job.mains.grid else 0)


def test_a_missing_permission_holds_the_grid_back_and_says_what_may_be_done(site):
    job, topology, steps = site
    for step in steps:
        if not step.id.endswith("-grid"):
            continue
        if held_back(job):
            assert "until then" in step.needs
            assert ("its island may run" in step.needs) == asked(topology).has_backup
        else:
            assert step.needs == ""


def test_each_transformer_has_a_step_on_each_leg_with_a_load_that_it_sees(site):
    job, topology, steps = site
    tried = [step for step in steps if step.id == "ct" or step.id.startswith("ct-")]
    found = [step for step in tried if not step.id.endswith("-unseen")]
    wanted = sum(len(ct_phases(topology, ct)) for ct in topology.cts) if job.mains.grid else 0
    assert len(found) == wanted
    seen = asked(topology).seen
    for one, step in zip(seen_loads(job, topology) if job.mains.grid else (), found, strict=True):
        assert (step.measure.ct, step.measure.leg) == (one.ct.id, one.leg) or not step.measure.ct
        if one.board:
            assert topology.parts[one.board].name in step.text
            assert one.leg in step.text
            continue
        if one.circuit is None:
            assert step.needs or one.ct.watches == "one source"
            continue
        assert one.circuit.id in seen[one.ct.id]
        assert one.leg in one.circuit.legs
        single = len(one.circuit.legs) == 1 or len(ct_phases(topology, one.ct)) == 1
        assert single or one.ct.watches == "charger"  # a load between two legs shows on both
        assert one.circuit.name in step.text
    for step in tried:
        if step.id.endswith("-unseen"):
            ct = next(ct for ct in topology.cts if ct.id == step.measure.ct)
            circuit = job.circuit(step.measure.subject)
            assert circuit.id not in seen[ct.id] or not set(ct_phases(topology, ct)) & set(circuit.legs)


def test_the_outage_step_names_what_lives_and_what_is_dead_in_the_graph(site):
    job, topology, steps = site
    step = next((one for one in steps if one.id in ("outage", "island")), None)
    if step is None:
        return
    found = asked(topology)
    waits = {c.id for c in job.circuits if c.role.value == "surplus only"} & set(found.lives())
    lives, dead = set(found.lives()) - waits, found.dead()
    assert f"{len(lives)} circuits live" in step.text
    assert lives | waits | set(dead) == {c.id for c in job.circuits}
    for name in waits:
        assert job.circuit(name).name in step.text.partition("Only with surplus: ")[2]
    verb = "is dead" if len(dead) == 1 else "are dead"
    assert (f"{len(dead)} {verb}" in step.text) == bool(dead)
    head, _, tail = step.text.partition(verb)
    for name in lives:
        assert job.circuit(name).name in head
    for name in dead:
        assert job.circuit(name).name in tail


def test_the_bond_is_proven_by_counting(site):
    """A few volts between neutral and earth are there with a bond elsewhere too: a loop that closes proves
    one, resistance while dead and stray current under load that there is no other."""
    _, topology, steps = site
    kinds = {}
    for step in steps:
        if step.id.startswith("bond-"):
            kinds.setdefault(step.measure.kind, []).append(step)
    islands = asked(topology).islands
    assert len(kinds.get("island loop", ())) == len(islands)
    assert len(kinds.get("neutral to earth", ())) >= len(islands)
    assert bool(kinds.get("residual")) == bool(islands)
    for step in kinds.get("neutral to earth", ()):
        assert (step.rule.low is None) != (step.rule.high is None)
        assert step.stage == "dead tests"
        assert "prove-dead" in step.waits_for or step.waits_for[0].startswith("bond-dead")
    assert "volts between neutral and earth" not in words(steps)


def test_the_supplys_own_bond_is_never_opened(site):
    _, _, steps = site
    for step in steps:
        if step.id.startswith("bond-parted"):
            assert step.measure.face != "supply-bond"


def test_no_value_is_quoted_that_no_sheet_gives(site):
    job, _, steps = site
    for step in steps:
        if step.id.startswith("transfer"):
            unit = next(one for one in job.units if one.id == step.measure.unit)
            own = job.sheets.hybrids.get(unit.sheet)
            assert ("no sheet of the job" in step.text) != (own is not None and own.transfer)
        if "unit's sheet" in getattr(step.rule, "source", "") and "half as much" in step.rule.source:
            assert job.sheets.hybrids[
                next(one for one in job.units if one.id == step.measure.unit).sheet
            ].transfer


def test_a_generator_is_locked_out_first_and_never_meets_the_grid(site):
    job, topology, steps = site
    ids = [step.id for step in steps if step.id.startswith("generator-")]
    assert bool(ids) == has_generator(topology)
    if ids:
        started = any(getattr(part, "started_by", "") for part in job.parts)
        assert ids[0].startswith("generator-locked") == started
        assert any(one.startswith("generator-apart") for one in ids) == job.mains.grid


def test_legs_are_told_apart_wherever_there_are_several(site):
    job, topology, steps = site
    ids = {step.id for step in steps}
    several = job.mains.grid and len(job.site.phases) > 1
    assert ("supply-line-v" in ids) == several
    fed = {c.b for c in topology.conductors}
    for unit in job.units:
        wired = topology.unit(unit.id).grid in fed and not unit.existing
        assert (f"legs-{unit.id}" in ids) == (several and wired)


def test_steps_and_settings_of_several_units_carry_their_unit(site):
    _, topology, steps = site
    texts = [step.text for step in steps]
    assert len(set(texts)) == len(texts)
    names = [
        part.name
        for part in topology.parts.values()
        if part.kind in ("isolator", "relay", "battery", "shutdown")
    ]
    switches = [one for one in names if one not in ("Main switch", "Main breaker")]
    assert len(set(switches)) == len(switches)


def test_each_unit_is_told_its_own_share_and_no_more_than_any_sheet(site):
    job, topology, _ = site
    sheet = settings_sheet(job, topology)
    groups = led(topology)
    for key, limit in (("export_kw", job.limits.export_kw), ("import_kw", job.limits.import_kw)):
        told = {one.unit: one.value for one in sheet if one.key == key}
        # units that keep a limit by one transformer are told the same; groups that don't know of each other
        # add up
        total = sum(
            max((told[name] for name in group.units if name in told), default=0.0) for group in groups
        )
        whole = all(group.whole or group.ct is None for group in groups)
        assert total <= limit * (1 if whole else 1.0001) + 1e-6, key
    for unit in job.units:
        bank = job.bank_of(unit)
        if bank is None:
            continue
        cells, own = job.sheets.batteries[bank.sheet], job.sheet_of(unit)
        for key, most in (
            ("charge_kw", min(own.charge_kw, bank.modules * cells.module_kwh * cells.charge_c_per_h)),
            (
                "discharge_kw",
                min(own.discharge_kw, bank.modules * cells.module_kwh * cells.discharge_c_per_h),
            ),
        ):
            assert next(one.value for one in sheet if (one.unit, one.key) == (unit.id, key)) <= most + 1e-9


def test_a_unit_that_obeys_nothing_is_told_no_limit(site):
    job, topology, _ = site
    sheet = settings_sheet(job, topology)
    for group in led(topology):
        if group.ct is None:
            assert not [one for one in sheet if one.unit in group.units and one.key == "export_kw"]


def test_zero_export_has_a_band(site):
    job, _, steps = site
    if not job.mains.grid or job.limits.export_kw > 0:
        return
    for step in steps:
        if step.text.startswith("Zero export") and not step.needs:
            assert 0 < step.rule.high <= 0.05 * sum(job.sheet_of(unit).rated_kw for unit in job.units)


def test_a_sheets_own_band_rules(larkmoor):
    job = edit(
        larkmoor, Change("limits/export_kw", 0.0), Change("sheets/hybrids/hybrid-6/zero_export_band_kw", 0.05)
    )
    step = next(one for one in procedure(job, build(job)) if one.id == "export")
    assert step.rule.high == pytest.approx(0.05)


def test_grid_first_units_are_told_before_they_connect(larkmoor):
    job = edit(larkmoor, Change("sheets/hybrids/hybrid-6/start_order", ["grid", "battery", "array"]))
    steps = procedure(job, build(job))
    grid = next(one for one in steps if one.id == "start-hybrid-grid")
    assert "before it connects" in grid.text
    assert "set-hybrid-grid_profile" in [one.id for one in steps[: steps.index(grid)]]
