"""From trigger to phone on the real database: enrolling, batches, delivery, replies, opting out."""

from datetime import timedelta
from typing import Any

import pytest
from django.db import IntegrityError, OperationalError, transaction
from django.test import Client
from django.utils import timezone

from bluffside.core.care.house import Care
from bluffside.core.care.quiet import Opening, OpeningHours
from bluffside.core.facts import Contact as ContactFacts
from bluffside.server import moving_the_clock
from bluffside.server.diary.models import Task
from bluffside.server.events.stream import Cause, dispatch_batch
from bluffside.server.messaging import delivery, services
from bluffside.server.messaging.carrier import Answer, Parcel
from bluffside.server.messaging.links import link_token, unsubscribe_token
from bluffside.server.messaging.models import Link, Message, Reply
from bluffside.server.messaging.parcels import carrier_key
from bluffside.server.outside.carrier import SimulatedCarrier
from bluffside.server.outside.models import Item
from bluffside.server.outside.services import say
from bluffside.server.people.models import Contact
from bluffside.server.people.queries import load_contacts
from bluffside.server.people.services import add_tags
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account
from bluffside.server.worker import until_quiet
from bluffside.server.workflows import enrolling, signals, writing
from bluffside.server.workflows.engine import advance_batch
from bluffside.server.workflows.models import Enrolment, EnrolmentReasons, Workflow
from bluffside.server.workflows.story import story_of
from bluffside.server.workflows.why_not import because
from tests.server.conftest import NOON, House

HOUR = timedelta(hours=1)


def tag(contact: Contact, name: str) -> None:
    add_tags(contact.account, [(contact.id, name, Cause())])


def facts_of(contact: Contact) -> ContactFacts:
    return load_contacts(contact.account, [contact.id])[contact.id].contact


def phone(contact: Contact) -> list[str]:
    """What they were sent, without the line that leads to their own page."""
    found = Item.objects.filter(theirs=contact.mobile, inbound=False).order_by("id")
    return [text.partition("\nYour choices: ")[0] for text in found.values_list("text", flat=True)]


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
    assert facts_of(contact).tags == {"taster", "wants a course"}
    task = Task.objects.get()
    assert (task.kind, task.say, task.assigned) == ("call", "Hi P1", house.member)
    reasons = [reason["sentence"] for turn in EnrolmentReasons.objects.order_by("id") for reason in turn.reasons]
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
        moving_the_clock.run_through(NOON + timedelta(days=31), move_to)
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
        advance_batch(house.sailing)  # both texts are in the outbox, none is sent
        services.take_reply(house.sailing, "text", contact.mobile, "STOP", "in:1")
        assert Message.objects.get(contact=contact, answers_word=False).state == "cancelled"
        until_quiet()
    assert phone(contact) == ["Sailing: no more texts come to you. Text START if you want them again."]
    assert len(phone(other)) == 1
    with pytest.raises(services.CannotSend, match="opted out of texts"):
        services.write_to(contact, "text", "Hello?", house.member)


def test_an_opt_out_holds_against_a_message_queued_meanwhile(house: House) -> None:
    contact = house.contact()
    workflow = house.workflow()
    enrolling.enrol(workflow, [contact.id], "test", Cause())
    advance_batch(house.sailing)
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
        moving_the_clock.run_through(NOON + timedelta(days=10), move_to)
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
    signals.retry(house.sailing)
    until_quiet()
    assert len(phone(bad)) == 1


def test_workflows_that_start_each_other_come_to_an_end_and_say_so(house: House, api: Any) -> None:
    contact = house.contact()
    for here, there in (("a", "b"), ("b", "a")):
        steps = [{"kind": "untag", "id": "u", "tag": there}, {"kind": "tag", "id": "t", "tag": there}]
        house.workflow(
            name=here, starts=[{"kind": "tag_added", "tags": [here]}], entry={"again": "always"}, steps=steps
        )
    tag(contact, "a")
    until_quiet()
    assert Enrolment.objects.count() == enrolling.DEEPEST + 1
    last = Enrolment.objects.order_by("-id")[0]
    ended = Workflow.objects.exclude(id=last.workflow_id).get()
    said = f"“{ended.name}” does not start: 8 workflows have led here, one by another."
    assert last.turns.order_by("-id")[0].reasons == [{"step": "", "sentence": said, "values": {}}]
    assert api("GET", f"workflows/{ended.id}/watch")[1]["refused"] == 1
    assert api("GET", f"workflows/{last.workflow_id}/watch")[1]["refused"] == 0
    assert (f"Did not come into “{ended.name}”", said) in [(one.sentence, one.detail) for one in story_of(contact)]
    assert said in [one.sentence for one in because(contact, ended, "")]


