"""Work off the window's thread: newest wins, faults arrive, stops stop; and the store under any walk of
edits."""

import random
import threading
import time

import pytest

from lodestaff.desktop.store import Store
from lodestaff.desktop.worker import STOPPED, UNDERWAY, Worker
from lodestaff.job import Change, edit
from lodestaff.quantities.errors import JobError, OurError
from lodestaff.quantities.going import may_go_on
from lodestaff.reckoning import Moment
from lodestaff.reckoning.results import compute
from lodestaff.samples import sample_path
from lodestaff.topology import State


@pytest.fixture
def worker(qtbot):
    faults = []
    made = Worker(faults.append)
    made.results, made.faults = [], faults
    typed = made.ask

    def ask(name, make):
        typed(
            name,
            make,
            lambda result: made.results.append((name, result, None)),
            lambda error: made.results.append((name, None, error)),
        )

    made.ask = ask
    yield made
    made.stop()


class TestWorker:
    def test_a_result_arrives_in_the_windows_thread(self, qtbot, worker):
        here, seen = threading.get_ident(), []
        Worker.ask(
            worker,
            "a",
            threading.get_ident,
            lambda made: seen.extend((made, threading.get_ident())),
            seen.append,
        )
        qtbot.waitUntil(lambda: bool(seen))
        assert seen[1] == here != seen[0]

    def test_what_is_halted_is_told_to_who_asked_and_the_thread_is_free_again(self, qtbot, worker):
        begun = threading.Event()

        def long():
            begun.set()
            while True:
                may_go_on()
                time.sleep(0.001)

        worker.ask("long", long)
        begun.wait(5)
        assert "long" in [name for _, name in UNDERWAY.tasks]
        assert worker.busy
        worker.halt("long")
        qtbot.waitUntil(lambda: bool(worker.results))
        name, result, error = worker.results[0]
        assert (name, result) == ("long", None)
        assert str(error) == STOPPED
        assert worker.faults == []
        assert worker not in [one for one, _ in UNDERWAY.tasks]
        worker.ask("next", lambda: 5)
        qtbot.waitUntil(lambda: len(worker.results) == 2)
        assert worker.results[1] == ("next", 5, None)

    def test_what_waits_can_be_halted_before_it_begins(self, qtbot, worker):
        gate, ran = threading.Event(), []
        worker.ask("other", gate.wait)
        worker.ask("a", lambda: ran.append(1))
        worker.halt("a")
        gate.set()
        qtbot.waitUntil(lambda: not worker.busy)
        assert ran == []

    def test_of_those_waiting_only_the_newest_is_run(self, qtbot, worker):
        gate, ran = threading.Event(), []
        worker.ask("other", gate.wait)
        for number in range(20):
            worker.ask("a", lambda number=number: ran.append(number) or number)
        gate.set()
        qtbot.waitUntil(lambda: any(name == "a" for name, *_ in worker.results))
        assert ran == [19]
        assert [result for name, result, _ in worker.results if name == "a"] == [19]

    def test_an_overtaken_result_is_dropped(self, qtbot, worker):
        gate, started = threading.Event(), threading.Event()

        def slow():
            started.set()
            gate.wait()
            return "old"

        worker.ask("a", slow)
        started.wait()
        worker.ask("a", lambda: "new")
        gate.set()
        qtbot.waitUntil(lambda: bool(worker.results))
        assert [result for _, result, _ in worker.results] == ["new"]

    def test_a_fault_arrives_as_a_fault(self, qtbot, worker):
        worker.ask("a", lambda: 1 / 0)
        qtbot.waitUntil(lambda: bool(worker.results))
        assert isinstance(worker.faults[0], ZeroDivisionError)
        assert isinstance(worker.results[0][2], OurError)
        worker.ask("a", lambda: 7)
        qtbot.waitUntil(lambda: len(worker.results) == 2)
        assert worker.results[1][1] == 7

    def test_a_persons_error_is_no_fault(self, qtbot, worker):
        def refuse():
            raise JobError("no such thing")

        worker.ask("a", refuse)
        qtbot.waitUntil(lambda: bool(worker.results))
        assert worker.faults == []
        assert str(worker.results[0][2]) == "no such thing"

    def test_dropped_work_says_nothing(self, qtbot, worker):
        gate = threading.Event()
        worker.ask("other", gate.wait)
        worker.ask("a", lambda: 1)
        worker.drop("a")
        gate.set()
        qtbot.wait(80)
        assert all(name != "a" for name, *_ in worker.results)

    def test_it_says_when_it_is_busy(self, qtbot, worker):
        seen = []
        worker.busy_changed.connect(seen.append)
        for number in range(3):
            worker.ask(str(number), lambda: time.sleep(0.01) or 1)
        qtbot.waitUntil(lambda: seen[-1:] == [False])
        assert seen == [True, False]


@pytest.fixture
def store(qtbot, larkmoor, warm_reckoner):
    made = Store()
    made.reckoner.memo = warm_reckoner.memo
    made.take(larkmoor, None, origin=sample_path("larkmoor"))
    yield made
    made.close()


