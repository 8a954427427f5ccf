"""Who has come in for what, in a world in memory: until it is reached or its time is over, also after they have left."""

from collections import defaultdict
from collections.abc import Iterator
from datetime import datetime
from decimal import Decimal
from typing import NamedTuple

from bluffside.core.conditions import Case
from bluffside.core.engine.signals import Happened
from bluffside.core.engine.turn import NOTHING, Reason
from bluffside.core.events import Event
from bluffside.core.facts import Facts
from bluffside.core.rehearsal.moments import Inside, Moment


class Reached(NamedTuple):
    at: datetime
    contact: str
    workflow: str
    value: Decimal


class Aims:
    """`reached` is what has been, in order."""

    def __init__(self) -> None:
        self.reached: list[Reached] = []
        self._open: dict[str, list[Inside]] = defaultdict(list)

    def came(self, one: Inside) -> None:
        if one.program.aim:
            self._open[one.contact].append(one)

    def heard(self, contact: str, event: Event, facts: Facts, at: datetime) -> Iterator[Moment]:
        """A moment for each enrolment whose aim an event reaches."""
        still = []
        for one in self._open.get(contact, ()):
            aim, joined = one.program.aim, one.state.joined
            if aim is None or aim.until(joined, facts.zone) < event.at:
                continue
            if not aim.reached(joined, event, Case(facts, event.at), one.once_for):
                still.append(one)
                continue
            value = aim.value(event, {deal.id: deal.value for deal in facts.contact.deals})
            self.reached.append(Reached(event.at, contact, one.program.name, value))
            said = Reason("", "Reaches its aim, {}.", (aim.describe(),), NOTHING, facts.zone)
            yield Moment(at, contact, one.program.name, Happened(event), one.state, (), [said])
        if contact in self._open:
            self._open[contact] = still
