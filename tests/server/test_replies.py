"""Replies: one correspondence a contact; what nobody of the team has to answer does not wait; two never answer one person at once."""

from collections.abc import Callable, Iterator
from datetime import UTC, datetime, timedelta
from threading import Barrier, Thread
from typing import Any

import pytest
from django.db import connection
from django.test import Client

from bluffside.core.care.house import Care
from bluffside.core.care.quiet import QuietHours
from bluffside.server.diary import services as diary
from bluffside.server.diary.models import Appointment, Notice, Task
from bluffside.server.events.stream import Cause
from bluffside.server.messaging import answering, correspondence
from bluffside.server.messaging.models import Correspondence, Message, Reply
from bluffside.server.messaging.services import take_reply
from bluffside.server.outside.models import Item
from bluffside.server.people.merging import merge
from bluffside.server.people.models import Contact
from bluffside.server.people.services import add_note, set_consent
from bluffside.server.practice import clock, connections, walls
from bluffside.server.practice.models import Account, Person
from bluffside.server.worker import until_quiet
from bluffside.server.workflows import enrolling
from tests.server.bringing import begin, finish
from tests.server.conftest import NOON, House

pytestmark = pytest.mark.django_db(transaction=True)

NIGHT = datetime(2026, 3, 4, 2, 10, tzinfo=UTC)


@pytest.fixture(autouse=True)
def _at_noon() -> Iterator[Callable[[datetime], None]]:
    with clock.at(NOON) as move_to:
        yield move_to


def writes(contact: Contact, words: str, channel: Any = "text") -> Reply:
    address = contact.mobile if channel == "text" else contact.email
    reply = take_reply(contact.account, channel, address, words, f"in:{contact.pk}:{words}:{clock.now()}")
    assert reply is not None
    return reply


def shown(api: Any, show: str = "waiting", **query: str) -> list[str]:
    asked = "&".join(f"{name}={value}" for name, value in {"show": show, **query}.items())
    return [row["contact"] for row in api("GET", f"replies?{asked}")[1]["rows"]]


def turn_of(contact: Contact) -> int:
    return Correspondence.objects.get(contact=contact).turn


def test_twenty_texts_of_one_person_are_one_correspondence_and_who_waits_longest_stands_first(
    house: House, api: Any, _at_noon: Callable[[datetime], None]
) -> None:
    first, second, third = (house.contact(n) for n in (1, 2, 3))
    writes(second, "Can my son come too?")
    for n in range(20):
        _at_noon(NOON + timedelta(minutes=n + 1))
        writes(first, f"Number {n}, what does it cost?")
    writes(third, "this is spam")
    told = api("GET", "replies")[1]
    assert [(row["contact"], row["to_decide"]) for row in told["rows"]] == [("P3", True), ("P2", False), ("P1", False)]
    assert [row["text"] for row in told["rows"]][2] == "Number 19, what does it cost?"
    assert told["counts"]["waiting"] == 3 and len(api("GET", "today")[1]["replies"]) == 3
    said = api("GET", f"replies/{first.pk}")[1]
    assert len(said["said"]) == 20 and all(one["waits"] for one in said["said"])
    assert shown(api, words="son+come") == ["P2"] and shown(api, "all", words="nothing+such") == []


def test_what_a_word_a_rule_or_a_workflow_has_answered_does_not_wait(
    house: House, api: Any, _at_noon: Callable[[datetime], None]
) -> None:
    asked, stops, asks_too = (house.contact(n) for n in (1, 2, 3))
    workflow = house.workflow()
    enrolling.enrol(workflow, [asked.pk, asks_too.pk], "test", Cause())
    until_quiet()
    _at_noon(NOON + timedelta(minutes=5))
    writes(asked, "yes please")
    writes(asks_too, "yes please, but can my son come too?")
    writes(stops, "STOP")
    until_quiet()
    assert shown(api) == ["P3"], "what is asked besides waits for a person"
    told = api("GET", "replies?show=by_itself")[1]
    assert {row["contact"]: row["answered_by"] for row in told["rows"]} == {"P1": "workflow", "P2": "word"}
    assert told["counts"]["by_itself"] == {"workflow": 1, "word": 1}
    assert api("GET", f"replies/{asked.pk}?before=2026-03-02T12:00")[0] == 422, "of which zone?"
    lines = api("GET", f"replies/{asked.pk}")[1]["said"]
    assert lines[0]["of"] == "workflow" and lines[0]["who"] == workflow.name
    assert [one["answered_by"] for one in lines if one["of"] == "contact"] == ["workflow"]


