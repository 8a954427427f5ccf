"""What comes in by words: texts and emails of whom nobody knows, the rules that hear them, and opting out before all."""

from datetime import timedelta
from email.message import EmailMessage
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from bluffside.core.channels.keywords import plain
from bluffside.server.capture import incoming
from bluffside.server.events.models import Event
from bluffside.server.events.stream import WORLD
from bluffside.server.messaging import strangers
from bluffside.server.messaging.inbound import take_mail
from bluffside.server.messaging.models import Message, Reply
from bluffside.server.messaging.parcels import message_id
from bluffside.server.messaging.services import take_reply
from bluffside.server.people.erasing import erase
from bluffside.server.people.models import Contact
from bluffside.server.people.services import add_contact
from bluffside.server.people.signed import preferences_link
from bluffside.server.worker import until_quiet
from bluffside.server.workflows import enrolling
from tests.server.conftest import House


def rule(api: Any, words: list[str], **more: Any) -> dict[str, Any]:
    status, rules = api("POST", "incoming-rules", {"words": words, **more})
    assert status == 201
    return rules[-1]  # type: ignore[no-any-return]


def test_a_word_texted_by_a_stranger_brings_them_in_tags_and_answers(api: Any, house: House) -> None:
    workflow = house.workflow()
    acts = {
        "tags": ["poster"],
        "lists": ["open day"],
        "assign": "Mel R",
        "workflow": workflow.id,
        "answer": "Welcome aboard!",
        "after": 30,
    }
    rule(api, ["Sail", "sailing"], acts=acts)
    take_reply(house.sailing, "text", "+447700900150", "SAIL!", "in:1")
    until_quiet()
    new = Contact.objects.get(mobile="+447700900150")
    assert new.tagged.get().tag.name == "poster" and new.lists == ["open day"] and new.responsible == house.member
    answer = Message.objects.get(contact=new, key__startswith="answer:")
    assert (answer.body, answer.state, answer.next_try_at - answer.queued_at) == (
        "Welcome aboard!",
        "queued",
        timedelta(minutes=30),
    )
    assert new.enrolments.count() == 1
    assert api("GET", "incoming-rules")[1][0]["fitted"] == 1


def test_opting_out_comes_before_any_rule_and_strangers_who_stop_are_not_kept(api: Any, house: House) -> None:
    made = rule(api, ["stop", "hello"], acts={"tags": ["hm"]})
    assert made["hidden"] == "“stop” opts out or in, before any rule is asked"
    take_reply(house.sailing, "text", "+447700900150", "Stop", "in:1")
    contact = house.contact(1)
    take_reply(house.sailing, "text", contact.mobile, "STOP", "in:2")
    until_quiet()
    assert not Contact.objects.filter(mobile="+447700900150").exists() and not contact.tagged.exists()


def test_who_asks_for_help_learns_who_writes_how_to_stop_and_where_to_decide(api: Any, house: House) -> None:
    contact = house.contact(1)
    for key in ("in:1", "in:1", "in:2"):
        take_reply(house.sailing, "text", contact.mobile, "Help!", key)
    answers = list(Message.objects.filter(contact=contact).values_list("body", "purpose"))
    assert len(answers) == 2  # the same reply reported twice is one
    assert preferences_link(house.sailing.id, contact.id) in answers[0][0] and "STOP" in answers[0][0]
    for number, word in enumerate(["stop", "STOP", "info", "start", "Start"], start=3):
        take_reply(house.sailing, "text", contact.mobile, word, f"in:{number}")
    until_quiet()
    told = Message.objects.filter(contact=contact).order_by("id").values_list("name", "state")[2:]
    sent = ("They are out", "sent"), ("Answer to “help”", "sent"), ("They are in again", "sent")
    assert tuple(told) == sent  # each once, and help is answered after opting out, too


def test_the_first_rule_that_fits_acts_and_overlaps_are_told(api: Any, house: House) -> None:
    first = rule(api, ["taster"], match="contains", acts={"tags": ["taster"]})
    second = rule(api, ["taster day"], acts={"tags": ["day"]})
    assert second["hidden"] == "“taster day” is taken by rule 1 before it"
    assert api("POST", "incoming-try", {"text": "The taster day, please"})[1] == {
        "rule": first["id"],
        "words": "Rule 1 acts: tags “taster”.",
    }
    _, moved = api("POST", f"incoming-rules/{second['id']}/up")
    assert [one["hidden"] for one in moved] == ["", ""]
    assert api("POST", "incoming-try", {"text": "Taster day"})[1]["rule"] == second["id"]
    assert api("POST", "incoming-try", {"text": "when?"})[1]["rule"] == 0


