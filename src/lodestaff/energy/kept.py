"""Years of sun and weather kept on disk from one command to the next, each under a digest of all that it is
made of: what was asked, the source of this package, the libraries' versions and the machine."""

import contextlib
import hashlib
import os
import pickle
import platform
import tempfile
from collections.abc import Callable, Iterator
from dataclasses import fields, is_dataclass
from functools import cache, wraps
from importlib.metadata import version
from pathlib import Path
from typing import ParamSpec, TypeVar, cast

import numpy as np

P = ParamSpec("P")
T = TypeVar("T")
MOST_FILES = 128  # a year on one plane takes 1.7 MB, a year of weather 1.4 MB
LIBRARIES = ("numpy", "pandas", "pvlib", "scipy")
DIGEST_BYTES = 16


def kept(function: Callable[P, T]) -> Callable[P, T]:
    """Keep what a pure function of plain values and arrays returns.

    What can't be read, or isn't what was written, is made anew; where nothing can be written nothing is kept.
    """
    name = f"{function.__module__}.{function.__qualname__}"

    @wraps(function)
    def wrapped(*given: P.args, **named: P.kwargs) -> T:
        asked = hashlib.blake2b(made_by(), digest_size=DIGEST_BYTES)
        for part in _parts((name, given, sorted(named.items()))):
            asked.update(part)
        file = folder() / f"{function.__name__}-{asked.hexdigest()}"
        with contextlib.suppress(OSError, ValueError, pickle.UnpicklingError, EOFError):
            return cast(T, _read(file))
        value = function(*given, **named)
        with contextlib.suppress(OSError):
            _write(file, pickle.dumps(value, protocol=5))
        return value

    return wrapped


def folder() -> Path:
    """Where they lie: in the person's own cache, which may be deleted at any time."""
    from platformdirs import user_cache_path

    return Path(user_cache_path("lodestaff")) / "years"


@cache
def made_by() -> bytes:
    """A digest of the source of this package, the libraries' versions and the machine."""
    sources = sorted(Path(__file__).parent.glob("*.py"))
    parts = [source.name.encode() + b"\0" + source.read_bytes() for source in sources]
    about = [f"{library} {version(library)}" for library in LIBRARIES]
    about += [platform.python_version(), platform.machine(), platform.node()]
    return _digest(b"\0".join([*parts, *(text.encode() for text in about)]))


def _parts(value: object) -> Iterator[bytes | memoryview]:
    """A value as bytes, with the type and length of each part, so that unlike ones never look alike."""
    if isinstance(value, np.ndarray):
        yield f"array {value.dtype.str} {value.shape}".encode()
        yield np.ascontiguousarray(value).data.cast("B")
    elif is_dataclass(value):
        yield f"{type(value).__qualname__} ".encode()
        for field in fields(value):
            yield field.name.encode()
            yield from _parts(getattr(value, field.name))
    elif isinstance(value, tuple | list):
        yield f"of {len(value)} ".encode()
        for item in value:
            yield from _parts(item)
    else:
        shown = value if isinstance(value, bytes) else repr(value).encode()
        yield f"{type(value).__name__} {len(shown)} ".encode()
        yield shown


def _digest(data: bytes) -> bytes:
    return hashlib.blake2b(data, digest_size=DIGEST_BYTES).digest()


def _read(file: Path) -> object:
    data = file.read_bytes()
    if data[:DIGEST_BYTES] != _digest(data[DIGEST_BYTES:]):
        raise ValueError(file)
    os.utime(file)  # the longest unused go first
    return pickle.loads(data[DIGEST_BYTES:])


def _write(file: Path, data: bytes) -> None:
    file.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
    descriptor, beside = tempfile.mkstemp(dir=file.parent)
    try:
        with os.fdopen(descriptor, "wb") as stream:
            stream.write(_digest(data) + data)
        Path(beside).replace(file)
    except OSError:
        with contextlib.suppress(OSError):
            Path(beside).unlink()
        raise
    by_use = sorted(file.parent.iterdir(), key=lambda each: each.stat().st_mtime, reverse=True)
    for old in by_use[MOST_FILES:]:
        old.unlink(missing_ok=True)
