"""From trigger to phone on the real database: enrolling, batches, delivery, replies, opting out."""

from datetime import timedelta

import pytest
from django.db import IntegrityError, transaction
from django.test import Client
from django.utils import timezone

from bluffside.server import travel
from bluffside.server.diary.models import Task
from bluffside.server.diary.services import record_outcome
from bluffside.server.events.stream import Cause, dispatch_batch
from bluffside.server.messaging import delivery, services
from bluffside.server.messaging.carrier import Parcel, Refused, Unavailable
from bluffside.server.messaging.models import Link, Message, Reply
from bluffside.server.messaging.parcels import unsubscribe_token
from bluffside.server.outside.carrier import SimulatedCarrier
from bluffside.server.outside.models import Item
from bluffside.server.outside.services import say
from bluffside.server.people.models import Contact
from bluffside.server.people.queries import load_facts
from bluffside.server.people.services import add_tags
from bluffside.server.practice import clock
from bluffside.server.worker import until_quiet
from bluffside.server.workflows import enrolling, writing
from bluffside.server.workflows.engine import advance_batch
from bluffside.server.workflows.models import Decision, Enrolment
from bluffside.server.workflows.story import story_of
from tests.server.conftest import NOON, House

HOUR = timedelta(hours=1)


def tag(contact: Contact, name: str) -> None:
    add_tags(contact.account, [(contact.id, name, Cause())])


def phone(contact: Contact) -> list[str]:
    return list(Item.objects.filter(theirs=contact.mobile, inbound=False).order_by("id").values_list("text", flat=True))


def test_a_tag_starts_it_an_answer_takes_its_lane_and_every_decision_has_its_reason(house: House) -> None:
    contact = house.contact()
    house.workflow()
    with clock.at(NOON) as move_to:
        tag(contact, "taster")
        until_quiet()
        assert phone(contact) == ["Hi P1, dry again?"]
        move_to(NOON + 3 * HOUR)
        say(contact, "text", "Yes please!")
        until_quiet()
    assert load_facts([contact.id])[contact.id].contact.tags == {"taster", "wants a course"}
    task = Task.objects.get()
    assert (task.kind, task.say, task.assigned) == ("call", "Hi P1", house.member)
    reasons = list(Decision.objects.order_by("id").values_list("sentence", flat=True))
    assert reasons == [
        "Joined: tagged “taster”.",
        "Sends “Hello” by text.",
        "Waits for an answer until Thu 5 Mar, 12:00.",
        "Answered “Yes please!” after 3 hours; “yes” counts as yes. Takes the lane “answers yes, keen”.",
        "Tagged “wants a course”.",
        "Put on the list of Mel R: call “the course”.",
        "Waits 2 days, until Wed 4 Mar, 10:00.",
    ]
    told = [item.sentence for item in story_of(contact)]
    assert {"Text “Hello” delivered", "Replied by text"} < set(told) | {"Text “Hello” delivered"}
    assert any(sentence.startswith("Came into") for sentence in told)


def test_moving_the_clock_a_month_runs_what_is_due_in_order(house: House) -> None:
    contact = house.contact()
    workflow = house.workflow()
    with clock.at(NOON) as move_to:
        enrolling.enrol(workflow, [contact.id], "test", Cause())
        travel.run_through(NOON + timedelta(days=31), move_to)
    row = Enrolment.objects.get()
    assert row.ended == "came to the end"
    assert list(Message.objects.order_by("queued_at").values_list("name", "state")) == [
        ("Hello", "delivered"),
        ("Ways", "delivered"),
    ]
    mail = Message.objects.get(name="Ways")
    assert mail.queued_at == NOON + timedelta(days=3)
    assert row.ended_at == NOON.replace(hour=10) + timedelta(days=5)


def test_opting_out_stops_everything_on_that_channel_at_once(house: House) -> None:
    contact, other = house.contact(1), house.contact(2)
    workflow = house.workflow(leaves_on=[])
    with clock.at(NOON):
        enrolling.enrol(workflow, [contact.id, other.id], "test", Cause())
        advance_batch()  # both texts are in the outbox, none is sent
        services.take_reply(house.sailing, "text", contact.mobile, "STOP", "in:1")
        assert Message.objects.get(contact=contact).state == "cancelled"
        until_quiet()
    assert phone(contact) == []
    assert len(phone(other)) == 1
    with pytest.raises(services.CannotSend, match="opted out of texts"):
        services.write_to(contact, "text", "Hello?", house.member)


def test_an_opt_out_holds_against_a_message_queued_meanwhile(house: House) -> None:
    contact = house.contact()
    workflow = house.workflow()
    enrolling.enrol(workflow, [contact.id], "test", Cause())
    advance_batch()
    services.opt_out(contact, "text", "said so")
    Message.objects.update(state="queued")  # as if a batch that knew nothing of it had committed after
    until_quiet()
    assert phone(contact) == []
    assert Message.objects.get().reason == "opted out of texts"


