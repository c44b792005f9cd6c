"""Two windows and one file: one writes, the other follows; two versions are never laid over one another."""

import json

import pytest

from lodestaff.desktop.shell.window import Window
from lodestaff.job import Change, edit, load_job, save_job
from lodestaff.job.journal import append, read, standing
from lodestaff.job.lock import lock_path


@pytest.fixture
def path(larkmoor, tmp_path):
    path = tmp_path / "job.json"
    save_job(larkmoor, path)
    return path


@pytest.fixture
def windows(qtbot, path):
    made = []
    for _ in range(2):
        window = Window()
        qtbot.addWidget(window)
        window.files.open_path(path)
        made.append(window)
    yield made
    for window in made:
        window.files.leaving = True
        window.close()
    assert not lock_path(path).exists()


def words(window, key):
    return " ".join(window.notices.words()) if key in window.notices._lines else ""


def reserve(window):
    return window.store.job.limits.reserve_soc


def test_the_second_window_opens_to_read_and_follows(windows, path):
    first, second = windows
    assert first.store.may_write
    assert "Opened to read" in words(second, "writer")
    before = reserve(second)
    assert not second.store.edit("a", Change("limits/reserve_soc", 0.41))
    assert reserve(second) == before
    assert words(second, "writer").count("Not changed") == 1
    assert not second.store.site.record("note", "gate stiff", "J. Marr")
    assert second.store.attach(path) is None
    first.store.edit("a", Change("limits/reserve_soc", 0.43))
    first.store.save(path)
    first.store.site.record("note", "gate stiff", "J. Marr")
    second.store.disk.look()
    assert reserve(second) == 0.43
    assert [entry.text for entry in second.store.site.entries] == ["gate stiff"]
    assert not second.store.changed


def test_taken_over_the_first_reads_and_keeps_what_it_changed(windows, path):
    first, second = windows
    first.store.edit("a", Change("limits/reserve_soc", 0.43))
    second.sharing.take_over()
    assert second.store.may_write
    assert words(second, "writer") == ""
    first.store.disk.look()
    assert "Taken over. Your changes are still here" in words(first, "writer")
    assert not first.store.save(path)
    assert reserve(first) == 0.43
    assert first.store.save(path.with_name("copy.json"))
    assert load_job(path.with_name("copy.json")).limits.reserve_soc == 0.43
    assert first.store.may_write


def test_let_go_the_second_may_write(windows, path):
    first, second = windows
    first.store.edit("a", Change("limits/reserve_soc", 0.43))
    first.store.save(path)
    first.store.disk.close()
    second.store.disk.look()
    assert "let it go" in words(second, "writer")
    second.sharing.take_over()
    assert reserve(second) == 0.43
    assert second.store.edit("a", Change("limits/reserve_soc", 0.44))


def test_another_version_on_disk_is_never_saved_over(windows, path, larkmoor, qtbot):
    first, _ = windows
    save_job(edit(larkmoor, Change("limits/reserve_soc", 0.51)), path)
    first.store.edit("a", Change("limits/reserve_soc", 0.43))
    first.store.disk.look()
    assert "changed on disk meanwhile" in words(first, "disk")
    assert not first.files.save()
    assert load_job(path).limits.reserve_soc == 0.51
    (mine,) = path.parent.glob("job-mine-*.json")
    assert load_job(mine).limits.reserve_soc == 0.43
    assert mine.name in words(first, "disk")
    with qtbot.waitSignal(first.store.compared, timeout=60_000) as shown:  # both, side by side
        pass
    assert any(not row.same for row in shown.args[1])
    first.sharing._over(path)
    assert load_job(path).limits.reserve_soc == 0.43
    (theirs,) = path.parent.glob("job-theirs-*.json")
    assert load_job(theirs).limits.reserve_soc == 0.51
    assert first.files.save()


def test_theirs_can_be_taken(windows, path, larkmoor):
    first, _ = windows
    first.store.edit("a", Change("limits/reserve_soc", 0.43))
    save_job(edit(larkmoor, Change("limits/reserve_soc", 0.51)), path)
    first.files.save()
    first.sharing._take_theirs()
    assert reserve(first) == 0.51
    assert not first.store.changed
    assert first.store.edit("a", Change("limits/reserve_soc", 0.52))
    assert first.files.save()


def test_changed_on_disk_without_unsaved_work_it_is_read_anew(windows, path, larkmoor):
    first, _ = windows
    save_job(edit(larkmoor, Change("limits/reserve_soc", 0.51)), path)
    first.store.disk.look()
    assert reserve(first) == 0.51
    assert "read anew" in words(first, "disk")
    path.write_text("{")
    first.store.disk.look()
    assert "can't be read" in words(first, "disk")
    assert reserve(first) == 0.51


def test_a_correction_withdraws_what_it_names_whoever_wrote_meanwhile(windows, path):
    """Seen: the second window's reading stood at the line that the first one's correction named."""
    first, _ = windows
    mine = {"step": "a"}
    first.store.site.record("reading", "mine", "J. Marr", mine)
    own = first.store.site.entries[-1].id
    append(path, "reading", "another's", data={"step": "b"})
    first.store.site.record("correction", "misread", "J. Marr", corrects=own)
    assert [entry.text for _, entry in standing(read(path), "reading")] == ["another's"]
    first.store.disk.look()
    assert len(first.store.site.entries) == 3


def test_rescued_work_is_not_saved_over_a_newer_version(windows, path, larkmoor):
    from lodestaff.desktop.rescue import Rescued, Work

    first, second = windows
    seen = first.store.disk.seen
    save_job(edit(larkmoor, Change("limits/reserve_soc", 0.51)), path)
    rescued = Rescued(
        path.with_name("r.json"), Work(edit(larkmoor, Change("limits/reserve_soc", 0.43)), path, seen)
    )
    first.files.take_rescued(rescued)
    assert not first.files.save()
    assert load_job(path).limits.reserve_soc == 0.51
    assert json.loads(path.read_text())["limits"]["reserve_soc"] == 0.51
    assert second.store.path == path


def test_saving_as_a_job_that_is_open_elsewhere_is_refused(windows, path, larkmoor):
    first, second = windows
    second.files.open_sample("larkmoor")
    assert not second.store.save(path)
    assert "is open in" in " ".join(second.notices.words())
    assert first.store.may_write
