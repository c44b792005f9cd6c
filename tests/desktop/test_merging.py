"""Two copies put together in the window: what is taken, whose word counts, one step with the journal."""

import pytest

from lodestaff.job import Change, edit, save_job
from lodestaff.job.journal import append


@pytest.fixture
def copies(window, settled, tmp_path):
    """The job saved, the job as it was before, and another copy of it with a journal."""
    before = window.store.job
    base, mine, other = (tmp_path / f"{name}.json" for name in ("base", "mine", "other"))
    save_job(before, base)
    theirs = edit(before, Change("banks/battery/modules", 5), Change("title", "Their title"))
    save_job(theirs, other)
    append(other, "note", "seen by them", by="T. Fitter")
    assert window.store.save(mine)
    window.store.edit("Ours", Change("title", "Our title"), Change("limits/export_kw", 2.0))
    settled(window)
    return base, other


@pytest.fixture
def page(window):
    window.actions_by_id["merge"].trigger()
    return window.side.merging


def test_what_clashes_is_shown_and_chosen(window, copies, page):
    base, other = copies
    assert not page.take_button.isEnabled()
    assert page.choose_other(other)
    assert page.choose_base(base)
    rows = {row.path: row for row in page.table.rows}
    assert rows["title"].clash is not None
    assert rows["banks/battery/modules"].clash is None
    column = page.table.source.columns[3]
    assert column.text(rows["title"]) == "this one"
    assert column.typed(rows["title"], "the other")
    assert page.take()
    job = window.store.job
    assert (job.title, job.banks[0].modules, job.limits.export_kw) == ("Their title", 5, 2.0)
    assert [entry.text for entry in window.store.site.entries][-1:] == ["seen by them"]
    window.store.undo()
    assert window.store.job.title == "Our title"


def test_without_the_job_before_this_copys_word_counts(window, copies, page):
    assert page.choose_other(copies[1])
    assert page.take()
    assert window.store.job.title == "Our title"


def test_what_is_no_copy_is_said(window, copies, page, tmp_path):
    (tmp_path / "words.json").write_text("words")
    assert not page.choose_other(tmp_path / "words.json")
    assert "Not read" in page.words.text()
    strange = tmp_path / "strange.json"
    save_job(window.store.job.model_copy(update={"id": "another"}), strange)
    assert not page.choose_other(strange)
    assert "different jobs" in page.words.text()
    assert not page.take()
