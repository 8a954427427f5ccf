"""How somebody who works here is told of what: they say it themselves, by kind."""

from collections.abc import Iterable, Mapping
from datetime import datetime, time, timedelta
from typing import Literal, NamedTuple

from bluffside.core.timing.local import to_instant, to_local
from bluffside.server.practice.models import Person

How = Literal["usual", "app", "mail", "daily", "none"]
WAYS: Mapping[How, str] = {
    "usual": "as the workflow says",
    "app": "here alone",
    "mail": "here, and by email at once",
    "daily": "here, and by email once a day",
    "none": "not at all",
}
MORNING = time(7)  # when what waited for once a day is mailed, where they are


class Kind(NamedTuple):
    """`usual`: how one is told who has said nothing; `ways`: what can be said."""

    words: str
    usual: How
    ways: tuple[How, ...]


KINDS: Mapping[str, Kind] = {
    "workflow": Kind("What a workflow tells me", "usual", ("usual", "app", "mail", "daily", "none")),
    "reply": Kind("A reply that waits for me", "none", ("none", "mail", "daily")),
    "assistant": Kind("The booking assistant asks for a person", "app", ("app", "mail", "daily", "none")),
    "appointment": Kind(
        "An appointment with me that is booked, moved, cancelled or missed", "none", ("none", "app", "mail", "daily")
    ),
    "connection": Kind("A connection that does not work any more", "app", ("app", "mail", "daily", "none")),
    "import": Kind("A file of mine that is brought in", "app", ("app", "mail", "none")),
    "task": Kind("A call or to-do of mine that comes due", "none", ("none", "mail", "daily")),
}


class Told(NamedTuple):
    """In the application, by email, and when that goes (None: at once)."""

    in_app: bool
    mail: bool
    mail_at: datetime | None


class Telling:
    """How each of some people is told, at a moment."""

    def __init__(self, people: Iterable[Person], zone: str, now: datetime) -> None:
        self.people, self.zone, self.now = {one.id: one for one in people}, zone, now

    def of(
        self, person_id: int, kind: str, in_app: bool = True, mail: bool = False, at: datetime | None = None
    ) -> Told | None:
        """None: not at all. `in_app` and `mail` are what is usual there; `at`: when it comes about, if not now."""
        person = self.people.get(person_id)
        how = how_told(person, kind) if person else "usual"
        if how == "none":
            return None
        if how == "usual":
            return Told(in_app, mail, None)
        zone = person.zone or self.zone if person else self.zone
        return Told(True, how != "app", next_morning(at or self.now, zone) if how == "daily" else None)


def how_told(person: Person, kind: str) -> How:
    said = person.told.get(kind)
    return said if said in KINDS[kind].ways else KINDS[kind].usual


def next_morning(now: datetime, zone: str) -> datetime:
    local = to_local(now, zone)
    day = local.date() + timedelta(days=local.time() >= MORNING)
    return to_instant(datetime.combine(day, MORNING), zone)
