"""Makes the demo by living five weeks: people are added and tagged, answer, click, are rung; the engine does the rest.

Nothing is put into tables that the application would not have put there itself. The same seed gives
the same weeks, ending now.
"""

import heapq
import random
from collections.abc import Callable
from datetime import datetime, time, timedelta
from functools import partial
from itertools import count
from pathlib import Path

from django.utils import timezone

from bluffside.core.facts import TwoWay
from bluffside.core.timing.local import at_time, to_local
from bluffside.core.workflow.files import read_workflow
from bluffside.server import moving_the_clock
from bluffside.server.demo import elsewhere, library, scored, settings, talks, ways_in
from bluffside.server.demo.bookings import Bookings
from bluffside.server.demo.cast import CONSULTANT, FIRST, LAST, PARTS, PASSWORD, PRACTICE, Part
from bluffside.server.demo.courses_sold import CoursesSold
from bluffside.server.diary.models import Task
from bluffside.server.diary.services import record_outcome
from bluffside.server.events.stream import Cause
from bluffside.server.messaging import answering
from bluffside.server.messaging.correspondence import last_words, waiting
from bluffside.server.messaging.models import Link
from bluffside.server.messaging.parcels import read_key
from bluffside.server.messaging.services import click
from bluffside.server.outside.models import Item
from bluffside.server.outside.services import say
from bluffside.server.people.models import Contact
from bluffside.server.people.services import add_contact, add_tags, set_consent
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account, Membership, Person, Practice
from bluffside.server.set_up import senders
from bluffside.server.workflows import writing

WEEKS = 5
COLOURS = ("sea", "thrift", "gorse", "kelp")  # of a part's workflows, in turn
WORKFLOWS = Path(__file__).parent / "workflows"
Say = Callable[[str], None]


def make_demo(say_progress: Say, weeks: int = WEEKS) -> None:
    _Life(say_progress, weeks).live()