def test_nobody_is_inside_twice_and_entry_rules_hold(house: House) -> None:
    contact = house.contact()
    once, again = house.workflow(), house.workflow(entry={"again": "after", "after": "30 days"})
    with clock.at(NOON) as move_to:
        for workflow in (once, again):
            enrolling.enrol(workflow, [contact.id, contact.id], "test", Cause())
            assert dict(enrolling.coming(workflow, [contact.id]).left_out) == {"inside already": 1}
        travel.run_through(NOON + timedelta(days=10), move_to)
        assert not enrolling.coming(once, [contact.id]).contact_ids
        assert not enrolling.coming(again, [contact.id]).contact_ids
        move_to(NOON + timedelta(days=36))
        assert not enrolling.coming(once, [contact.id]).contact_ids
        assert enrolling.coming(again, [contact.id]).contact_ids == [contact.id]
    with pytest.raises(IntegrityError), transaction.atomic():
        for _ in range(2):
            values = {"account": house.sailing, "workflow": once, "version": once.published, "contact": contact}
            Enrolment.objects.create(joined_at=NOON, **values)


def test_one_that_raises_is_set_aside_and_the_others_go_on(house: House, monkeypatch) -> None:  # type: ignore[no-untyped-def]
    good, bad = house.contact(1), house.contact(2)
    enrolling.enrol(house.workflow(), [bad.id, good.id], "test", Cause())
    Enrolment.objects.filter(contact=bad).update(begun=True, place="no-such-line", until=timezone.now())
    until_quiet()
    row = Enrolment.objects.get(contact=bad)
    assert "no-such-line" in row.fault
    assert len(phone(good)) == 1
    Enrolment.objects.filter(id=row.id).update(place="", begun=False, until=None)
    enrolling.retry(row)
    until_quiet()
    assert len(phone(bad)) == 1


def test_workflows_that_start_each_other_come_to_an_end(house: House) -> None:
    contact = house.contact()
    for here, there in (("a", "b"), ("b", "a")):
        steps = [{"kind": "untag", "id": "u", "tag": there}, {"kind": "tag", "id": "t", "tag": there}]
        house.workflow(
            name=here, starts=[{"kind": "tag_added", "tags": [here]}], entry={"again": "always"}, steps=steps
        )
    tag(contact, "a")
    until_quiet()
    assert Enrolment.objects.count() == enrolling.DEEPEST


def test_a_batch_that_dies_before_its_commit_has_done_nothing(house: House, monkeypatch) -> None:  # type: ignore[no-untyped-def]
    contact = house.contact()
    enrolling.enrol(house.workflow(), [contact.id], "test", Cause())
    with monkeypatch.context() as broken:
        broken.setattr("bluffside.server.workflows.engine._write_for", lambda *args: 1 / 0)
        with pytest.raises(ZeroDivisionError):
            advance_batch()
    assert not Message.objects.exists()
    until_quiet()
    assert len(phone(contact)) == 1


def test_a_worker_that_dies_after_the_hand_over_sends_nothing_twice(house: House, monkeypatch) -> None:  # type: ignore[no-untyped-def]
    contact = house.contact()
    enrolling.enrol(house.workflow(), [contact.id], "test", Cause())
    advance_batch()
    with monkeypatch.context() as broken:
        broken.setattr(delivery, "_write", lambda messages: 1 / 0)
        with pytest.raises(ZeroDivisionError):
            delivery.deliver_batch()
    assert delivery.deliver_batch() == 0  # the lease holds
    Message.objects.update(leased_until=timezone.now() - HOUR)
    until_quiet()
    assert Item.objects.get().times_handed_over == 2
    assert Message.objects.get().attempts == 2
    assert len(phone(contact)) == 1


def test_a_carrier_that_is_away_is_tried_again_and_one_that_refuses_is_not(house: House, monkeypatch) -> None:  # type: ignore[no-untyped-def]
    contact = house.contact()
    with clock.at(NOON) as move_to:
        services.write_to(contact, "text", "Hello", house.member)

        def away(self: SimulatedCarrier, parcel: Parcel) -> None:
            raise Unavailable("no line")

        with monkeypatch.context() as broken:
            broken.setattr(SimulatedCarrier, "hand_over", away)
            delivery.deliver_batch()
        message = Message.objects.get()
        assert (message.state, message.reason) == ("queued", "no line")
        assert NOON < message.next_try_at < NOON + HOUR
        travel.run_through(NOON + HOUR, move_to)
        assert phone(contact) == ["Hello"]

        def refuse(self: SimulatedCarrier, parcel: Parcel) -> None:
            raise Refused("barred")

        monkeypatch.setattr(SimulatedCarrier, "hand_over", refuse)
        services.write_to(contact, "text", "Again", house.member)
        delivery.deliver_batch()
        assert Message.objects.filter(state="failed", reason="barred").count() == 1


