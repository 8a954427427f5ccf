"""The stand-ins for outside services: every module of this folder that holds a `STAND_IN`.

To add a service, add a file (see docs/a-new-outside-service.md).
"""

from collections.abc import Mapping
from importlib import import_module
from pkgutil import iter_modules

from bluffside.server.outside.stand_ins.base import StandIn


def _found() -> Mapping[str, StandIn]:
    modules = [import_module(f"{__name__}.{info.name}") for info in iter_modules(__path__)]
    return {one.STAND_IN.name: one.STAND_IN for one in modules if hasattr(one, "STAND_IN")}


STAND_INS = _found()

__all__ = ["STAND_INS", "StandIn"]
