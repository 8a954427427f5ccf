"""One stop: at once, for everybody, by one act; and when it is lifted, what fell due is decided upon and not sent in a bundle."""

from datetime import timedelta
from typing import Any

import pytest

from bluffside.server.events.stream import Cause
from bluffside.server.messaging.models import Message
from bluffside.server.messaging.services import take_reply, write_to
from bluffside.server.people.models import Contact
from bluffside.server.practice import clock
from bluffside.server.practice.models import Membership, Person
from bluffside.server.worker import until_quiet
from bluffside.server.workflows import enrolling
from bluffside.server.workflows.models import Enrolment, Workflow
from tests.server.conftest import House
from tests.server.test_engine import NOON

STEPS = [
    {"kind": "text", "id": "hello", "message": {"name": "Hello", "body": "Hello"}},
    {"kind": "wait", "id": "w", "duration": "1 day"},
    {"kind": "text", "id": "more", "message": {"name": "More", "body": "More"}},
    {"kind": "text", "id": "and", "message": {"name": "And", "body": "And"}},
    {"kind": "wait", "id": "w2", "duration": "1 day"},
    {"kind": "text", "id": "last", "message": {"name": "Last", "body": "Last"}},
]
DAY = timedelta(days=1)


def went(house: House, **more: Any) -> list[str]:
    """The names of the messages that a carrier took."""
    found = Message.objects.filter(account=house.sailing, state__in=("sent", "delivered"), **more)
    return list(found.order_by("contact_id", "id").values_list("name", flat=True))


@pytest.fixture
def inside(house: House) -> Workflow:
    workflow = house.workflow(steps=STEPS, leaves_on=[])
    with clock.at(NOON):
        enrolling.enrol(workflow, [house.contact(n).id for n in (1, 2)], "test", Cause())
        until_quiet()
    return workflow


def test_nothing_goes_while_it_is_stopped_and_what_fell_due_is_decided_upon(
    api: Any, house: House, inside: Workflow
) -> None:
    assert went(house) == ["Hello"] * 2
    with clock.at(NOON) as move_to:
        third = house.contact(3)
        enrolling.enrol(inside, [third.id], "test", Cause())
        until_quiet()
        Message.objects.filter(contact=third).update(state="queued")  # it lies in the outbox
        assert api("POST", "sending/stop", {"why": "The price is wrong"}) == (200, {"held": 1})
        assert api("POST", "sending/stop", {"why": "again"})[0] == 409
        assert api("GET", "")[1]["stopped"].endswith("by Imogen F: The price is wrong")
        house.sailing.refresh_from_db()
        write_to(Contact.objects.select_related("account").get(id=third.id), "text", "Sorry!", house.member)
        move_to(NOON + 2 * DAY)
        until_quiet()
        assert went(house) == ["Hello"] * 2
        # Three stand at “More”, and nobody went past it; the two that lay in the outbox, or came into it, lie there.
        waits = api("GET", "sending/held-back")[1]
        assert [(one["where"], one["name"], one["how_many"]) for one in waits] == [
            ("in the outbox", "", 1), ("in the outbox", "Hello", 1), ("at a line", "More", 3),
        ]  # fmt: skip
        assert api("GET", f"workflows/{inside.id}/held")[1] == []  # not to be let go one by one
        decision = {key: waits[2][key] for key in ("where", "name", "version", "place")}
        assert api("POST", "sending/decide", decision | {"goes": True})[0] == 409  # not while it is stopped
        take_reply(house.sailing, "text", third.mobile, "stop", "r1")  # who leaves meanwhile is asked about no more

        assert api("POST", "sending/lift")[0] == 204
        house.sailing.refresh_from_db()
        until_quiet()
        assert went(house) == ["Hello"] * 2  # lifted is not let go
        waits = api("GET", "sending/held-back")[1]
        assert [(one["name"], one["how_many"]) for one in waits] == [("More", 2), ("They are out", 1)]
        assert api("POST", "sending/decide", decision | {"goes": True})[1] == {"count": 2}
        assert api("POST", "sending/decide", decision | {"goes": True})[1] == {"count": 0}
        until_quiet()
        assert went(house, contact__first_name="P1") == ["Hello", "More", "And"]
        move_to(NOON + 3 * DAY)
        until_quiet()
        assert went(house, contact__first_name="P1")[-1] == "Last"  # a day after, not with the others


def test_what_is_not_to_go_after_the_stop_takes_along_what_follows_up_on_it(
    api: Any, house: House, inside: Workflow
) -> None:
    with clock.at(NOON) as move_to:
        api("POST", "sending/stop", {"why": "x"})
        move_to(NOON + DAY)
        until_quiet()
        api("POST", "sending/lift")
        [waits] = api("GET", "sending/held-back")[1]
        decision = {key: waits[key] for key in ("where", "name", "version", "place")}
        assert api("POST", "sending/decide", decision | {"goes": False})[1] == {"count": 2}
        until_quiet()
        assert went(house) == ["Hello"] * 2
        assert not Enrolment.objects.filter(rest__stopped=True).exists()
        move_to(NOON + 2 * DAY)
        until_quiet()
        assert went(house, contact__first_name="P1") == ["Hello", "Last"]


def test_who_stops_it_may_write_workflows_and_no_other_account_stops(
    house: House, signed_in: Any, inside: Workflow
) -> None:
    viewer = Person.objects.create_user("viewer@example.com", "long-enough-7", name="Vi", practice=house.practice)
    Membership.objects.create(account=house.sailing, person=viewer, role="viewer")
    for who, status in ((viewer, 403), (house.member, 403), (house.consultant, 200)):
        given = {"why": "x"}
        answer = signed_in(who).post("/api/accounts/sailing/sending/stop", given, content_type="application/json")
        assert answer.status_code == status
    elsewhere = house.contact(1, house.pottery)
    enrolling.enrol(house.workflow(house.pottery), [elsewhere.id], "test", Cause())
    until_quiet()
    assert Message.objects.get(account=house.pottery).state == "sent"