def test_what_a_workflow_stays_for_waits_whatever_else_answered_it(
    house: House, api: Any, _at_noon: Callable[[datetime], None]
) -> None:
    """In whichever order the two workflows hear of it. That it needs no answer can be taken back for some seconds; till then
    neither goes on."""
    contact = house.contact()
    lanes = [{"id": "n", "answer": "none", "steps": []}]
    only_none = [
        {"kind": "text", "id": "t", "message": {"name": "Ask", "body": "Yes?"}, "purpose": "service"},
        {"kind": "wait_for_reply", "id": "w", "limit": "3 days", "lanes": lanes},
    ]
    workflows = [house.workflow(), house.workflow(name="Other", steps=only_none, leaves_on=[])]
    for workflow in workflows:
        enrolling.enrol(workflow, [contact.pk], "test", Cause())
    until_quiet()
    reply = writes(contact, "yes please")
    until_quiet()
    assert shown(api) == ["P1"]
    correspondence.answered_by(house.sailing, "workflow", [reply.pk])
    assert shown(api) == ["P1"], "still to be read"
    status, done = api("POST", f"replies/{contact.pk}/done", {"turn": turn_of(contact)})
    until_quiet()
    assert status == 200 and shown(api) == [] and workflows[1].enrolments.filter(ended_at=None).exists()
    back = f"replies/{contact.pk}/done?turn={done['turn']}"
    assert api("DELETE", back)[0] == 204 and shown(api) == ["P1"]
    assert api("DELETE", back)[0] == 409, "once"
    _, done = api("POST", f"replies/{contact.pk}/done", {"turn": turn_of(contact)})
    _at_noon(NOON + timedelta(seconds=done["undo_for"]))
    until_quiet()
    assert shown(api) == [] and not workflows[1].enrolments.filter(ended_at=None).exists()
    status, said = api("DELETE", f"replies/{contact.pk}/done?turn={turn_of(contact)}")
    assert status == 409 and "it has been heard" in said["detail"]


def test_what_reads_like_a_refusal_and_was_put_away_in_error_is_to_be_decided_as_before(house: House, api: Any) -> None:
    contact = house.contact()
    workflow = house.workflow()
    writes(contact, "this is spam")
    enrolling.enrol(workflow, [contact.pk], "test", Cause())
    until_quiet()
    assert not Message.objects.filter(state="sent").exists(), "marketing is held meanwhile"
    _, done = api("POST", f"replies/{contact.pk}/done", {"turn": turn_of(contact)})
    until_quiet()
    assert not Message.objects.filter(state="sent").exists(), "and as long as it can be taken back"
    assert api("DELETE", f"replies/{contact.pk}/done?turn={done['turn']}")[0] == 204
    until_quiet()
    [row] = api("GET", "replies")[1]["rows"]
    assert row["to_decide"] and not Message.objects.filter(state="sent").exists()