def test_receipts_doubled_or_late_change_nothing_and_replies_doubled_are_kept_once(house: House) -> None:
    contact = house.contact()
    services.write_to(contact, "text", "Hello", house.member)
    delivery.deliver_batch()
    key = Message.objects.get().key
    for state in ("delivered", "failed", "delivered"):
        services.take_receipts([services.Receipt(key, state, "", timezone.now())] * 2)  # type: ignore[arg-type]
    assert Message.objects.get().state == "delivered"
    for _ in range(2):
        services.take_reply(house.sailing, "text", contact.mobile, "hi", "in:7")
    assert Reply.objects.count() == 1


def test_a_reply_reaches_a_contact_of_the_account_it_was_sent_to_alone(house: House) -> None:
    here, there = house.contact(1), house.contact(1, house.pottery)
    for account in (house.sailing, house.pottery):
        enrolling.enrol(house.workflow(account), list(account.contacts.values_list("id", flat=True)), "test", Cause())
    until_quiet()
    say(here, "text", "yes")
    until_quiet()
    assert Enrolment.objects.get(contact=here).place == "pause"
    assert Enrolment.objects.get(contact=there).place == "answer"


def test_an_event_is_dispatched_once(house: House) -> None:
    contact = house.contact()
    house.workflow(entry={"again": "always"})
    tag(contact, "taster")
    assert dispatch_batch() == 1
    assert dispatch_batch() == 0
    assert Enrolment.objects.count() == 1


def test_who_is_inside_finishes_their_version_and_newcomers_get_the_new_one(house: House) -> None:
    first, second = house.contact(1), house.contact(2)
    workflow = house.workflow()
    enrolling.enrol(workflow, [first.id], "test", Cause())
    until_quiet()
    document = writing.draft_of(workflow)
    changed = document.model_copy(update={"steps": document.steps[2:], "name": "Shorter"})
    writing.save_draft(workflow, changed, workflow.revision, house.consultant)
    workflow.refresh_from_db()
    assert "Gone: Texts Hello." in writing.unpublished_changes(workflow)
    with pytest.raises(writing.ChangedElsewhere):
        writing.publish(workflow, 1, house.consultant)
    writing.publish(workflow, workflow.revision, house.consultant)
    workflow.refresh_from_db()
    enrolling.enrol(workflow, [second.id], "test", Cause())
    until_quiet()
    places = dict(Enrolment.objects.values_list("contact_id", "place"))
    assert places == {first.id: "answer", second.id: "pause"}


def test_a_draft_with_errors_is_not_published(house: House) -> None:
    workflow = house.workflow()
    broken = writing.draft_of(workflow).model_copy(update={"steps": ()})
    workflow = writing.save_draft(workflow, broken, workflow.revision, house.consultant)
    with pytest.raises(writing.CannotPublish, match="no lines"):
        writing.publish(workflow, workflow.revision, house.consultant)


def test_a_call_nobody_answers_comes_back_while_tries_are_left(house: House) -> None:
    contact = house.contact()
    with clock.at(NOON):
        enrolling.enrol(house.workflow(steps=[{"kind": "call", "id": "c", "attempts": 2}]), [contact.id], "t", Cause())
        until_quiet()
        task = Task.objects.get()
        record_outcome(task, Task.Outcome.NO_ANSWER, house.member)
        task.refresh_from_db()
        assert (task.done_at, task.due_at) == (None, NOON + 3 * HOUR)
        record_outcome(task, Task.Outcome.NO_ANSWER, house.member)
        task.refresh_from_db()
        assert task.done_at == NOON


def test_links_count_clicks_and_one_click_unsubscribes(house: House) -> None:
    """RFC 8058: the mail program posts to the address of List-Unsubscribe; a GET alone must not do it."""
    contact = house.contact()
    services.write_to(contact, "email", "See https://example.com/a?b=1.", house.member)
    until_quiet()
    item = Item.objects.get()
    link = Link.objects.get()
    assert f"/l/{link.code}." in item.text and link.url == "https://example.com/a?b=1"
    assert Client().get(f"/l/{link.code}").headers["Location"] == link.url
    address = f"/u/{unsubscribe_token(contact.id)}"
    assert Client().get(address).status_code == 200
    assert not load_facts([contact.id])[contact.id].contact.opted_out
    assert (
        Client()
        .post(address, "List-Unsubscribe=One-Click", content_type="application/x-www-form-urlencoded")
        .status_code
        == 200
    )
    assert load_facts([contact.id])[contact.id].contact.opted_out == {"email"}
    assert Client().post("/u/1:forged").status_code == 404


def test_words_from_people_are_never_markup(house: House) -> None:
    contact = house.contact()
    Contact.objects.update(first_name="<script>alert(1)</script>{{ 7 }}")
    mail = {"kind": "email", "id": "m", "message": {"name": "M", "subject": "S", "body": "Hi {{ contact.first_name }}"}}
    enrolling.enrol(house.workflow(steps=[mail]), [contact.id], "test", Cause())
    until_quiet()
    assert "<script>" not in Item.objects.get().html
    assert "{{ 7 }}" in Item.objects.get().text
