"""Two stores on one file, edits, saves, crashes and changes from outside in any order: the file is what the
last writer wrote, unsaved work is in the store or its rescue, and no version is written over unseen."""

import shutil
import tempfile
from pathlib import Path

import pytest
from hypothesis import settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, precondition, rule

from lodestaff.desktop.rescue import find_rescued
from lodestaff.desktop.store import Store
from lodestaff.job import Change, edit, load_job, save_job
from lodestaff.job.journal import read
from lodestaff.quantities.errors import JobError
from lodestaff.samples import sample_path

WHO = st.integers(0, 1)
SHARES = st.integers(20, 60)


class Quiet(Store):
    """A store that reckons nothing: what is tried here is what it keeps."""

    def _ask(self, name, deep):
        pass


class Sharing(RuleBasedStateMachine):
    @initialize()
    def begin(self):
        self.place = Path(tempfile.mkdtemp())
        self.path = self.place / "job.json"
        shutil.copy(sample_path("far-byre"), self.path)
        self.on_disk = self.reserve_there()
        self.recorded = 0
        self.stores = [Quiet(), Quiet()]
        for store in self.stores:
            store.open(self.path)

    def reserve_there(self):
        return load_job(self.path).limits.reserve_soc

    def of(self, who):
        return self.stores[who].job.limits.reserve_soc

    @rule(who=WHO, share=SHARES)
    def edits(self, who, share):
        store, before = self.stores[who], self.of(who)
        taken = store.edit("a", Change("limits/reserve_soc", share / 100))
        assert taken is store.may_write
        assert self.of(who) == (share / 100 if taken else before)

    @rule(who=WHO)
    def undoes(self, who):
        self.stores[who].undo()

    @rule(who=WHO)
    def redoes(self, who):
        self.stores[who].redo()

    @rule(who=WHO)
    def saves(self, who):
        store = self.stores[who]
        free = store.may_write and not store.disk.differs()
        assert store.save(self.path) is free
        if free:
            self.on_disk = self.of(who)
            assert not store.changed

    @rule(who=WHO)
    def looks(self, who):
        self.stores[who].disk.look()

    @rule(who=WHO)
    def reads_anew(self, who):
        self.stores[who].read_anew()
        assert self.of(who) == self.on_disk

    @rule(who=WHO)
    def takes_over(self, who):
        self.stores[who].disk.take_over()
        self.stores[1 - who].disk.look()
        assert self.stores[who].may_write
        assert not self.stores[1 - who].may_write

    @rule(share=SHARES)
    def is_changed_outside(self, share):
        save_job(edit(load_job(self.path), Change("limits/reserve_soc", share / 100)), self.path)
        self.on_disk = self.reserve_there()

    @rule(who=WHO)
    def records(self, who):
        store = self.stores[who]
        taken = store.site.record("note", "gate stiff", "J. Marr")
        assert taken is store.may_write
        self.recorded += taken

    @precondition(lambda self: self.stores)
    @rule(who=WHO)
    def crashes(self, who):
        """The program ends without a word; the next one is offered what was unsaved."""
        old = self.stores[who]
        work = old._unsaved()
        assert old.rescue.write_now()
        old.disk.close()  # as the lock of a dead process: nobody's
        file = old.rescue._file
        self.stores[who] = new = Quiet()
        if work is not None:
            kept = file.read_text()
            assert f'"reserve_soc\\": {work.job.limits.reserve_soc}' in kept
            new.take(work.job, work.path, unsaved=True)
            new.disk.seen = work.seen
        else:
            assert not file.exists()
            new.open(self.path)
        old.close()
        assert find_rescued() == ([], [])  # this process runs

    @invariant()
    def the_file_is_what_was_written_last(self):
        if hasattr(self, "path"):
            assert self.reserve_there() == self.on_disk
            assert len(read(self.path)) == self.recorded
            assert sum(store.disk._lock is not None and store.disk._lock.mine for store in self.stores) <= 1

    def teardown(self):
        for store in getattr(self, "stores", ()):
            store.close()
        if hasattr(self, "place"):
            shutil.rmtree(self.place)


@pytest.mark.usefixtures("qtbot")
def test_two_stores_on_one_file():
    from hypothesis.stateful import run_state_machine_as_test

    run_state_machine_as_test(
        Sharing, settings=settings(max_examples=12, stateful_step_count=25, deadline=None)
    )


def test_a_file_that_is_gone_is_no_other_version(qtbot, larkmoor, tmp_path):
    path = tmp_path / "job.json"
    save_job(larkmoor, path)
    store = Quiet()
    store.open(path)
    path.unlink()
    assert store.save(path)
    assert load_job(path) == larkmoor
    path.write_text("{")
    with pytest.raises(JobError):
        store.read_anew()
    assert store.job == larkmoor
    store.close()
