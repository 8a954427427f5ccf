"""A workflow that deals come into, each once at a time: somebody with two deals is in it twice, and is one person all the same."""

from collections import Counter
from collections.abc import Sequence
from datetime import UTC, datetime, timedelta
from decimal import Decimal
from typing import Any

import pytest
from django.db import transaction
from hypothesis import given
from hypothesis import strategies as st

from bluffside.core.engine.signals import Replied
from bluffside.core.events import Event
from bluffside.core.rehearsal.world import World
from bluffside.core.scoring.rules import ScoreRules
from bluffside.core.workflow.document import Workflow as Document
from bluffside.core.workflow.files import parse_workflow
from bluffside.server import moving_the_clock
from bluffside.server.events import stream
from bluffside.server.events.stream import WORLD
from bluffside.server.messaging.delivery import deliver_batch
from bluffside.server.messaging.models import Message
from bluffside.server.messaging.services import take_reply
from bluffside.server.people.merging import merge
from bluffside.server.people.models import Contact
from bluffside.server.people.values import plain_score
from bluffside.server.pipeline import services, stages
from bluffside.server.pipeline.models import Deal
from bluffside.server.practice import clock
from bluffside.server.worker import until_quiet
from bluffside.server.workflows import enrolling, writing
from bluffside.server.workflows.audience import matching
from bluffside.server.workflows.engine import advance_batch
from bluffside.server.workflows.facts import load_facts
from bluffside.server.workflows.models import Enrolment, EnrolmentReasons, Signal, Workflow
from bluffside.server.workflows.scoring import set_rules
from tests.server.conftest import House, make_house
from tests.server.test_same_as_rehearsed import ON_THE_DATABASE

NOON = datetime(2026, 3, 5, 12, tzinfo=UTC)
DEALS = ("Junior", "Senior", "Crew")
STAGES = ["New", "Talking", "Place held"]
HOUR = timedelta(hours=1)


def text(id: str, body: str) -> dict[str, Any]:
    return {"kind": "text", "id": id, "message": {"name": id, "body": body}}


def follow_up(each: str, again: str = "always", *leaves_on: dict[str, Any]) -> Document:
    lanes = [
        {"id": "yes", "answer": "yes", "words": ["yes"], "steps": [text("good", "Good: {{ deal.name }}")]},
        {"id": "none", "answer": "none", "steps": [text("nudge", "Still {{ deal.name }}?")]},
    ]
    steps = [
        text("about", "About {{ deal.name }}?"),
        {"kind": "wait_for_reply", "id": "question", "limit": "20 hours", "lanes": lanes},
        {"kind": "wait", "id": "rest", "duration": "1 day"},
        text("last", "One last word on {{ deal.name }}"),
    ]
    start = {"kind": "stage_changed", "into": "Talking"}
    data = {"name": "Follow up", "starts": [start, {"kind": "by_hand"}], "steps": steps, "leaves_on": list(leaves_on)}
    return parse_workflow(data | {"entry": {"each": each, "again": again}})


