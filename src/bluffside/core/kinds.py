"""Collecting the kinds of a folder, one file a kind: by the class that names its `kind`, or by what a file declares."""

from collections.abc import Iterable
from importlib import import_module
from pkgutil import iter_modules
from typing import Any, TypeVar

from pydantic import BaseModel

Kind = TypeVar("Kind", bound=BaseModel)


def found_in(package: str, path: Iterable[str], base: type[Kind]) -> dict[str, type[Kind]]:
    """Every class of the package's modules that is a `base` and declares a `kind` of its own, by that kind."""
    kinds: dict[str, type[Kind]] = {}
    for info in iter_modules(path):
        module = import_module(f"{package}.{info.name}")
        for value in vars(module).values():
            own = isinstance(value, type) and value.__module__ == module.__name__ and value is not base
            if own and issubclass(value, base) and "kind" in value.__dict__.get("__annotations__", {}):
                name = value.model_fields["kind"].default
                if isinstance(name, str):
                    kinds[name] = value
    return kinds


def declared_in(package: str, path: Iterable[str], name: str) -> list[Any]:
    """What the package's modules declare under a name (`CHANNEL = …`); those that have no such name are passed over."""
    modules = [import_module(f"{package}.{info.name}") for info in iter_modules(path)]
    return [getattr(one, name) for one in modules if hasattr(one, name)]
