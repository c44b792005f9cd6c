"""The compiler of the loops, and where compiled code lies: beside the source, or, where none is allowed,
in the person's own cache, which begins with what was compiled when the program was installed."""

import contextlib
import os
import shutil
from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar, cast

from numba import njit
from numba.core import config as numba_config
from numba.core.caching import _CacheLocator

__all__ = ["bare", "njit"]
config: Any = numba_config
compiler: Any = njit
Loop = TypeVar("Loop", bound=Callable[..., Any])


def _own_cache(source: Path) -> None:
    """Set the cache up before a function asks for it."""
    made = source.parent / "__pycache__"
    if os.access(made if made.is_dir() else source.parent, os.W_OK) or config.CACHE_DIR:
        return
    from platformdirs import user_cache_path

    folder = user_cache_path("lodestaff") / "compiled"
    config.CACHE_DIR = str(folder)
    own = folder / str(_CacheLocator.get_suitable_cache_subpath(str(source)))  # type: ignore[no-untyped-call]
    with contextlib.suppress(OSError):  # without it the loops are compiled anew
        own.mkdir(parents=True, exist_ok=True)
        for file in made.glob("*.nb[ic]"):
            if not (own / file.name).exists() or (own / file.name).stat().st_mtime < file.stat().st_mtime:
                shutil.copy2(file, own / file.name)


_own_cache(Path(__file__).resolve())


def bare(loop: Loop) -> Loop:
    """Compile a loop that makes no arrays, so that nothing counts who holds the ones it is given: where it
    passes them on in each step, counting takes longer than the sums."""
    return cast(Loop, compiler(cache=True, nogil=True, error_model="numpy", _nrt=False)(loop))
