"""What the rehearsal shows is what happens: the live engine on PostgreSQL against the core alone, for any workflow of
every kind of step, anybody, any care with limits, and anything that happens to them on the way, whenever batches come."""

import os
from collections.abc import Sequence
from datetime import datetime, timedelta

import pytest
from django.db import transaction
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st

from bluffside.core.engine.signals import Replied, Signal
from bluffside.core.facts import Facts
from bluffside.core.rehearsal.rehearse import rehearse
from bluffside.core.workflow.document import Workflow as Document
from bluffside.core.workflow.files import parse_workflow
from bluffside.server import moving_the_clock
from bluffside.server.messaging.models import Message
from bluffside.server.worker import until_quiet
from bluffside.server.workflows.models import Enrolment
from tests.core.making import any_workflows, histories, joinings, limited_cares, people
from tests.server.living import assert_same, at_instants, enrolled, happen

ON_THE_DATABASE = settings(
    max_examples=int(os.environ.get("BLUFFSIDE_EXAMPLES", "10")),
    suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.too_slow],
    phases=[Phase.explicit, Phase.reuse, Phase.generate],  # to shrink a failure takes many minutes of database
)


LONG = timedelta(days=365 * 60)  # loops in loops around a 29 February that is left out in other years


@pytest.mark.django_db
@given(any_workflows(), limited_cares.flatmap(lambda care: people(care)), joinings, histories)
@ON_THE_DATABASE
def test_the_live_engine_does_what_the_rehearsal_shows(
    document: Document, somebody: Facts, joined: datetime, history: Sequence[tuple[timedelta, Signal]]
) -> None:
    with transaction.atomic():
        with enrolled(document, somebody, joined) as (house, contact, facts, move_to):
            until_quiet()
            happened = []
            for at, one in at_instants(joined, history):
                moving_the_clock.run_through(at - timedelta(microseconds=1), move_to)
                move_to(at)
                if told := happen(at, one, contact):
                    happened.append((at, told))
                until_quiet()
            moving_the_clock.run_through(joined + LONG, move_to)
        assert_same(house, contact, rehearse(document, facts, joined, happened, lets_go=False))
        transaction.set_rollback(True)


# ---- whenever batches come (core.engine.batch)


def text(name: str) -> dict[str, object]:
    return {"kind": "text", "id": name.lower(), "message": {"name": name, "body": name}}


def asks(*leaves_on: dict[str, str]) -> Document:
    """Texts, a question with a limit, and a time of day."""
    lanes = [
        {"id": "yes", "answer": "yes", "words": ["yes"], "steps": [text("Thanks")]},
        {"id": "none", "answer": "none", "steps": [text("Nudge")]},
    ]
    question = {"kind": "wait_for_reply", "id": "question", "limit": "2 hours", "lanes": lanes}
    waits = [
        {"kind": "wait", "id": f"wait-{n}", "duration": length} for n, length in enumerate(["1 hour", "30 minutes"])
    ]
    day = {"kind": "on_day", "id": "day", "day": 1, "at": "10:00"}
    steps = [text("One"), waits[0], text("Two"), question, waits[1], text("Three"), day, text("Four")]
    return parse_workflow({"name": "asks", "steps": steps, "leaves_on": leaves_on})


LEAVES, STAYS = asks({"kind": "replied"}), asks()
LAGS = st.sampled_from([0.0, 0.5, 1, 2, 5, 300])
OFFSETS = st.one_of(st.integers(-3, 3).map(float), st.sampled_from([-0.5, 0.4, 240]))
ANSWERS = st.builds(Replied, st.sampled_from(["yes", "no", "hm", "STOP"]), st.just("text"))


@pytest.mark.django_db
@given(st.sampled_from([LEAVES, STAYS]), people(reachable=True), joinings, st.data())
@ON_THE_DATABASE
def test_what_is_there_is_heard_first_and_life_is_what_was_rehearsed_for_the_same_batches(
    document: Document, somebody: Facts, joined: datetime, data: st.DataObject
) -> None:
    """Answers at each second around each due time, and batches that come late by each lag."""
    with transaction.atomic():
        with enrolled(document, somebody, joined) as (house, contact, facts, move_to):
            due = sorted({moment.at for moment in rehearse(document, facts, joined).moments})
            near = st.builds(
                lambda at, offset: max(joined, at + timedelta(seconds=offset)), st.sampled_from(due), OFFSETS
            )
            answers = data.draw(
                st.lists(st.tuples(near, ANSWERS), min_size=1, max_size=3, unique_by=lambda one: one[0])
            )
            instants = sorted({*due, *(at for at, _ in answers)})
            batches = sorted({at + timedelta(seconds=data.draw(LAGS)) for at in instants})
            happened = []
            for at, what in sorted(
                [*answers, *((at, None) for at in batches)], key=lambda one: (one[0], one[1] is None)
            ):
                move_to(at)
                if what is None:
                    until_quiet()
                elif told := happen(at, what, contact):
                    happened.append((at, told))
            moving_the_clock.run_through(joined + timedelta(days=30), move_to)
        assert_same(house, contact, rehearse(document, facts, joined, happened, batches=batches, lets_go=False))
        row = Enrolment.objects.get()
        if row.ended == "replied" and row.ended_at:  # nothing is sent over the answer they left on
            answered = max(at for at, _ in happened if at <= row.ended_at)
            late = Message.objects.filter(queued_at__gte=answered, answers_word=False)
            assert not late.exclude(state="cancelled").exists()
        transaction.set_rollback(True)
