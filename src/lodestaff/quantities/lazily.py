"""Names of a package that are loaded when they are first asked for."""

from collections.abc import Callable
from importlib import import_module
from typing import Any


def lazily(package: str, homes: dict[str, str]) -> Callable[[str], Any]:
    """The `__getattr__` of a package: of each name the module that it lives in."""

    def get(name: str) -> Any:
        if name not in homes:
            raise AttributeError(f"module {package!r} has no attribute {name!r}")
        return getattr(import_module(f"{package}.{homes[name]}"), name)

    return get
