"""What the rehearsal shows is what happens: the live engine on PostgreSQL against the core alone, for any workflow."""

from datetime import timedelta
from typing import Any

import pytest
from django.db import transaction
from hypothesis import HealthCheck, given, settings

from bluffside.core.engine.signals import Replied
from bluffside.core.rehearsal.rehearse import rehearse
from bluffside.core.workflow.document import Workflow as Document
from bluffside.core.workflow.files import parse_workflow, to_data
from bluffside.server import travel
from bluffside.server.diary.models import Task
from bluffside.server.events.stream import Cause, listen
from bluffside.server.messaging.models import Message
from bluffside.server.messaging.services import take_reply
from bluffside.server.practice import clock
from bluffside.server.worker import until_quiet
from bluffside.server.workflows import enrolling
from bluffside.server.workflows.facts import load_facts
from bluffside.server.workflows.inside import heard_by
from bluffside.server.workflows.models import Enrolment, Turn, Version, Workflow
from bluffside.server.workflows.versions import program_of
from tests.core.examples import histories, workflows
from tests.server.conftest import NOON, make_house


def replies_of(history: list[tuple[timedelta, Any]]) -> list[tuple[Any, Replied]]:
    at, found = NOON, []
    for wait, signal in history:
        at += wait
        if isinstance(signal, Replied):
            found.append((at, signal))
    return found


@pytest.mark.django_db
@given(document=workflows(), history=histories)
@settings(max_examples=25, suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.too_slow])
def test_the_live_engine_does_what_the_rehearsal_shows(
    document: Document, history: list[tuple[timedelta, Any]]
) -> None:
    with transaction.atomic():
        house = make_house()
        contact = house.contact()
        document = parse_workflow(to_data(document) | {"starts": [{"kind": "by_hand"}]})
        replies = replies_of(history)
        played = rehearse(document, load_facts(house.sailing, [contact.id])[contact.id], NOON, replies)

        publish_and_enrol(house, document, contact.id)
        with clock.at(NOON) as move_to:
            until_quiet()
            for number, (at, reply) in enumerate(replies):
                travel.run_through(at - timedelta(microseconds=1), move_to)
                move_to(at)
                address = contact.mobile if reply.channel == "text" else contact.email
                take_reply(house.sailing, reply.channel, address, reply.text, f"in:{number}")
                until_quiet()
            travel.run_through(NOON + timedelta(days=365 * 12), move_to)
        sent = list(Message.objects.order_by("id").values_list("queued_at", "name", "body"))
        assert sent == [(at, message.name, message.body) for at, message in played.messages]
        reasons = [r.sentence for moment in played.moments for r in moment.reasons if r.step]
        kept = [r["sentence"] for turn in Turn.objects.order_by("id") for r in turn.reasons if r["step"]]
        assert kept == reasons
        assert load_facts(house.sailing, [contact.id])[contact.id].contact.tags == played.contact.tags
        assert Enrolment.objects.get().ended == played.state.ended
        assert Task.objects.count() == sum(type(e).__name__ == "MakeTask" for _, e in played.effects)
        transaction.set_rollback(True)


def publish_and_enrol(house: Any, document: Document, contact_id: int) -> None:
    """Publishes past the checks, which are not what is tested here."""
    with clock.at(NOON):
        workflow = Workflow.objects.create(account=house.sailing, name="m", draft=to_data(document), changed_at=NOON)
        workflow.published = Version.objects.create(
            account=house.sailing, workflow=workflow, number=1, document=to_data(document), published_at=NOON
        )
        workflow.save()
        listen(house.sailing, heard_by(program_of(workflow.published_id), document))
        enrolling.enrol(workflow, [contact_id], "rehearsed", Cause())