def test_an_answer_takes_all_that_waits_off_the_list_and_goes_once(house: House, api: Any) -> None:
    contact = house.contact()
    writes(contact, "What does it cost?")
    writes(contact, "And on Sunday?", "email")
    add_note(contact, "Rang, nobody there", Cause(actor=house.member))
    told = api("GET", f"replies/{contact.pk}")[1]
    assert [one["of"] for one in told["said"]] == ["contact", "contact", "note"] and told["last_by"] == "email"
    given = {"text": "60, on Sunday too", "channel": "text", "turn": told["turn"]}
    assert api("POST", f"replies/{contact.pk}/answer", given) == (200, {"asks": "", "goes": ""})
    status, refused = api("POST", f"replies/{contact.pk}/answer", given)
    assert status == 409 and "Imogen F has answered P1 meanwhile: “60, on Sunday too”" in refused["detail"]
    until_quiet()
    assert [one.body for one in Message.objects.all()] == ["60, on Sunday too"]
    assert shown(api) == [] and api("GET", f"replies/{contact.pk}")[1]["assigned"] == house.consultant.pk


def test_what_is_written_from_elsewhere_answers_too_and_decides_nothing(house: House, api: Any) -> None:
    asks, refuses = house.contact(1), house.contact(2)
    writes(asks, "What does it cost?")
    writes(refuses, "this is spam")
    turn = turn_of(asks)
    for one in (asks, refuses):
        assert api("POST", f"contacts/{one.pk}/write", {"text": "Hello", "channel": "text"})[0] == 204
    assert shown(api) == ["P2"]
    answer = {"text": "60", "channel": "text", "turn": turn}
    assert "Imogen F has answered P1" in api("POST", f"replies/{asks.pk}/answer", answer)[1]["detail"]