def test_a_batch_that_dies_before_its_commit_has_done_nothing(house: House, monkeypatch) -> None:  # type: ignore[no-untyped-def]
    contact = house.contact()
    enrolling.enrol(house.workflow(), [contact.id], "test", Cause())

    def killed(*_: object) -> None:
        raise SystemExit

    with monkeypatch.context() as broken:
        broken.setattr("bluffside.server.workflows.applying_effects.write_deals", killed)
        with pytest.raises(SystemExit):
            advance_batch(house.sailing)
    assert not Message.objects.exists()
    until_quiet()
    assert len(phone(contact)) == 1


def test_what_the_database_refuses_is_found_and_set_aside_and_the_rest_of_its_batch_goes_on(house: House) -> None:
    """Two fill in the same email: the second is refused by a constraint, and all the others have their text."""
    people = [house.contact(number) for number in range(1, 6)]
    Contact.objects.filter(id__in=[people[1].id, people[3].id]).update(email="", first_name="same@example.com")
    fill = {"kind": "set_field", "id": "f", "field": "email", "value": "{{ contact.first_name }}"}
    text = {"kind": "text", "id": "t", "message": {"name": "T", "body": "Hello"}}
    workflow = house.workflow(steps=[fill, text])
    Contact.objects.exclude(id__in=[people[1].id, people[3].id]).update(first_name="")
    enrolling.enrol(workflow, [one.id for one in people], "test", Cause())
    until_quiet()
    [aside] = Enrolment.objects.exclude(fault="")
    second = next(number for number in (1, 3) if people[number].id == aside.contact_id)  # whose turn comes later
    assert "email_of_one_contact" in aside.fault
    assert [len(phone(one)) for one in people] == [int(number != second) for number in range(5)]


def test_a_database_that_goes_away_in_mid_batch_sets_nobody_aside(house: House, monkeypatch) -> None:  # type: ignore[no-untyped-def]
    contact = house.contact()
    enrolling.enrol(house.workflow(), [contact.id], "test", Cause())

    def away(*_: object) -> None:
        raise OperationalError("server closed the connection unexpectedly")

    with monkeypatch.context() as broken:
        broken.setattr("bluffside.server.workflows.applying_effects.write_deals", away)
        with pytest.raises(OperationalError):
            advance_batch(house.sailing)
    assert not Enrolment.objects.exclude(fault="").exists()
    until_quiet()
    assert len(phone(contact)) == 1


def test_a_worker_that_dies_after_the_hand_over_sends_nothing_twice(house: House, monkeypatch) -> None:  # type: ignore[no-untyped-def]
    contact = house.contact()
    enrolling.enrol(house.workflow(), [contact.id], "test", Cause())
    advance_batch(house.sailing)
    with monkeypatch.context() as broken:
        broken.setattr(delivery, "_write", lambda *args: 1 / 0)
        with pytest.raises(ZeroDivisionError):
            delivery.deliver_batch(house.sailing)
    assert delivery.deliver_batch(house.sailing) == 0  # the lease holds
    Message.objects.update(leased_until=timezone.now() - HOUR)
    until_quiet()
    assert Item.objects.get().times_handed_over == 2
    assert Message.objects.get().attempts == 2
    assert len(phone(contact)) == 1


def test_a_carrier_that_is_away_is_tried_again_and_one_that_refuses_is_not(house: House, monkeypatch) -> None:  # type: ignore[no-untyped-def]
    contact = house.contact()
    with clock.at(NOON) as move_to:
        services.write_to(contact, "text", "Hello", house.member)

        def away(self: SimulatedCarrier, parcels: list[Parcel]) -> list[Answer]:
            return [Answer("unavailable", "no line")] * len(parcels)

        with monkeypatch.context() as broken:
            broken.setattr(SimulatedCarrier, "hand_over", away)
            delivery.deliver_batch(house.sailing)
        message = Message.objects.get()
        assert (message.state, message.reason) == ("queued", "no line")
        assert NOON < message.next_try_at < NOON + HOUR
        moving_the_clock.run_through(NOON + HOUR, move_to)
        assert phone(contact) == ["Hello"]

        def refuse(self: SimulatedCarrier, parcels: list[Parcel]) -> list[Answer]:
            return [Answer("refused", "barred")] * len(parcels)

        monkeypatch.setattr(SimulatedCarrier, "hand_over", refuse)
        services.write_to(contact, "text", "Again", house.member)
        delivery.deliver_batch(house.sailing)
        assert Message.objects.filter(state="failed", reason="barred").count() == 1


