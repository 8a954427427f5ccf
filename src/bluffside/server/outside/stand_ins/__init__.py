"""The stand-ins for outside services: every module of this folder that holds a `STAND_IN`.

To add a service, add a file (see docs/a-new-outside-service.md).
"""

from collections.abc import Mapping

from bluffside.core.kinds import declared_in
from bluffside.server.outside.stand_ins.base import StandIn

STAND_INS: Mapping[str, StandIn] = {one.name: one for one in declared_in(__name__, __path__, "STAND_IN")}

__all__ = ["STAND_INS", "StandIn"]
