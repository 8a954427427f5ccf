"""Deals at the sailing school in the demo: five weeks of courses that people ask for, talk about, have a place held in, and pay for or
not. Moved by the member who sells them."""

import random
from collections.abc import Callable
from datetime import datetime, timedelta
from decimal import Decimal
from functools import partial
from typing import Any, Literal

from bluffside.server.events.stream import Cause
from bluffside.server.people.models import Contact
from bluffside.server.pipeline import about, services, stages
from bluffside.server.pipeline.models import Deal
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account, Person

At = Callable[[datetime, Callable[[], object]], None]
PIPELINE = "Courses"
STAGES = (
    ("New", "They asked, and nobody has spoken to them.", 2, 1.5),
    ("Talking", "We know what they want.", 7, 5),
    ("Place held", "A place is kept, without money.", 5, 4),
    ("Deposit due", "They said yes, and the deposit is not here.", 10, 5),
)
COURSES = (
    ("Start Sailing", 240), ("Start Sailing, two", 480), ("Better Sailing", 260), ("Dinghy five days", 420),
    ("Family week", 690), ("Sea week", 580), ("Junior Easter", 180), ("Own-boat coaching", 95),
)  # fmt: skip
NOTES = (
    "Asked whether the dog may come.", "Wants it before the summer holidays.", "Sailed as a child. Can swim.",
    "Is waiting for leave from work.", "Would rather have a weekend without racing.",
)  # fmt: skip
GOES_ON = 0.72  # of those in a stage; of the others each is lost, or rests


class CoursesSold:
    def __init__(self, account: Account, member: Person, at: At, end: datetime, chance: random.Random) -> None:
        self.account, self.member, self.at, self.end, self.chance = account, member, at, end, chance

    def live(self, start: datetime) -> None:
        self.at(start + timedelta(minutes=30), self._set_up)
        hours = (self.end - start).total_seconds() / 3_600
        for _ in range(58):
            self.at(start + timedelta(hours=self.chance.triangular(20, hours - 2, hours * 0.75)), self._asked_for)

    def _set_up(self) -> None:
        made = stages.make(self.account, PIPELINE, self.member, [name for name, *_ in STAGES])
        for name, means, rests, _ in STAGES:
            stages.change_stage(made.stages.get(name=name), {"means": means, "rest_days": rests}, self.member)
        stages.change_stage(made.stages.get(name="Deposit due"), {"needs": ["value"]}, self.member)
        about.make_field(self.account, "Boat", "choice", ["dinghy", "keelboat", "their own"])
        about.make_field(self.account, "How many come", "number", [])

    def _asked_for(self) -> None:
        free = Contact.objects.filter(account=self.account, do_not_contact=False).exclude(deals__state=Deal.State.OPEN)
        people = list(free.order_by("id"))
        if not people:
            return
        name, worth = self.chance.choice(COURSES)
        owner = self.member if self.chance.random() < 0.8 else None
        made = services.create_deal(
            self.chance.choice(people), PIPELINE, STAGES[0][0], name, Decimal(worth), Cause(actor=self.member), owner
        )
        changes: dict[str, Any] = {"fields": {"How many come": Decimal(self.chance.choice((1, 1, 2, 2, 3, 4)))}}
        if self.chance.random() < 0.7:  # a weekend of the weeks to come
            changes["expected_on"] = (self.end + timedelta(days=self.chance.randrange(3, 120))).date()
        services.change_deal(made, changes, self.member)
        if self.chance.random() < 0.4:
            about.write_note(made, self.chance.choice(NOTES), self.member)
        others = [one for one in people if one.pk != made.contact_id]
        if others and ("two" in name or "Family" in name):
            about.put_in(
                made,
                self.chance.choice(others),
                self.chance.choice(("comes along", "pays", "decides, too")),
                self.member,
            )
        self._plan(made.pk, 0)

    def _plan(self, deal: int, stage: int) -> None:
        after = clock.now() + timedelta(days=self.chance.expovariate(1 / STAGES[stage][3]))
        if after < self.end - timedelta(hours=1):
            self.at(after, partial(self._goes_on, deal, stage))

    def _goes_on(self, deal: int, stage: int) -> None:
        if self.chance.random() < GOES_ON:
            if stage + 1 == len(STAGES):
                self._move(deal, "", "won")
                return
            self._move(deal, STAGES[stage + 1][0], "open")
            self._plan(deal, stage + 1)
        elif self.chance.random() < 0.6:
            self._move(deal, "", "lost", self.chance.choice(stages.REASONS))

    def _move(self, deal: int, stage: str, state: Literal["open", "won", "lost"], why: str = "") -> None:
        services.move_deals(self.account, [deal], stage, state, self.member, why)
