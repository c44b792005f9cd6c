"""Long work that a person may stop: it asks, at every step that takes long, whether it may go on."""

import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar

_STOP: ContextVar[threading.Event | None] = ContextVar("stop", default=None)


class Stopped(BaseException):
    """The person stopped it. No error: nothing that sets a fault apart may take it for one."""


def may_go_on() -> None:
    """Raises Stopped where the work of this thread was stopped."""
    stop = _STOP.get()
    if stop is not None and stop.is_set():
        raise Stopped


def asked_to_stop() -> Callable[[], bool]:
    """Whether the work of this thread was stopped, to be asked from another one."""
    stop = _STOP.get()
    return (lambda: False) if stop is None else stop.is_set


@contextmanager
def until(stop: threading.Event) -> Iterator[None]:
    """Work that goes on until `stop` is set."""
    token = _STOP.set(stop)
    try:
        yield
    finally:
        _STOP.reset(token)
