"""Tests on what has happened: counts of activities, events within a time, how somebody treats messages."""

from collections.abc import Callable, Iterable, Iterator
from datetime import datetime
from functools import partial
from typing import Literal

from pydantic import Field

from bluffside.core.conditions.base import Case, HowMany, Test, compare_count, how_many
from bluffside.core.document_part import DocumentPart, part
from bluffside.core.events import NAMED, SUBJECTS, Event
from bluffside.core.timing.durations import Duration
from bluffside.core.timing.turning import DAY, is_smooth, turning

# What is counted, the kind of event it is, and how the event must read.
Activity = Literal[
    "call",
    "to_do",
    "message",
    "reply",
    "click",
    "form",
    "appointment",
    "missed_appointment",
    "keyword",
    "lead",
    "purchase",
]
KINDS: dict[Activity, tuple[str, dict[str, str]]] = {
    "call": ("task.done", {"task": "call"}),
    "to_do": ("task.done", {"task": "to_do"}),
    "message": ("message.sent", {}),
    "reply": ("reply.received", {}),
    "click": ("link.clicked", {}),
    "form": ("form.sent", {}),
    "appointment": ("appointment.attended", {}),
    "missed_appointment": ("appointment.missed", {}),
    "keyword": ("keyword.texted", {}),
    "lead": ("lead.received", {}),
    "purchase": ("purchase.made", {}),
}
NAMES_OF_EVENTS = {kind: NAMED[subject] for kind, subject in SUBJECTS.items() if subject in NAMED}
NAMES: dict[str, str] = {one: NAMES_OF_EVENTS[kind] for one, (kind, _) in KINDS.items() if kind in NAMES_OF_EVENTS}
WORDS: dict[Activity, tuple[str, str]] = {
    "to_do": ("to-do", "to-dos"),
    "reply": ("reply", "replies"),
    "missed_appointment": ("missed appointment", "missed appointments"),
}


def called(activity: Activity, number: int = 2) -> str:
    one, many = WORDS.get(activity, (activity, activity + "s"))
    return one if number == 1 else many


ACTIVITIES = {one: called(one) for one in KINDS}


def is_deed(event: Event, activity: Activity) -> bool:
    kind, data = KINDS[activity]
    return event.kind == kind and data.items() <= event.data.items()


class HowOften(DocumentPart):
    """How often something happened, against a number."""

    compare: HowMany = "fewer_than"
    number: int = Field(default=1, ge=0, le=100_000)
    activity: Activity = "call"

    def holds(self, events: Iterable[Event]) -> bool:
        found = sum(is_deed(one, self.activity) for one in events)
        return compare_count(found, self.compare, self.number)

    def describe(self) -> str:
        return f"{how_many(self.compare, self.number)} {called(self.activity, self.number)}"


def since(case: Case, within: Duration | None) -> list[Event]:
    """Events of the past, in the last so long; all that are known when no time is given."""
    if within is None:
        return [event for event in case.contact.happened if event.at <= case.now]
    begin = within.before(case.now, case.zone)
    return [event for event in case.contact.happened if begin < event.at <= case.now]


EARLIER = 5 * DAY  # what was left so long ago may be back (core.timing.turning)


def leaves(case: Case, within: Duration | None, counts: Callable[[Event], bool]) -> Iterator[datetime]:
    """When each event that counts may be longer ago than that, the next at least."""
    if within is None:
        return
    now, zone = case.now, case.zone
    for event in case.contact.happened:
        if counts(event) and event.at <= now and (left := within.after(event.at, zone)) > now - EARLIER:
            yield from turning(now, zone, within, event.at, left, partial(_is_past, within, event.at, zone))
            if left > now and is_smooth(within, zone, event.at, left):
                return  # those after it leave after it


def _is_past(within: Duration, happened: datetime, zone: str, now: datetime) -> bool:
    return within.before(now, zone) >= happened


class CountTest(Test):
    """How often something happened within a time ("fewer than 3 calls in 30 days"); "at least 1" is whether it
    did. `about` narrows it to one form, list, type of appointment …, by the subject of the event."""

    label = "how often something happened"
    sentence = "{compare} {number} {activity} in {within}"
    needs = frozenset({"happened"})
    test: Literal["count"] = "count"
    activity: Activity = part("choice", "what is counted", words=ACTIVITIES, default="call")
    compare: HowMany = part("choice", "how", default="at_least")
    number: int = part("count", "how many", ge=0, le=100_000, default=1)
    within: Duration | None = part("duration", "within", empty="all time", default=Duration(30, "day"))
    about: str = part("line", "about", empty="anything", clause="about {}", names={"activity": NAMES}, default="")

    def count(self, case: Case) -> int:
        return sum(map(self._counts, since(case, self.within)))

    def _counts(self, event: Event) -> bool:
        return is_deed(event, self.activity) and self.about in ("", event.subject)

    def holds(self, case: Case) -> bool:
        return compare_count(self.count(case), self.compare, self.number)

    def _what(self, number: int = 2) -> str:
        words = called(self.activity, number)
        return f"{words} “{self.about}”" if self.about else words

    def looks_back_on(self) -> frozenset[str]:
        return frozenset({KINDS[self.activity][0]})

    def turns_at(self, case: Case) -> Iterator[datetime]:
        yield from leaves(case, self.within, self._counts)

    def describe(self) -> str:
        time = f" in {self.within}" if self.within else ""
        return f"{how_many(self.compare, self.number)} {self._what(self.number)}{time}"

    def seen(self, case: Case) -> dict[str, str]:
        return {f"{self._what()}{f' in {self.within}' if self.within else ''}": str(self.count(case))}


