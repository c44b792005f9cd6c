"""Work that is stopped ends at its next step, and nothing takes that for an error."""

import threading

import pytest

from lodestaff.quantities.going import Stopped, may_go_on, until
from lodestaff.reckoning.memo import Memo


def test_work_goes_on_until_it_is_stopped():
    stop = threading.Event()
    may_go_on()  # nobody can stop this
    with until(stop):
        may_go_on()
        stop.set()
        with pytest.raises(Stopped):
            may_go_on()
    may_go_on()


def test_what_is_remembered_is_given_but_nothing_new_is_made():
    memo, stop = Memo(), threading.Event()
    assert memo.get("a", lambda: 1) == 1
    stop.set()
    with until(stop):
        assert memo.get("a", lambda: 2) == 1
        with pytest.raises(Stopped):
            memo.get("b", lambda: 2)
    assert memo.get("b", lambda: 3) == 3  # nothing half made was kept


def test_a_stop_is_no_error_that_a_check_could_set_apart():
    assert not issubclass(Stopped, Exception)
