"""Snags: whose, by when, and put right; what isn't said is refused."""

from datetime import date

import pytest

from lodestaff.commissioning.snags import closing_data, open_snags, snag_data, snag_named, snags
from lodestaff.job.journal import Entry
from lodestaff.quantities.errors import JobError

AT = "2026-06-18T12:00:00+00:00"


def entry(id, text, data, kind="snag", corrects=None):
    return Entry(kind, text, AT, "Ann", corrects, data, id)


LABEL = entry("e1", "Label missing at the isolator", snag_data("Bo", "2026-07-01", "torque"))
CLIP = entry("e2", "Cable clip loose in the loft", snag_data("Ann", "2026-06-20"))


def test_the_soonest_comes_first_and_knows_its_owner():
    first, second = open_snags([LABEL, CLIP])
    assert (first.text, first.owner, first.due) == ("Cable clip loose in the loft", "Ann", "2026-06-20")
    assert (second.step, second.by) == ("torque", "Ann")
    assert first.late(date(2026, 6, 21))
    assert not first.late(date(2026, 6, 20))


def test_one_that_is_put_right_says_how_and_is_never_late():
    done = entry("e3", "", closing_data("e2", "clipped"))
    closed = next(one for one in snags([LABEL, CLIP, done]) if one.id == "e2")
    assert (closed.done, closed.done_by, closed.done_at) == ("clipped", "Ann", AT)
    assert not closed.late(date(2027, 1, 1))
    assert [one.id for one in open_snags([LABEL, CLIP, done])] == ["e1"]
    undone = entry("e4", "", None, "correction", "e3")
    assert len(open_snags([LABEL, CLIP, done, undone])) == 2


@pytest.mark.parametrize(
    ("owner", "due", "words"),
    [("", "2026-07-01", "nobody owns it"), ("Bo", "next week", "write its day as"), ("Bo", "", "is no date")],
)
def test_what_is_not_said_is_refused(owner, due, words):
    with pytest.raises(JobError, match=words):
        snag_data(owner, due)


def test_only_an_open_one_can_be_closed():
    with pytest.raises(JobError, match="open: e1"):
        snag_named([LABEL], "e9")
    with pytest.raises(JobError, match="say what was done"):
        closing_data("e1", " ")