DID = {
    "was_sent": "were sent",
    "got": "got",
    "clicked": "clicked in",
    "answered": "answered",
    "bounced": "could not be given",
    "complained": "marked as unwanted",
}


MESSAGE_KINDS = {  # the kind of event that tells of it
    "was_sent": "message.sent",
    "got": "message.delivered",
    "clicked": "link.clicked",
    "answered": "reply.received",
    "bounced": "message.bounced",
    "complained": "message.complained",
}


class MessageTest(Test):
    """How the contact treated a message, by its name, or any message: was sent it, got it, clicked in it,
    answered it, marked it as unwanted, it bounced; within a time."""

    label = "what became of a message"
    sentence = "{yes} that they {did} {message} in {within}"
    needs = frozenset({"happened"})
    test: Literal["message"] = "message"
    message: str = part("line", "message", of="message", empty="any message", default="")
    did: Literal["was_sent", "got", "clicked", "answered", "bounced", "complained"] = part(
        "choice", "did what", words=DID, default="clicked"
    )
    yes: bool = part("yes-no", "true or not", words={True: "it is so", False: "it is not so"}, default=True)
    within: Duration | None = part("duration", "within", empty="all time", default=None)

    def _found(self, case: Case) -> int:
        return sum(map(self._counts, since(case, self.within)))

    def _counts(self, event: Event) -> bool:
        kind = MESSAGE_KINDS[self.did]
        return event.kind == kind and (not self.message or event.data.get("message") == self.message)

    def holds(self, case: Case) -> bool:
        return (self._found(case) > 0) == self.yes

    def looks_back_on(self) -> frozenset[str]:
        return frozenset({MESSAGE_KINDS[self.did]})

    def turns_at(self, case: Case) -> Iterator[datetime]:
        yield from leaves(case, self.within, self._counts)

    def describe(self) -> str:
        did, plain = {
            "was_sent": ("was sent", "was not sent"),
            "got": ("got", "did not get"),
            "clicked": ("clicked in", "did not click in"),
            "answered": ("answered", "did not answer"),
            "bounced": ("could not be given", "could always be given"),
            "complained": ("marked as unwanted", "did not mark as unwanted"),
        }[self.did]
        message = f"“{self.message}”" if self.message else "any message"
        time = f" in the last {self.within}" if self.within else ""
        return f"{did if self.yes else plain} {message}{time}"

    def seen(self, case: Case) -> dict[str, str]:
        return {f"{self.did.replace('_', ' ')} {self.message or 'messages'}": str(self._found(case))}


class EventTest(Test):
    """Whether something on the stream of events happened within a time, and to what it happened."""

    label = "something that happened"
    sentence = "{yes} {event} about {about} in {within}"
    needs = frozenset({"happened"})
    test: Literal["event"] = "event"
    event: str = part("event", "what happened", default="")
    about: str = part("line", "about", empty="anything", names={"event": NAMES_OF_EVENTS}, default="")
    yes: bool = part("yes-no", "there was or was not", words={True: "there was", False: "there was no"}, default=True)
    within: Duration | None = part("duration", "within", empty="all time", default=Duration(7, "day"))

    def _found(self, case: Case) -> int:
        return sum(map(self._counts, since(case, self.within)))

    def _counts(self, event: Event) -> bool:
        return event.kind == self.event and self.about in ("", event.subject)

    def holds(self, case: Case) -> bool:
        return (self._found(case) > 0) == self.yes

    def looks_back_on(self) -> frozenset[str]:
        return frozenset({self.event})

    def turns_at(self, case: Case) -> Iterator[datetime]:
        yield from leaves(case, self.within, self._counts)

    def describe(self) -> str:
        what = self.event.replace(".", " ").replace("_", " ") or "something"
        about = f" “{self.about}”" if self.about else ""
        time = f" in the last {self.within}" if self.within else ""
        return f"{'' if self.yes else 'no '}{what}{about}{time}"

    def seen(self, case: Case) -> dict[str, str]:
        return {self.event: str(self._found(case))}

    def missing(self) -> str:
        return "" if self.event in SUBJECTS else "no kind of event is named"
