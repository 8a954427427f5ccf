"""Tests on deals and appointments: "any deal such that …", with every part that is named holding of the same one."""

from collections.abc import Iterator
from datetime import datetime
from functools import partial
from typing import Literal

from bluffside.core.conditions.activity import ACTIVITIES, KINDS, HowOften
from bluffside.core.conditions.base import HAS, HAS_AN, Case, HowMany, Need, Test, compare_count, how_many
from bluffside.core.document_part import DocumentPart, part
from bluffside.core.facts import Appointment, Deal
from bluffside.core.timing.durations import Duration
from bluffside.core.timing.turning import SECOND, turning, whole_second
from bluffside.core.words import a, moment, several


class Worth(DocumentPart):
    """A deal's value against a number, in the account's currency."""

    compare: HowMany = "at_least"
    amount: float = 0


class Older(DocumentPart):
    """How long something has been so: longer, or not longer, than a duration."""

    than: Duration
    longer: bool = True

    def holds(self, since: datetime, now: datetime, zone: str) -> bool:
        return (self.than.after(since, zone) < now) == self.longer

    def turns_at(self, since: datetime, zone: str) -> datetime:
        return whole_second(self.than.after(since, zone)) + SECOND

    def describe(self) -> str:
        return f"for {'more than' if self.longer else 'at most'} {self.than}"


class DealTest(Test):
    """Has a deal (or has none) such that all parts that are given hold of it: pipelines and stages (any of
    several), state, value, age since it was made, how long it has stood in its stage, what the contact did, or was done with
    them, since then, owner."""

    label = "a deal"
    sentence = "{has} deal, {state}, on {pipelines} in {stages}"
    needs = frozenset({"deals"})
    test: Literal["deal"] = "deal"
    has: bool = part("yes-no", "has or has none", words=HAS, default=True)
    pipelines: tuple[str, ...] = part("pipelines", "pipelines", empty="any pipeline", default=())
    stages: tuple[str, ...] = part("stages", "stages", empty="any stage", default=())
    state: Literal["open", "won", "lost", "any"] = part("choice", "open, won or lost", default="open")
    value: Worth | None = part("worth", "worth", empty="anything", clause="worth {}", default=None)
    age: Older | None = part("length", "known for", empty="any time", clause="known {}", default=None)
    in_stage: Older | None = part("length", "in its stage for", empty="any time", clause="there {}", default=None)
    done: HowOften | None = part(
        "deeds",
        "since it came there",
        empty="anything",
        clause="with {} since it came there",
        words=ACTIVITIES,
        default=None,
    )
    owner: str = part("member", "owned by", empty="anybody", clause="owned by {}", default="")

    def fits(self, deal: Deal, case: Case) -> bool:
        return (
            (not self.pipelines or deal.pipeline in self.pipelines)
            and (not self.stages or deal.stage in self.stages)
            and self.state in (deal.state, "any")
            and (not self.value or compare_count(float(deal.value), self.value.compare, self.value.amount))
            and (not self.age or self.age.holds(deal.created, case.now, case.zone))
            and (not self.in_stage or self.in_stage.holds(deal.since, case.now, case.zone))
            and (not self.done or self.done.holds(e for e in case.contact.happened if deal.since < e.at <= case.now))
            and (not self.owner or deal.owner == self.owner)
        )

    def all_needs(self) -> frozenset[Need]:
        return self.needs | {"happened"} if self.done else self.needs

    def holds(self, case: Case) -> bool:
        return any(self.fits(deal, case) for deal in case.contact.deals) == self.has

    def looks_back_on(self) -> frozenset[str]:
        return frozenset({KINDS[self.done.activity][0]} if self.done else ())

    def turns_at(self, case: Case) -> Iterator[datetime]:
        for deal in case.contact.deals:
            if self.age:
                yield self.age.turns_at(deal.created, case.zone)
            if self.in_stage:
                yield self.in_stage.turns_at(deal.since, case.zone)

    def describe(self) -> str:
        deal = "deal" if self.state == "any" else f"{self.state} deal"
        said = f"has {a(deal) if self.has else f'no {deal}'}"
        if self.pipelines:
            said += f" on {several(list(self.pipelines), 'or')}"
        if self.stages:
            said += f" in {several([f'“{stage}”' for stage in self.stages], 'or')}"
        parts = []
        if self.in_stage:
            parts.append(f"there {self.in_stage.describe()}")
        if self.value:
            parts.append(f"worth {how_many(self.value.compare, f'{self.value.amount:g}')}")
        if self.age:
            parts.append(f"known {self.age.describe()}")
        if self.done:
            parts.append(f"with {self.done.describe()} since it came there")
        if self.owner:
            parts.append(f"owned by {self.owner}")
        return ", ".join([said, *parts])

    def seen(self, case: Case) -> dict[str, str]:
        deals = [
            f"{deal.name or deal.pipeline} in “{deal.stage}” ({deal.state}, {deal.value})"
            for deal in case.contact.deals
        ]
        return {"deals": "; ".join(deals) or "none"}