def test_receipts_doubled_or_late_change_nothing_and_replies_doubled_are_kept_once(house: House) -> None:
    contact = house.contact()
    services.write_to(contact, "text", "Hello", house.member)
    delivery.deliver_batch(house.sailing)
    key = carrier_key(house.sailing.id, Message.objects.get().key)
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
    assert dispatch_batch(house.sailing) == 1
    assert dispatch_batch(house.sailing) == 0
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


def test_a_call_comes_back_when_somebody_may_be_rung_and_says_how_each_try_went(house: House, api: Any) -> None:
    """Calling hours, 8 to 21 where the contact is: 47 CFR 64.1200(c)(1)."""
    contact, call = house.contact(), {"kind": "call", "id": "c", "attempts": 3}
    contact.zone = "America/New_York"  # five hours behind
    contact.save()
    opening = Care(opening=OpeningHours(days={"mon": (Opening(),), "tue": (Opening(),)}))  # 9 to 17
    Account.objects.filter(id=house.sailing.id).update(care=opening.model_dump(mode="json"))
    house.sailing.refresh_from_db()

    def tries(outcome: str, **more: str) -> tuple[int, str]:
        status, data = api("POST", f"tasks/{Task.objects.get().id}/outcome", {"outcome": outcome, **more})
        return status, data.get("comes_back", data.get("detail"))

    with clock.at(NOON + HOUR) as move_to:  # Monday, 13:00; in New York it is 8
        enrolling.enrol(house.workflow(steps=[call], leaves_on=[]), [contact.id], "t", Cause())
        until_quiet()
        assert Task.objects.get().due_at == NOON + HOUR
        assert tries("no_answer", note="rang twice") == (200, "Mon 2 Mar, 16:00")
        move_to(NOON + 4 * HOUR)
        assert tries("left_message") == (200, "Tue 3 Mar, 13:00")  # open from 9, but in New York it is 4 in the morning
        assert tries("ring_back", at="2026-03-02T09:00")[0] == 409
        assert tries("ring_back", at="2026-03-05T11:30", note="busy till Thursday") == (200, "Thu 5 Mar, 11:30")
        move_to(NOON + timedelta(days=3))
        [row] = api("GET", "today")[1]["calls"]
        assert (row["tried"], row["attempts"]) == (3, 4)
        assert row["tries"][0] == "Mon 2 Mar, 13:00, Imogen F: no answer. rang twice"
        assert row["tries"][2].endswith("ring back. busy till Thursday")
        assert tries("no_answer") == (200, "")
    assert Task.objects.get().done_at is not None


def test_links_count_clicks_and_one_click_unsubscribes(house: House) -> None:
    """RFC 8058: the mail program posts to the address of List-Unsubscribe; a GET alone must not do it."""
    contact = house.contact()
    services.write_to(contact, "email", "See https://example.com/a?b=1.", house.member)
    until_quiet()
    item = Item.objects.get()
    link = Link.objects.get()
    token = link_token(house.sailing.id, link.message_id, 1)
    assert f"/l/{token}." in item.text and link.url == "https://example.com/a?b=1"
    browser = Client(headers={"User-Agent": "Mozilla/5.0 (X11; Linux x86_64; rv:140.0) Gecko/20100101 Firefox/140.0"})
    assert browser.get(f"/l/{token}").headers["Location"] == link.url
    for robot in (Client(), Client(headers={"User-Agent": "LinkCheck/1.0"})):
        assert robot.get(f"/l/{token}").headers["Location"] == link.url
    link.refresh_from_db()
    assert (link.clicks, link.robots) == (1, 2)
    assert browser.get(f"/l/{token[:-1]}~").status_code == 404
    address = f"/u/{unsubscribe_token(house.sailing.id, contact.id)}"
    assert Client().get(address).status_code == 200
    assert not facts_of(contact).opted_out
    assert (
        Client()
        .post(address, "List-Unsubscribe=One-Click", content_type="application/x-www-form-urlencoded")
        .status_code
        == 200
    )
    assert facts_of(contact).opted_out == {"email"}
    assert Client().post("/u/1:forged").status_code == 404


def test_words_from_people_are_never_markup(house: House) -> None:
    contact = house.contact()
    Contact.objects.update(first_name="<script>alert(1)</script>{{ 7 }}")
    mail = {"kind": "email", "id": "m", "message": {"name": "M", "subject": "S", "body": "Hi {{ contact.first_name }}"}}
    enrolling.enrol(house.workflow(steps=[mail]), [contact.id], "test", Cause())
    until_quiet()
    assert "<script>" not in Item.objects.get().html
    assert "{{ 7 }}" in Item.objects.get().text
