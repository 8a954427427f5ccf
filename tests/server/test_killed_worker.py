"""A worker killed ten times, at any moment, during a thousand enrolments: each phone holds each message exactly once."""

import os
import random
import signal
import subprocess
import sys
import time
from collections import Counter
from datetime import timedelta

import pytest
from django.conf import settings
from django.db import connection
from django.utils import timezone

from bluffside.server.events.stream import Cause
from bluffside.server.messaging.models import Message
from bluffside.server.outside.models import Item
from bluffside.server.people.models import Contact
from bluffside.server.workflows import enrolling
from bluffside.server.workflows.models import Enrolment, Turn
from tests.server.conftest import make_house

PEOPLE = 1_000
KILLS = 10
STEPS = [
    {"kind": "text", "id": "one", "message": {"name": "One", "body": "First, {{ contact.first_name }}"}},
    {"kind": "tag", "id": "mark", "tag": "seen"},
    {"kind": "call", "id": "ring", "about": "it"},
    {"kind": "email", "id": "two", "message": {"name": "Two", "subject": "S", "body": "Second"}},
    {"kind": "wait", "id": "moment", "duration": "0 minutes"},
    {"kind": "text", "id": "three", "message": {"name": "Three", "body": "Third"}},
]


def worker() -> subprocess.Popen[bytes]:
    database = connection.settings_dict
    url = f"postgresql://{database['USER']}:{database['PASSWORD']}@{database['HOST']}:{database['PORT']}/{database['NAME']}"
    env = os.environ | {"DATABASE_URL": url, "PYTHONPATH": str(settings.ROOT / "src")}
    return subprocess.Popen([sys.executable, "-m", "django", "work"], env=env, stderr=subprocess.DEVNULL)


@pytest.mark.django_db(transaction=True)
def test_each_phone_holds_each_message_exactly_once() -> None:
    house = make_house()
    Contact.objects.bulk_create(
        Contact(
            account=house.sailing,
            first_name=f"N{n}",
            email=f"n{n}@example.com",
            mobile=f"+4477009{n:05}",
            added_at=timezone.now(),
        )
        for n in range(PEOPLE)
    )
    people = list(house.sailing.contacts.exclude(mobile__endswith="99").values_list("id", flat=True))
    workflow = house.workflow(steps=STEPS, leaves_on=[])
    enrolling.enrol(workflow, people, "test", Cause())

    chance = random.Random(4)  # noqa: S311  # moments to kill at
    for _ in range(KILLS):
        running = worker()
        began = handed = Item.objects.count()
        waited = time.monotonic()
        while handed == began and time.monotonic() - waited < 20:  # it is at work
            time.sleep(0.02)
            handed = Item.objects.count() if Enrolment.objects.filter(begun=True).exists() else began
        time.sleep(chance.uniform(0, 0.5))
        running.send_signal(signal.SIGKILL)
        running.wait()
        # What the dead worker had leased is given up after a minute; the test does not wait for that minute.
        Message.objects.filter(state="sending").update(leased_until=timezone.now() - timedelta(seconds=1))

    running = worker()
    try:
        expected = 3 * len(people)
        for _ in range(600):
            if Message.objects.filter(state="delivered").count() == expected:
                break
            time.sleep(0.2)
    finally:
        running.terminate()
        running.wait()

    held = Counter(Item.objects.values_list("theirs", "channel", "text"))
    assert len([one for one in held if one[1] == "text"]) == 2 * len(people)
    assert len(held) == expected
    assert set(held.values()) == {1}
    assert Enrolment.objects.filter(ended="came to the end").count() == len(people)
    assert Turn.objects.filter(steps__contains=["mark"]).count() == len(people)