def test_of_two_who_answer_one_person_at_once_one_is_told(house: House) -> None:
    contact, both, did = house.contact(), Barrier(2), []
    writes(contact, "What does it cost?")
    turn = turn_of(contact)

    def answers(by: Any) -> None:
        walls.enter(house.sailing)
        mine = Contact.objects.select_related("account").get(pk=contact.pk)
        both.wait()
        try:
            answering.answer(mine, "text", f"60, says {by.name}", by, turn)
            did.append("sent")
        except correspondence.MovedOn as error:
            did.append(str(error))
        finally:
            connection.close()

    threads = [Thread(target=answers, args=(by,)) for by in (house.consultant, house.member)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert sorted(one if one == "sent" else "told" for one in did) == ["sent", "told"]
    assert Message.objects.filter(contact=contact).count() == 1
    [told] = [one for one in did if one != "sent"]
    assert "has answered P1 meanwhile" in told


def test_who_opted_out_cannot_be_answered_there_and_who_came_back_can(house: House, api: Any) -> None:
    contact = house.contact()
    writes(contact, "STOP")
    writes(contact, "What about my deposit?", "email")
    ways = {one["channel"]: one["closed"] for one in api("GET", f"replies/{contact.pk}")[1]["ways"]}
    assert "opted out" in ways["text"] and ways["email"] == ""
    given = {"text": "Hello", "channel": "text", "turn": turn_of(contact)}
    status, refused = api("POST", f"replies/{contact.pk}/answer", given)
    assert status == 409 and "opted out" in refused["detail"] and shown(api) == ["P1"]
    writes(contact, "START")
    assert api("POST", f"replies/{contact.pk}/answer", given | {"turn": turn_of(contact)})[0] == 200
    until_quiet()
    assert Message.objects.filter(by=house.consultant).count() == 1


def test_an_answer_in_the_night_is_asked_about(house: House, api: Any, _at_noon: Callable[[datetime], None]) -> None:
    contact = house.contact()
    _at_noon(NIGHT)
    writes(contact, "Are you there?")
    given = {"text": "In the morning", "channel": "text", "turn": turn_of(contact)}
    _, told = api("POST", f"replies/{contact.pk}/answer", given)
    assert told == {"asks": "It is 02:10 where P1 is (London).", "goes": "08:00"}, (
        "as usual ones, where no hours are set"
    )
    assert not Message.objects.exists() and shown(api) == ["P1"]
    Account.objects.filter(pk=house.sailing.pk).update(
        care=Care(quiet=(QuietHours.model_validate({"start": "22:00", "end": "07:30"}),)).model_dump(mode="json")
    )
    assert api("POST", f"replies/{contact.pk}/answer", given)[1]["goes"] == "07:30"
    assert api("POST", f"replies/{contact.pk}/answer", given | {"night": "morning"})[0] == 200
    until_quiet()
    assert Message.objects.get().state == "queued"
    [line] = [one for one in api("GET", f"replies/{contact.pk}")[1]["said"] if one["of"] == "person"]
    assert line["to_come"] and line["local"] == "2026-03-04T07:30"
    _at_noon(NIGHT.replace(hour=7, minute=31))
    until_quiet()
    assert Message.objects.get().state in ("sent", "delivered")


def test_given_to_somebody_and_put_off_until_they_write_again(
    house: House, api: Any, signed_in: Callable[..., Client], _at_noon: Callable[[datetime], None]
) -> None:
    contact = house.contact()
    writes(contact, "What does it cost?")
    assert shown(api, "nobody") == ["P1"]
    assert api("POST", f"replies/{contact.pk}/give", {"person": house.member.pk})[0] == 204
    assert (shown(api, "nobody"), shown(api, "mine")) == ([], [])
    mels = signed_in(house.member).get("/api/accounts/sailing/replies?show=mine").json()
    assert [row["contact"] for row in mels["rows"]] == ["P1"]
    assert api("POST", f"replies/{contact.pk}/put-off", {"until": "2026-03-01T09:00"})[0] == 422
    assert api("POST", f"replies/{contact.pk}/put-off", {"until": "2026-03-03T09:00"})[0] == 204
    assert (shown(api), shown(api, "put_off")) == ([], ["P1"]) and api("GET", "today")[1]["replies"] == []
    _at_noon(NOON + timedelta(days=1))
    assert shown(api) == ["P1"], "the moment has come"
    api("POST", f"replies/{contact.pk}/put-off", {"until": "2026-03-09T09:00"})
    writes(contact, "Hello?")
    assert shown(api) == ["P1"], "they wrote again"
    stranger = house.contact(5, house.pottery)
    walls.enter(house.sailing, house.pottery)
    assert api("GET", f"replies/{stranger.pk}")[0] == 404


def test_of_two_contacts_made_one_nothing_that_waits_is_lost(house: House, api: Any) -> None:
    one, two = house.contact(1), house.contact(2)
    writes(one, "What does it cost?")
    correspondence.put_off(one, NOON + timedelta(days=3))
    writes(two, "this is spam")
    merge(house.sailing, one.pk, two.pk, (), Cause(actor=house.consultant))
    [row] = api("GET", "replies")[1]["rows"]
    assert row["to_decide"] and row["text"] == "this is spam"
    set_consent(house.sailing, [one.pk], "text", True, "said so")
    assert len(api("GET", f"replies/{one.pk}")[1]["said"]) == 2


def mails_to(person: Person) -> list[Item]:
    return list(Item.objects.filter(theirs=person.email).order_by("id"))


def test_who_asked_for_it_is_mailed_of_a_reply_that_still_waits_once_and_where_it_stands(
    house: House, api: Any, _at_noon: Callable[[datetime], None]
) -> None:
    """Not of what was answered by itself, or by somebody within two minutes; and of nothing who has not asked."""
    one, two, three = (house.contact(n) for n in (1, 2, 3))
    writes(one, "Told nobody: nobody asked")
    assert not Notice.objects.exists()
    Person.objects.filter(pk=house.member.pk).update(told={"reply": "mail"})
    writes(one, "What does it cost?")
    writes(two, "And for two?")
    writes(three, "STOP")
    api("POST", f"replies/{two.pk}/done", {"turn": turn_of(two)})
    until_quiet()
    assert not mails_to(house.member)
    _at_noon(NOON + timedelta(minutes=3))
    until_quiet()
    until_quiet()
    [mail] = mails_to(house.member)
    assert "P1: wrote by text: “What does it cost?”" in mail.subject
    assert f"/sailing/replies/{one.pk}" in mail.text
    assert not Notice.objects.filter(mail=True).exists()


def test_a_call_of_mine_is_mailed_when_it_comes_due_and_not_once_it_is_done_or_put_off(
    house: House, api: Any, _at_noon: Callable[[datetime], None]
) -> None:
    Person.objects.filter(pk=house.member.pk).update(told={"task": "mail"})
    steps = [{"kind": "call", "id": "ring", "about": "the taster", "attempts": 3}]
    one, two = house.contact(1), house.contact(2)
    enrolling.enrol(house.workflow(steps=steps), [one.pk, two.pk], "test", Cause())
    until_quiet()
    assert [mail.subject for mail in mails_to(house.member)] == [
        "P1: “the taster” is due",
        "P2: “the taster” is due",
    ]
    member = Person.objects.get(pk=house.member.pk)
    later = {one.pk: NOON + timedelta(hours=4), two.pk: NOON + timedelta(hours=5)}
    for task in Task.objects.all():
        diary.record_outcome(task, Task.Outcome.RING_BACK, member, at=later[task.contact_id])
    diary.record_outcome(Task.objects.get(contact=two), Task.Outcome.REACHED, member)
    until_quiet()
    assert len(mails_to(house.member)) == 2, "not before it is due"
    _at_noon(NOON + timedelta(hours=6))
    until_quiet()
    until_quiet()
    assert [mail.subject for mail in mails_to(house.member)[2:]] == ["P1: “the taster” is due"]


def test_whoever_gives_an_appointment_is_told_that_it_is_booked_and_called_off(house: House, api: Any) -> None:
    contact = house.contact()
    Person.objects.filter(pk=house.consultant.pk).update(told={"appointment": "app"})
    house.consultant.refresh_from_db()
    made = diary.book(contact, "Visit", NOON + timedelta(days=1), member=house.consultant)
    diary.settle(made, Appointment.State.CANCELLED)
    assert [one["text"] for one in api("GET", "today")[1]["notices"]] == [
        "does not come to Visit, Tue 3 Mar, 12:00",
        "has booked Visit, Tue 3 Mar, 12:00",
    ]
    assert api("GET", "waiting") == (200, {"replies": 0, "notices": 2}), "the strip has the number"


def test_what_breaks_what_is_missed_and_what_is_brought_in_is_told_once_and_where_it_stands(
    house: House, api: Any
) -> None:
    for _ in range(5):  # it refuses again and again: that is one thing to be told
        connections.heard(house.sailing, "channel", "text", "refuses", "it lets nobody in")
    connections.heard(house.sailing, "channel", "text", "works", "")
    finish(begin(house, b"First name,Email\nAda,ada@example.com\nBram,bram@example.com\n"))
    made = diary.book(house.contact(), "Visit", NOON + timedelta(hours=1), member=house.consultant)
    Person.objects.filter(pk=house.consultant.pk).update(told={"appointment": "app"})
    diary.settle(made, Appointment.State.MISSED)
    told = {one["text"]: one["place"] for one in api("GET", "today")[1]["notices"]}
    assert told == {
        "Texts: it lets nobody in": "set-up/connections",
        "“people.csv” is brought in: 2 people new, 0 changed.": "people/bring-in",
        "has not come to Visit, Mon 2 Mar, 13:00": f"people/{made.contact_id}",
    }
    assert set(Notice.objects.filter(contact=None).values_list("person", flat=True)) == {
        house.consultant.pk,
        house.member.pk,
    }
    Person.objects.filter(pk=house.consultant.pk).update(told={"connection": "mail", "import": "none"})
    connections.heard(house.sailing, "channel", "email", "refuses", "no such door")
    finish(begin(house, b"First name,Email\nCleo,cleo@example.com\n"))
    assert Notice.objects.filter(key__startswith="import:").count() == 1
    Notice.objects.filter(mail=False).delete()
    connections.heard(house.sailing, "channel", "email", "works", "")
    until_quiet()
    [mail] = mails_to(house.consultant)
    assert mail.subject == "Email: no such door" and "/sailing/set-up/connections" in mail.text
