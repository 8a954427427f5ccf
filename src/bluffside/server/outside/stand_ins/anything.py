"""Anything: takes whatever a workflow's own web requests send, so that they can be tried."""

from bluffside.server.outside.stand_ins.base import StandIn

STAND_IN = StandIn("anything")
