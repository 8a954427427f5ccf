"""When somebody was last seen, and where: noted every few minutes, by real time."""

import time

from allauth.usersessions.models import UserSession
from django.http import HttpRequest
from django.utils import timezone

from bluffside.server.practice.models import Person

EVERY = 300.0  # seconds between two notes
MOST_NOTED = 10_000
_noted: dict[str, float] = {}


def note_seen(request: HttpRequest, person: Person) -> None:
    key = request.session.session_key or ""
    if time.monotonic() - _noted.get(key, -EVERY) < EVERY:
        return
    if len(_noted) >= MOST_NOTED:
        _noted.clear()
    _noted[key] = time.monotonic()
    now = timezone.now()
    UserSession.objects.filter(session_key=key).update(last_seen_at=now)
    Person.objects.filter(id=person.id).update(seen_at=now)