REPLIED, HELD = {"kind": "replied"}, {"kind": "stage_changed", "into": "Place held"}
DOCUMENTS = [follow_up(each, again, *on) for each, again, on in [
    ("deal", "always", [REPLIED, HELD]), ("deal", "never", [HELD]), ("deal", "always", []), ("person", "always", [REPLIED, HELD]),
]]  # fmt: skip
# Deals earn, answers earn and fade, and who passes the mark by any of it, or falls below it by fading alone, is told apart; points for
# who they are come and go by time alone, too, and a further score is counted beside.
RULES = ScoreRules.model_validate({
    "being": [{"name": "talks", "points": 7, "when": {"test": "deal", "stages": ["Talking"]}},
              {"name": "lately", "points": 5, "when": {"test": "event", "event": "reply.received", "within": "26 hours"}},
              {"name": "long", "points": 9, "score": "Talk", "when": {"test": "deal", "stages": ["Talking"], "in_stage": {"than": "1 day"}}}],
    "further": ["Talk"],
    "doing": [{"name": "moves", "points": 10, "on": {"kind": "stage_changed"}, "half_life": "2 days", "limit": 25},
              {"name": "answers", "points": 8, "on": {"kind": "replied"}, "half_life": "30 hours"},
              {"name": "says", "points": 12, "score": "Talk", "on": {"kind": "replied"}, "half_life": "30 hours"},
              {"name": "won", "points": 30, "on": {"kind": "deal", "what": "won"}}],
})  # fmt: skip
READY = parse_workflow(
    {
        "name": "Ready",
        "leaves_on": [],
        "entry": {"again": "always"},
        "steps": [{"kind": "tag", "id": "tag", "tag": "ready"}],
        "starts": [
            {"kind": "score_crossed", "way": "rises_to", "mark": 20},
            {"kind": "score_crossed", "way": "falls_below", "mark": 15},
        ],
    }
)
TALKS = parse_workflow({
    "name": "Talks", "leaves_on": [], "entry": {"again": "always"}, "steps": [{"kind": "tag", "id": "tag", "tag": "talks"}],
    "starts": [{"kind": "score_crossed", "way": way, "mark": 10, "score": "Talk"} for way in ("rises_to", "falls_below")],
})  # fmt: skip
ACTS = st.one_of(
    st.tuples(st.sampled_from(range(3)), st.sampled_from([*STAGES[1:], "won"])),
    st.tuples(st.just(-1), st.sampled_from(["yes", "what?", "STOP"])),
)
LATER = st.sampled_from([HOUR, 5 * HOUR, 19 * HOUR, 30 * HOUR])
# Two deals begin within hours, so that what follows meets somebody who is inside twice.
HISTORIES = st.builds(
    lambda two, gap, then: [(HOUR, (two[0], "Talking")), (gap, (two[1], "Talking")), *then],
    st.permutations(range(3)),
    LATER,
    st.lists(st.tuples(LATER, ACTS), min_size=1, max_size=6),
)


def publish(house: House, document: Document) -> Workflow:
    made = writing.create(house.sailing, document, house.consultant)
    writing.publish(made, made.revision, house.consultant)
    return Workflow.objects.get(id=made.id)


def with_deals(house: House) -> tuple[Contact, list[Deal]]:
    stages.make(house.sailing, "Courses", house.consultant, STAGES)
    ada = house.contact()
    return ada, [services.create_deal(ada, "Courses", "New", name, Decimal(1)) for name in DEALS]


def happens(house: House, ada: Contact, deal: Deal | None, what: str, n: int) -> Event | Replied | None:
    """Lets it happen by the server's own services; as it is told to a world in memory, None where nothing happens."""
    now = clock.now()
    if deal is None:
        reply = take_reply(house.sailing, "text", ada.mobile, what, f"in:{n}")
        return Replied(what, "text", reply.message.name if reply and reply.message else "") if reply else None
    deal.refresh_from_db()
    won, old = what == "won", deal.stage
    if deal.state != "open" or deal.stage == what:
        return None
    services.move_deals(house.sailing, [deal.pk], "" if won else what, "won" if won else "open", house.member)
    data = {"deal": deal.ref, "pipeline": "Courses", "stage": old if won else what, "old": old}
    return Event("deal.won" if won else "stage.changed", now, data, house.member.name)