def stands(store):
    return (
        store.results is not None and store.results.job is store.job and store.results.moment == store.moment
    )


class TestStore:
    @pytest.mark.parametrize(
        "error", [JobError("can't be"), RuntimeError("boom")], ids=["a person's", "ours"]
    )
    def test_a_try_out_that_fails_leaves_the_figures(self, qtbot, store, monkeypatch, error):
        qtbot.waitUntil(
            lambda: stands(store) and store.results.deep and not store.worker.busy, timeout=20_000
        )
        before, faults, troubles = store.results, [], []
        store.unexpected.connect(faults.append)
        store.trouble.connect(lambda *words: troubles.append(words))

        def fail(*_, **__):
            raise error

        monkeypatch.setattr("lodestaff.desktop.store.compute", fail)
        store.try_out(Change("limits/export_kw", 1.0))
        qtbot.waitUntil(lambda: not store.worker.busy)
        assert store.results is before
        assert store.preview is None
        assert faults == ([] if isinstance(error, JobError) else [error])
        assert troubles == []

    @pytest.mark.parametrize("seed", range(4))
    def test_after_any_walk_the_results_are_those_of_the_job(self, qtbot, store, warm_reckoner, seed):
        """Edits, undos, redos, try-outs and moments as they come; then against computing alone."""
        rng = random.Random(seed)
        for _ in range(25):
            verb = rng.choice(["reserve", "role", "undo", "redo", "moment", "try", "end"])
            if verb == "reserve":
                store.edit("r", Change("limits/reserve_soc", rng.randint(20, 90) / 100))
            elif verb == "role":
                circuit = rng.choice(store.job.circuits).id
                store.edit(
                    "c", Change(f"circuits/{circuit}/role", rng.choice(["held", "shed first", "grid only"]))
                )
            elif verb == "undo":
                store.undo()
            elif verb == "redo":
                store.redo()
            elif verb == "moment":
                store.set_moment(month=rng.randint(1, 12), hour=rng.randint(0, 23))
            elif verb == "try":
                store.try_out(Change("limits/export_kw", rng.randint(0, 3)))
            else:
                store.end_try()
        qtbot.waitUntil(lambda: stands(store) and store.results.deep, timeout=30_000)
        alone = compute(warm_reckoner, store.job, store.moment, True, True)
        assert store.results.figures == alone.figures
        assert [(one.code, one.status, one.text) for one in store.results.findings] == [
            (one.code, one.status, one.text) for one in alone.findings
        ]

    def test_a_try_out_never_touches_the_job(self, qtbot, store):
        before = store.job
        store.try_out(Change("limits/reserve_soc", 0.8))
        qtbot.waitUntil(lambda: store.preview is not None, timeout=30_000)
        assert store.preview.job.limits.reserve_soc == 0.8
        assert store.job is before
        store.try_out(Change("limits/reserve_soc", 99))  # can't be: passed over
        store.end_try()
        assert store.preview is None

    def test_an_edit_ends_a_try_out(self, qtbot, store):
        store.try_out(Change("limits/reserve_soc", 0.8))
        qtbot.waitUntil(lambda: store.preview is not None, timeout=30_000)
        store.edit("x", Change("limits/reserve_soc", 0.5))
        assert store.preview is None

    def test_the_switching_state_and_the_moments_grid_go_together(self, store):
        store.set_state(State("island", grid_present=False))
        assert not store.moment.grid
        store.set_moment(grid=True)
        assert store.state.name == "grid"

    def test_the_answer_is_kept_until_job_or_state_changes(self, store):
        first = store.answer()
        assert store.answer() is first
        store.set_state(store.state.with_hand("hybrid-feed", "open"))
        assert store.answer() is not first

    def test_without_a_job_nothing_answers(self, qtbot):
        empty = Store()
        assert empty.answer() is None
        assert empty.states() == ()
        assert not empty.edit("x", Change("title", "y"))
        assert not empty.save(__import__("pathlib").Path("nowhere.json"))
        empty.undo()
        empty.redo()
        empty.try_out(Change("title", "y"))
        empty.close()

    def test_unsaved_is_by_what_the_job_is(self, store, tmp_path):
        assert not store.changed
        store.edit("x", Change("limits/reserve_soc", 0.5))
        assert store.changed
        store.edit("back", Change("limits/reserve_soc", 0.3))
        assert not store.changed


def test_computing_is_pure(larkmoor, warm_reckoner):
    """The same job and moment twice, with others between: the same results to the bit."""
    first = compute(warm_reckoner, larkmoor, Moment(), True, True)
    for value in (0.4, 0.5):
        compute(warm_reckoner, edit(larkmoor, Change("limits/reserve_soc", value)), Moment(month=6))
    again = compute(warm_reckoner, larkmoor, Moment(), True, True)
    assert first.figures == again.figures
    assert first.findings == again.findings
    assert first.night_kwh == again.night_kwh