class _Life:
    """A queue of made-up happenings, lived through in order."""

    def __init__(self, say_progress: Say, weeks: int) -> None:
        self.tell, self.weeks = say_progress, weeks
        self.end = timezone.now().replace(second=0, microsecond=0) - timedelta(minutes=3)
        self.start = self.end - timedelta(weeks=weeks)
        self.random = random.Random(20260302)  # noqa: S311  # made-up behaviour, the same each time
        self.coming: list[tuple[datetime, int, Callable[[], object]]] = []
        self.number = count()
        self.seen_item = 0
        self.parts: dict[str, tuple[Part, Account, Person]] = {}

    def at(self, when: datetime, what: Callable[[], object]) -> None:
        if when < self.end:
            heapq.heappush(self.coming, (when, next(self.number), what))

    def daytime(self, part: Part, day: datetime) -> datetime:
        """Some moment of that day between 9 and 18 there."""
        local = to_local(day, part.zone).date()
        return at_time(local, time(self.random.randint(9, 17), self.random.randint(0, 59)), part.zone)

    def live(self) -> None:
        with clock.at(self.start) as move_to:
            self._set_up()
            lived = 0
            while self.coming:
                when, _, what = heapq.heappop(self.coming)
                moving_the_clock.run_through(max(when, clock.now()), move_to, receipts=False)
                what()
                self._notice()
                weeks = int((when - self.start).days / 7)
                if weeks > lived:
                    lived = weeks
                    self.tell(f"  demo: week {lived} of {self.weeks}")
            moving_the_clock.run_through(self.end, move_to)

    def _set_up(self) -> None:
        practice = Practice.objects.create(name=PRACTICE)
        name, email, phone = CONSULTANT
        self.consultant = Person.objects.create_user(
            email, PASSWORD, name=name, phone=phone, practice=practice, is_consultant=True
        )
        for part in PARTS:
            self._set_up_account(practice, part)

    def _set_up_account(self, practice: Practice, part: Part) -> None:
        name, email, phone = part.member
        member = Person.objects.create_user(email, PASSWORD, name=name, phone=phone, practice=practice)
        account = Account.objects.create(
            practice=practice,
            slug=part.slug,
            name=part.name,
            zone=part.zone,
            region=part.region,
            phone=part.text_number,
            booking_link=f"https://{part.slug}.example.com/book",
            signature=f"{member.first_name}, {part.name}",
            text_number=part.text_number,
            sender_name=f"{member.first_name} at {part.name}",
            sender_email=f"hello@{part.slug}.example.com",
            postal_address=part.address,
            responsible=member,
            live_since=clock.now(),
        )
        Membership.objects.create(account=account, person=member, role=Membership.Role.TEAM)
        senders.adopt(account)
        self.parts[part.slug] = (part, account, member)
        for file, colour in zip(part.workflows, COLOURS, strict=False):
            document = read_workflow((WORKFLOWS / f"{file}.yaml").read_text(encoding="utf-8"))
            library.keep_said(account, document, self.consultant)
            workflow = writing.create(account, document, self.consultant)
            writing.publish(workflow, workflow.revision, self.consultant)
            writing.set_colour(workflow, colour)
        names = [(first, last) for first in FIRST for last in LAST]
        people = self.random.sample(names, part.people)
        days = (self.end - self.start).days
        for number, (first, last) in enumerate(people):
            day = self.start + timedelta(days=self.random.triangular(0, days, days * 0.93))
            mobile = part.numbers[number] if number < len(part.numbers) and self.random.random() < 0.93 else ""
            self.at(self.daytime(part, day), partial(self._arrive, part, account, first, last, mobile))

        def before_the_end(ago: timedelta, what: Callable[[], object]) -> None:
            self.at(self.end - ago, what)

        if part.slug == "tern-harbour":
            ways_in.live(account, self.consultant, before_the_end, self.random)
            Bookings(account, self.consultant, self.at, self.end, random.Random(20260303)).live(self.start)  # noqa: S311
            self.at(self.start + timedelta(minutes=10), partial(scored.set_up, account, self.consultant))
            self.at(self.end - timedelta(minutes=50), partial(scored.think_again, account, self.consultant))
            library.live(account, self.consultant, before_the_end)
            talks.live(account, self.consultant, self.at, self.end)
            CoursesSold(account, member, self.at, self.end, random.Random(20260305)).live(self.start)  # noqa: S311
        else:
            elsewhere.live(account, self.consultant, before_the_end)
        settings.set_up(account, self.consultant, before_the_end)
        for ago in range(days + 1):
            self.at(self.daytime(part, self.start + timedelta(days=ago)), partial(self._team_works, account, member))

    def _arrive(self, part: Part, account: Account, first: str, last: str, mobile: str) -> None:
        email = "" if mobile and self.random.random() < 0.1 else f"{first}.{last}@example.com".lower()
        fields = {"first_name": first, "last_name": last, "email": email, "mobile": mobile}
        contact = add_contact(account, fields, Cause(actor=self.parts[part.slug][2]))
        channels: tuple[TwoWay, ...] = ("email", "text") if mobile else ("email",)
        for channel in channels:
            set_consent(account, [contact.id], channel, True, "ticked the box on the sign-up sheet")
        tagged_at = clock.now() + timedelta(minutes=self.random.randint(5, 600))
        cause = Cause(actor=self.parts[part.slug][2])
        self.at(tagged_at, partial(add_tags, account, [(contact.id, part.tag, cause)]))

    def _notice(self) -> None:
        """People read what has come: some answer, some click, most do nothing."""
        for item in Item.objects.filter(id__gt=self.seen_item, inbound=False).order_by("id"):
            self.seen_item = item.id
            senders = (one for one in self.parts.values() if item.ours in (one[1].text_number, one[1].sender_email))
            if (whose := next(senders, None)) is None or item.theirs in talks.NUMBERS:  # mail to those who work here
                continue
            part, account, _ = whose
            field = {"mobile": item.theirs} if item.channel == "text" else {"email": item.theirs}
            contact = Contact.objects.get(account=account, **field)
            asks = "?" in item.text
            channel: TwoWay = "text" if item.channel == "text" else "email"
            if asks and self.random.random() < (0.62 if channel == "text" else 0.3):
                words, weights = zip(*part.answers, strict=True)
                text = self.random.choices(words, weights)[0]
                later = timedelta(minutes=self.random.triangular(4, 2_400, 60))
                self.at(self._awake(part, item.at + later), partial(say, contact, channel, text))
            for link in Link.objects.filter(message__key=(read_key(item.key) or (0, ""))[1]):
                if self.random.random() < 0.4:
                    later = timedelta(minutes=self.random.randint(10, 900))
                    self.at(item.at + later, partial(click, link.message_id, link.number))

    def _awake(self, part: Part, when: datetime) -> datetime:
        local = to_local(when, part.zone)
        return when if 7 <= local.hour < 23 else when + timedelta(hours=9)

    def _team_works(self, account: Account, member: Person) -> None:
        """Once a day the team rings and answers, and does not get through all of it in the last days."""
        recent = self.end - clock.now() < timedelta(days=3)
        for task in Task.objects.filter(account=account, done_at=None, due_at__lte=clock.now()).order_by("due_at"):
            if recent or self.random.random() < 0.15:
                continue
            if task.kind == Task.Kind.TO_DO:
                record_outcome(task, Task.Outcome.DONE, member)
            else:
                outcomes = [Task.Outcome.REACHED, Task.Outcome.NO_ANSWER, Task.Outcome.LEFT_MESSAGE]
                outcome = self.random.choices(outcomes, [6, 3, 1])[0]
                record_outcome(
                    task, outcome, member, "booked for next month" if outcome == Task.Outcome.REACHED else ""
                )
        for row in [] if recent else waiting(account).select_related("contact__account"):
            reply = last_words([row.contact_id])[row.contact_id]
            if "?" in reply.text:
                channel: TwoWay = "text" if reply.channel == "text" else "email"
                said = f"Good question. I'll ring you today. {member.first_name}"
                answering.answer(row.contact, channel, said, member)
            else:
                answering.need_no_answer(row.contact, member)