@pytest.mark.django_db
@given(st.sampled_from(DOCUMENTS), HISTORIES)
@ON_THE_DATABASE
def test_what_deals_go_through_is_what_was_rehearsed(
    document: Document, history: Sequence[tuple[timedelta, tuple[int, str]]]
) -> None:
    with transaction.atomic():
        house = make_house()
        with clock.at(NOON) as move_to:
            publish(house, document)
            publish(house, READY)
            publish(house, TALKS)
            set_rules(house.sailing, RULES)
            ada, deals = with_deals(house)
            until_quiet()
            facts = load_facts(house.sailing, [ada.id])[ada.id]
            world = World([document, READY, TALKS], facts.account, facts.member, RULES)
            world.add(facts.contact, NOON)
            at = NOON
            for n, (wait, (which, what)) in enumerate(history):
                at += wait
                moving_the_clock.run_through(at - timedelta(microseconds=1), move_to)
                move_to(at)
                if told := happens(house, ada, deals[which] if which >= 0 else None, what, n):
                    world.happen(facts.contact.id, at, told)
                until_quiet()
            moving_the_clock.run_through(at + timedelta(days=9), move_to)
        moments = list(world.run(at + timedelta(days=9)))
        sent = [
            (m.at, e.name, e.body) for m in moments for e in m.effects if hasattr(e, "body") and hasattr(e, "sender")
        ]
        lived = Message.objects.filter(answers_word=False).order_by("id").values_list("queued_at", "name", "body")
        assert sorted(lived) == sorted(sent)
        said = [reason.sentence for moment in moments for reason in moment.reasons if reason.step]
        kept = [
            one["sentence"] for turn in EnrolmentReasons.objects.order_by("id") for one in turn.reasons if one["step"]
        ]
        assert (Counter(kept) - Counter(said), Counter(said) - Counter(kept)) == (Counter(), Counter())
        ended = sorted(moment.state.ended for moment in moments if moment.state.ended)
        assert sorted(Enrolment.objects.exclude(ended="").values_list("ended", flat=True)) == ended
        now, then = load_facts(house.sailing, [ada.id])[ada.id].contact, world.contacts[facts.contact.id]
        assert sorted(plain_score(now.score)) == sorted(plain_score(then.score)) and now.tags == then.tags
        running = Enrolment.objects.filter(ended_at=None)
        assert running.count() == len(running.values("contact_id", "deal").distinct()), "each once at a time"
        transaction.set_rollback(True)


def test_a_reply_reaches_the_deal_whose_message_it_answers_and_who_leaves_by_it_leaves_for_all(house: House) -> None:
    with clock.at(NOON) as move_to:
        publish(house, follow_up("deal", "always", REPLIED))
        ada, (junior, senior, crew) = with_deals(house)
        for deal in (junior, senior):
            services.move_deals(house.sailing, [deal.pk], "Talking", "open", house.member)
            until_quiet()
            move_to(clock.now() + HOUR)
        assert list(Enrolment.objects.order_by("id").values_list("deal", "place")) == [
            (junior.ref, "question"), (senior.ref, "question"),
        ]  # fmt: skip
        first = Message.objects.get(body="About Junior?")
        take_reply(house.sailing, "text", ada.mobile, "yes", "in:1")  # the latest message was about the senior course
        until_quiet()
        assert list(Message.objects.filter(body__startswith="Good").values_list("body", flat=True)) == ["Good: Senior"]
        assert Enrolment.objects.get(deal=junior.ref).place == "question", first.body
        services.move_deals(house.sailing, [crew.pk], "Talking", "open", house.member)
        until_quiet()
        move_to(clock.now() + HOUR)
        take_reply(house.sailing, "text", ada.mobile, "STOP", "in:2")
        until_quiet()
        assert sorted(Enrolment.objects.values_list("ended", flat=True)) == [
            "opted out", "stopped by “Follow up”", "stopped by “Follow up”",
        ]  # fmt: skip


def test_nothing_goes_out_for_another_deal_over_an_answer_that_is_there(house: House) -> None:
    """The answer is handed on to the deal whose message it answers, and not heard yet; a message for another deal is due."""
    steps = [text("about", "About {{ deal.name }}?"), {"kind": "wait", "id": "rest", "duration": "1 day"}]
    with clock.at(NOON) as move_to:
        publish(
            house,
            follow_up("deal", "always", REPLIED).model_copy(
                update={"steps": parse_workflow({"name": "x", "steps": steps}).steps}
            ),
        )
        ada, (junior, senior, _) = with_deals(house)
        services.move_deals(house.sailing, [junior.pk], "Talking", "open", house.member)
        until_quiet()
        move_to(NOON + HOUR)
        services.move_deals(house.sailing, [senior.pk], "Talking", "open", house.member)
        stream.dispatch_batch(house.sailing)
        advance_batch(house.sailing)
        waits = Message.objects.get(body="About Senior?")
        assert waits.state == "queued"
        take_reply(house.sailing, "text", ada.mobile, "I have decided", "in:1")
        while stream.dispatch_batch(house.sailing):
            pass
        assert Signal.objects.get().enrolment.deal == junior.ref
        deliver_batch(house.sailing)
        waits.refresh_from_db()
        assert waits.state == "queued", "sent over an answer"
        until_quiet()
        waits.refresh_from_db()
        assert waits.state == "cancelled" and not Enrolment.objects.filter(ended_at=None).exists()