def _has_turned(within: Duration, when: str, start: datetime, zone: str, now: datetime) -> bool:
    return start <= within.after(now, zone) if when == "to_come" else start < within.before(now, zone)


class AppointmentTest(Test):
    """Has an appointment (or has none) of a type, in a state, to come within a time or past within a time."""

    label = "an appointment"
    sentence = "{has} appointment, {states}, of {types} {when}, within {within}"
    needs = frozenset({"appointments"})
    test: Literal["appointment"] = "appointment"
    has: bool = part("yes-no", "has or has none", words=HAS_AN, default=True)
    types: tuple[str, ...] = part("appointments", "types of appointment", empty="any type", default=())
    states: tuple[Literal["booked", "confirmed", "cancelled", "missed", "attended"], ...] = part(
        "choices", "in which state", empty="in any state", default=()
    )
    when: Literal["to_come", "past", "any"] = part(
        "choice", "when", words={"past": "in the past", "any": "at any time"}, default="to_come"
    )
    within: Duration | None = part("duration", "within", empty="any time", default=None)

    def fits(self, one: Appointment, case: Case) -> bool:
        if self.types and one.type not in self.types:
            return False
        if self.states and one.state not in self.states:
            return False
        if self.when == "to_come":
            stands = one.to_come or bool(self.states)
            soon = self.within is None or one.start <= self.within.after(case.now, case.zone)
            return stands and one.start > case.now and soon
        if self.when == "past":
            late = self.within is None or one.start >= self.within.before(case.now, case.zone)
            return one.start <= case.now and late
        return True

    def holds(self, case: Case) -> bool:
        return any(self.fits(one, case) for one in case.contact.appointments) == self.has

    def turns_at(self, case: Case) -> Iterator[datetime]:
        for one in case.contact.appointments if self.when != "any" else ():
            yield whole_second(one.start)
            if self.within:
                # One to come is near from so long before on; one past is too long ago from a second after that.
                near = (self.within.before if self.when == "to_come" else self.within.after)(one.start, case.zone)
                turned = partial(_has_turned, self.within, self.when, one.start, case.zone)
                yield from turning(case.now, case.zone, self.within, one.start, near, turned)

    def describe(self) -> str:
        types = several([f"“{one}”" for one in self.types], "or")
        what = " ".join(part for part in (several(list(self.states), "or"), types, "appointment") if part)
        when = {"to_come": " to come", "past": " in the past", "any": ""}[self.when]
        if self.within:
            when = f" in the {'next' if self.when == 'to_come' else 'last'} {self.within}"
        return f"has {a(what) if self.has else f'no {what}'}{when}"

    def seen(self, case: Case) -> dict[str, str]:
        all_ = [
            f"{one.type} {moment(one.start, case.zone, case.now)} ({one.state})" for one in case.contact.appointments
        ]
        return {"appointments": "; ".join(all_) or "none"}
