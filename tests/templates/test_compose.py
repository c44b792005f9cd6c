"""New jobs: every kind, every pair of choices, and any choices at all make a sound installation or a clear
refusal."""

import itertools

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from lodestaff.quantities.errors import JobError
from lodestaff.templates import CHOICES, KINDS, Wanted, compose
from lodestaff.templates.typed import built, changed, choices, options_of
from lodestaff.topology import State, answer, build, standard_states


def test_kinds_are_a_to_s():
    assert "".join(KINDS) == "ABCDEFGHIJKLMNOPQRS"
    assert len({compose(point.wanted).id for point in KINDS.values()}) == 19


def sound(wanted):
    """A job of choices: every part has its place, and each live neutral network its one bond with and
    without grid."""
    job = compose(wanted)
    topology = build(job)
    assert topology.orphans == ()
    assert topology.unwired == ()
    for state in standard_states(topology):
        found = answer(topology, state)
        assert found.settled.at_rest
        assert found.hazards == (), (state, found.hazards)
        if state.name in ("grid", "island", "generator", "bypass"):
            for network in found.networks:
                assert len(network.bonds) == 1, (state.name, network)
                assert network.behind_rcd == ()
    return job, topology


# The supplies and earthing of a pack: what the trade has there (common practice).
EARTHING = {"uk": ("TN-C-S", "TN-S", "TT", "TN-C"), "anz": ("MEN",), "na": ("TN-C-S",)}
PHASES = ("single phase", "two of three phases", "three phases")
SUPPLIES = {"uk": PHASES, "anz": PHASES, "na": ("120/240 V", "120/208 V")}


@st.composite
def any_choices(draw):
    data = {}
    for key in CHOICES:
        options = options_of(key)
        if options == ("no", "yes"):
            data[key] = draw(st.booleans())
        elif options:
            data[key] = draw(st.sampled_from(options))
    data["earthing"] = draw(st.sampled_from(EARTHING[data["pack"]]))
    data["system"] = draw(st.sampled_from(SUPPLIES[data["pack"]]))
    data["grid"] = data["grid"] or draw(st.booleans())
    data["bypass"] = draw(st.sampled_from(("none", data["bypass"])))
    data["interlock"] = data["interlock"] and draw(st.booleans())
    data["units"] = draw(st.integers(1, 3))
    data["rating_a"] = draw(st.sampled_from([None, 60.0, 100.0, 200.0]))
    return data


@settings(max_examples=250)
@given(any_choices())
def test_any_choices_make_a_sound_job_or_are_refused_with_words(data):
    try:
        wanted = built(data)
    except JobError:
        return  # what is said is tested below
    sound(wanted)


PAIRED = {
    "backup": ("none", "outlet", "panel", "whole building"), "bypass": ("none", "by hand", "automatic"),
    "generator": (False, True), "charger": (False, True), "second_building": (False, True),
    "surplus": (False, True),
    "shutdown": (False, True), "units": (1, 2), "outbuilding": (False, True), "metered": (False, True),
}  # fmt: skip


@pytest.mark.parametrize(("one", "other"), list(itertools.combinations(PAIRED, 2)))
def test_every_pair_of_choices_of_a_hybrid(one, other):
    made = 0
    for a, b in itertools.product(PAIRED[one], PAIRED[other]):
        try:
            wanted = built({one: a, other: b})
        except JobError:
            continue
        sound(wanted)
        made += 1
    assert made


@pytest.mark.parametrize(
    "family", ["hybrid", "string inverter and battery unit", "microinverters and battery unit"]
)
@pytest.mark.parametrize("system", ["three phases", "two of three phases"])
@pytest.mark.parametrize("backup", ["none", "panel", "whole building"])
@pytest.mark.parametrize(("pack", "earthing"), [("uk", "TN-S"), ("anz", "MEN")])
def test_several_phases_of_which_a_unit_feeds_one(family, system, backup, pack, earthing):
    """Circuits on phases that no unit feeds are left to the grid, and none that is to be held is dead."""
    job, topology = sound(
        built({"family": family, "system": system, "backup": backup, "pack": pack, "earthing": earthing})
    )
    dark = answer(topology, next(state for state in standard_states(topology) if state.name == "island"))
    for circuit in job.circuits:
        if circuit.role in ("held", "shed first"):
            assert dark.fed[circuit.id], circuit.id
    assert any(circuit.role == "held" for circuit in job.circuits) == (backup != "none")


def test_what_does_not_go_together_is_said():
    for data, words in (
        ({"arrangement": "side by side"}, "two units or more"),
        ({"arrangement": "side by side", "units": 2, "backup": "none"}, "panel of its own"),
        ({"arrangement": "one on each phase", "units": 2}, "fewer units"),
        ({"interlock": True, "backup": "outlet"}, "backup panel"),
        ({"bypass": "by hand", "backup": "none"}, "feeds a board"),
        ({"grid": False}, "whole building"),
        ({"backup": "outlet", "family": "string inverter and battery unit"}, "belongs to a hybrid"),
        ({"rating_a": -3}, "greater than 0"),
    ):
        with pytest.raises(JobError, match=words):
            built(data)


def test_choices_are_typed_as_words():
    wanted = changed(None, ["pack=anz", "units=2", "charger=yes", "rating_a=63", "battery_modules=4,2"])
    assert (wanted.pack, wanted.units, wanted.charger, wanted.rating_a, wanted.battery_modules) == (
        "anz",
        2,
        True,
        63,
        (4, 2),
    )
    for text, words in (
        ("pack=mars", "choose from"),
        ("charger=perhaps", "yes or no"),
        ("rating_a=big", "one like 80"),
        ("colour=red", "key=value"),
        ("units", "key=value"),
        ("battery_modules=x", "6 or 4,2"),
    ):
        with pytest.raises(JobError, match=words):
            changed(None, [text])
    assert {row["key"] for row in choices()} == set(CHOICES)
    assert all(row["words"] != row["key"] for row in choices())


def test_a_fact_that_nobody_read_stays_assumed():
    """Nothing is guessed: without a rating typed, none is there, and export is nought until it is
    permitted."""
    job = compose(Wanted())
    assert job.site.supply.rating_a.value is None
    assert job.limits.export_kw == 0
    assert not job.site.record_low_c.firm


def test_without_a_grid_units_on_phases_of_their_own_are_refused():
    """Once found by chance: no service made the bond, and no relay did."""
    with pytest.raises(JobError, match="share no service and no bond; choose together"):
        built(
            {
                "grid": False,
                "pack": "na",
                "system": "120/240 V",
                "arrangement": "one on each phase",
                "backup": "whole building",
                "units": 2,
            }
        )


def test_what_is_there_already_follows_the_units_where_there_is_no_grid():
    job = compose(Wanted(grid=False, backup="whole building", existing="string inverter"))
    topology = build(job)
    found = answer(topology, State("island", grid_present=False))
    assert found.unit_modes == {"hybrid": "island", "existing": "follows"}
