"""Outside service: put the contact on a list or a series of the list-and-series service, or take it off."""

from collections.abc import Iterator
from typing import Literal

from bluffside.core.engine.effects import ChangeSeries
from bluffside.core.engine.turn import Turn
from bluffside.core.steps.base import Fault, OneAct, needs, part


class OutsideSeries(OneAct):
    label = "Outside list or series"
    finds = ("outside list", "outside series", "service")
    sentence = "Puts them {way} the {what} {name} at {service}."

    kind: Literal["outside_series"] = "outside_series"
    service: str = part("service", "service", default="", max_length=80)
    what: Literal["list", "series"] = part("choice", "list or series", default="list")
    name: str = part("series", "which", default="", max_length=120)
    way: Literal["on", "off"] = part("choice", "on or off", default="on")

    def act(self, turn: Turn) -> None:
        turn.do(ChangeSeries(*turn.key, self.service, self.what, self.name, self.way == "on"))
        turn.because("Asked {} to put them {} the {} “{}”.", self.service, self.way, self.what, self.name)

    def connections(self) -> Iterator[tuple[str, str]]:
        yield "service", "series"

    def faults(self) -> Iterator[Fault]:
        yield from needs(self.service, "service-empty", "No service is named yet.")
        yield from needs(self.name, "series-empty", f"No {self.what} is named yet.")
