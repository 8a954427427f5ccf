"""A deal that comes by a form, on its whole way."""

from datetime import UTC, datetime

import pytest

from bluffside.server.capture import forms
from bluffside.server.capture.design import FormDesign
from bluffside.server.diary.models import Task
from bluffside.server.events.models import Event
from bluffside.server.messaging.models import Message
from bluffside.server.messaging.services import take_reply
from bluffside.server.pipeline import services as pipeline
from bluffside.server.pipeline import stages
from bluffside.server.pipeline.models import Deal
from bluffside.server.practice import clock
from bluffside.server.worker import until_quiet
from bluffside.server.workflows.models import Enrolment
from tests.server.conftest import House
from tests.server.visiting import fill

QUESTIONS = [
    {"id": "name", "label": "Your name", "fills": "full_name", "required": True},
    {"id": "mail", "label": "Your email", "fills": "email", "kind": "email", "required": True},
]
ANA = {"name": "Ana Reyes", "mail": "ANA@example.com"}


def test_a_deal_comes_by_form_and_goes_through_a_workflow_until_its_answer(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Made by the form, mailed at once, called after 15 minutes by whose it is, moved; what the excluded person moves starts nothing; an
    answer ends it; who sends the form again gets no second deal; and a stage that is called otherwise takes the form along."""
    courses = stages.make(house.sailing, "Courses", house.consultant, ["New", "Talking", "Place held"])
    monkeypatch.setattr(forms, "QUICKEST", 0.0)
    open_day = forms.make(house.sailing, "Open day")
    makes = {"pipeline": "Courses", "stage": "New", "worth": "240"}
    design = FormDesign.model_validate({"questions": QUESTIONS, "deal": makes})
    forms.change(open_day, design, True)
    house.sailing.responsible = house.member
    house.sailing.save()
    mail = {
        "kind": "email",
        "id": "m",
        "message": {"name": "Hello", "subject": "About {{ deal.name }}", "body": "Hi {{ contact.first_name }}"},
    }
    wait, call = {"kind": "wait", "id": "w", "duration": "15 minutes"}, {"kind": "call", "id": "c", "say": "Ask", "assign": {"to": "owner", "members": []}}  # fmt: skip
    rest = {"kind": "wait", "id": "z", "duration": "9 days"}
    house.workflow(
        starts=[{"kind": "deal", "what": "made"}],
        steps=[mail, wait, call, rest],
        leaves_on=[{"kind": "replied"}],
        hours=None,
    )
    moved = house.workflow(
        name="Moved", starts=[{"kind": "stage_changed", "into": "Talking", "by": {"who": "anyone_but", "member": house.consultant.name}}],
        steps=[rest], leaves_on=[],
    )  # fmt: skip
    with clock.at(datetime(2026, 3, 5, 10, tzinfo=UTC)) as move_to:
        fill(open_day, **ANA)
        until_quiet()
        deal = Deal.objects.get()
        assert (deal.name, deal.stage, deal.value, deal.contact.email) == ("Open day", "New", 240, "ana@example.com")
        assert Message.objects.get().subject == "About Open day" and not Task.objects.exists()
        move_to(datetime(2026, 3, 5, 10, 15, tzinfo=UTC))
        until_quiet()
        assert Task.objects.get().kind == "call"
        for by, came in ((house.consultant, 0), (house.member, 1)):
            pipeline.move_deals(house.sailing, [deal.pk], "Talking", "open", by)
            until_quiet()
            assert Enrolment.objects.filter(workflow=moved).count() == came, f"{by} moved it"
            pipeline.move_deals(house.sailing, [deal.pk], "New", "open", by)
        take_reply(house.sailing, "email", "ana@example.com", "Gladly!", "r1")
        until_quiet()
        assert Enrolment.objects.exclude(workflow=moved).get().ended_at
        stages.change_stage(courses.stages.get(name="New"), {"name": "Asked"}, house.consultant)
        open_day.refresh_from_db()
        assert open_day.design["deal"]["stage"] == "Asked"
        fill(open_day, **ANA)
        assert Deal.objects.count() == 1 and Event.objects.get(kind="deal.asked_again").data["deal"] == deal.ref