def test_deals_are_enrolled_as_deals_a_few_a_day_and_the_next_is_no_second_time(api: Any, house: House) -> None:
    with clock.at(NOON) as move_to:
        by_deal, by_person = (
            publish(house, follow_up("deal", "never")),
            publish(house, follow_up("person").model_copy(update={"name": "Ask once"})),
        )
        ada, deals = with_deals(house)
        other = services.create_deal(house.contact(2), "Courses", "New", "Other")
        given = {"deals": [deal.pk for deal in (*deals, other)], "trickle": {"count": 2, "each": "day"}}
        _, plan = api("POST", f"workflows/{by_deal.id}/intakes/plan", given)
        assert plan["joining"] == 4 and [day["count"] for day in plan["days"]] == [2, 2]
        _, plan = api("POST", f"workflows/{by_person.id}/intakes/plan", given)
        assert plan["left_out"] == {"comes in for another deal, and people come in once": 2}
        status, made = api("POST", f"workflows/{by_deal.id}/intakes", given)
        assert (status, made["came"]) == (201, 2)
        moving_the_clock.run_through(NOON + timedelta(days=2), move_to)
        assert sorted(Enrolment.objects.values_list("deal", flat=True)) == sorted(d.ref for d in (*deals, other))
        assert Message.objects.filter(name="about").count() == 4
        _, plan = api("POST", f"workflows/{by_deal.id}/intakes/plan", {"deals": [other.pk]})
        assert plan["left_out"] == {"inside already": 1}
        assert api("POST", f"workflows/{by_deal.id}/intakes/plan", {"deals": [10**9]})[1]["joining"] == 0
        _, preview = api("POST", f"workflows/{by_person.id}/intakes", {"deals": [deals[1].pk]})
        assert Enrolment.objects.get(workflow=by_person).about == {"deal": deals[1].ref}, preview


def test_publishing_enrols_the_deals_that_match_already_and_merged_contacts_keep_theirs_apart(house: House) -> None:
    with clock.at(NOON):
        ada, deals = with_deals(house)
        services.move_deals(house.sailing, [deals[0].pk, deals[2].pk], "Talking", "open", house.member)
        double = house.contact(2)
        Deal.objects.filter(pk=deals[1].pk).update(ref="one")
        twin = services.create_deal(double, "Courses", "New", "Twin")
        Deal.objects.filter(pk=twin.pk).update(ref="one")
        until_quiet()
        workflow = publish(house, follow_up("deal"))
        assert matching(house.sailing, follow_up("deal")) == [(ada.id, deals[0].ref), (ada.id, deals[2].ref)]
        assert matching(house.sailing, follow_up("person")) == [(ada.id, "")]
        for who in (ada, double):
            enrolling.enrol(workflow, [who.id], "test", WORLD, deals=["one"])
        until_quiet()
        merge(house.sailing, ada.id, double.id, [], WORLD)
        twin.refresh_from_db()
        assert twin.ref != "one" and twin.contact_id == ada.id
        inside = Enrolment.objects.filter(ended_at=None).order_by("id")
        assert [(one.contact_id, one.deal, one.state.about["deal"]) for one in inside] == [
            (ada.id, "one", "one"), (ada.id, twin.ref, twin.ref),
        ]  # fmt: skip