def mail(text: str, subject: str = "", key: str = "<1@home.example>", **headers: str) -> bytes:
    made = EmailMessage()
    made["From"], made["Subject"], made["Message-ID"] = "Ana Reyes <Ana@example.com>", subject, key
    for name, value in headers.items():
        made[name.replace("_", "-")] = value
    made.set_content(text)
    return made.as_bytes()


OURS = ["hello@sailing.example.com"]


def test_who_writes_an_email_that_a_rule_fits_comes_in(api: Any, house: House) -> None:
    rule(api, ["evening class"], match="contains", channels=["email"], acts={"tags": ["class"], "answer": "Gladly!"})
    for key in ("<1@home.example>", "<1@home.example>", "<2@home.example>"):  # brought twice, and another
        take_mail(mail("Do you have a place?", "Evening class", key), OURS)
    until_quiet()
    new = Contact.objects.get()
    assert (new.first_name, new.last_name, new.email) == ("Ana", "Reyes", "ana@example.com")
    assert new.tagged.get().tag.name == "class" and new.replies.count() == 2
    assert Event.objects.get(kind="contact.added").data["how"] == "by writing “Evening class”"
    assert list(Message.objects.values_list("channel", "body")) == [("email", "Gladly!")] * 2


def test_an_email_that_no_rule_fits_waits_apart_until_somebody_decides(api: Any, house: House) -> None:
    rule(api, ["class"], match="contains", acts={"tags": ["class"]})  # by text alone
    take_mail(mail("Any class this week?", "A question", "<1@home.example>"), OURS)
    take_mail(mail("Any class this week?", "A question", "<1@home.example>"), OURS)
    take_mail(mail("And next week?", "", "<2@home.example>"), OURS)
    take_mail(mail("I am away", "", "<3@home.example>", Auto_Submitted="auto-replied"), OURS)
    until_quiet()
    assert not Contact.objects.exists() and not Reply.objects.exists()
    _, waiting = api("GET", "strangers")
    assert [one["text"] for one in waiting] == ["And next week?", "Any class this week?"]
    status, row = api("POST", f"strangers/{waiting[0]['id']}/take-in")
    assert status == 200 and row["email"] == "ana@example.com" and api("GET", "strangers")[1] == []
    assert [one.text for one in Contact.objects.get().replies.order_by("id")] == [
        "Any class this week?",
        "And next week?",
    ]
    assert Event.objects.filter(kind="reply.received").count() == 2  # workflows and rules hear them now
    assert api("POST", f"strangers/{waiting[0]['id']}/take-in")[0] == 404


def test_what_strangers_wrote_is_thrown_away_by_hand_by_number_and_with_who_is_erased(
    api: Any, house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(strangers, "MOST_KEPT", 3)
    for number in range(5):
        take_mail(mail(f"Mail {number}", "", f"<{number}@home.example>"), OURS)
    _, waiting = api("GET", "strangers")
    assert [one["text"] for one in waiting] == ["Mail 4", "Mail 3", "Mail 2"]
    assert api("DELETE", f"strangers/{waiting[0]['id']}")[0] == 204
    erase(add_contact(house.sailing, {"email": "ana@example.com"}), house.consultant)
    assert api("GET", "strangers")[1] == []


def test_who_answers_from_another_address_is_still_who_was_written_to(house: House) -> None:
    contact = house.contact(1)
    enrolling.enrol(
        house.workflow(
            steps=[{"id": "e", "kind": "email", "message": {"name": "M", "subject": "S", "body": "Come sailing"}}]
        ),
        [contact.id],
        "test",
        WORLD,
    )
    until_quiet()
    ours = message_id(Message.objects.get(), "sailing.example.com")
    take_mail(mail("Yes please", In_Reply_To=ours), OURS)
    assert Reply.objects.get().contact == contact and Contact.objects.count() == 1


@settings(max_examples=100, suppress_health_check=list(HealthCheck))
@given(
    words=st.lists(st.text(max_size=8), max_size=3),
    text=st.text(max_size=20),
    match=st.sampled_from(["is", "begins", "contains"]),
)
def test_words_fit_as_whole_words_whatever_their_case(words: list[str], text: str, match: str) -> None:
    said = plain(text).split()
    wanted = [one.split() for one in map(plain, words) if one]
    at = {"is": lambda w: said == w, "begins": lambda w: said[: len(w)] == w,
          "contains": lambda w: any(said[n : n + len(w)] == w for n in range(len(said)))}[match]  # fmt: skip
    assert incoming.fits(match, words, text) == any(map(at, wanted))
