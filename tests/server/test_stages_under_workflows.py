"""Stages under workflows that run: one answers to its former words; in one deals rest too long."""

from datetime import UTC, datetime, timedelta
from decimal import Decimal

from bluffside.core.workflow.files import parse_workflow
from bluffside.server.diary.models import Task
from bluffside.server.pipeline import services, stages
from bluffside.server.practice import clock
from bluffside.server.worker import until_quiet
from bluffside.server.workflows import writing
from bluffside.server.workflows.models import Enrolment, Workflow
from tests.core.examples import ASK
from tests.server.conftest import House

MANY = 500
NOW = datetime(2026, 3, 5, 10, 42, tzinfo=UTC)  # a Thursday


def test_nobody_falls_out_when_a_stage_under_them_is_called_otherwise(house: House) -> None:
    """500 wait for their deal to come to a stage; the stage gets another name, and then another; they go on as it was meant."""
    courses = stages.make(house.sailing, "Courses", house.consultant, ["New", "Talking", "Place held"])
    lane = {"id": "held", "on": {"kind": "stage_changed", "into": "Place held"}, "steps": []}
    waits = {"id": "w", "kind": "wait_for", "limit": "30 days", "lanes": [lane, {"id": "none", "steps": []}]}
    document = parse_workflow(
        ASK | {"starts": [{"kind": "stage_changed", "into": "Talking"}], "steps": [waits], "leaves_on": []}
    )
    made = writing.create(house.sailing, document, house.consultant)
    writing.publish(made, made.revision, house.consultant)
    deals = [services.create_deal(house.contact(n), "Courses", "New", f"D{n}", Decimal(1)) for n in range(1, MANY + 2)]
    *some, last = deals
    services.move_deals(house.sailing, [one.pk for one in some], "Talking", "open", house.member)
    until_quiet()
    assert Enrolment.objects.filter(ended_at=None, begun=True).count() == MANY
    held = courses.stages.get(name="Place held")
    for name in ("Reserved", "Booked in"):
        stages.change_stage(held, {"name": name}, house.consultant)
    stages.change_stage(courses.stages.get(name="Talking"), {"name": "In talks"}, house.consultant)
    draft = writing.draft_of(Workflow.objects.get())
    assert "Booked in" in str(draft.model_dump()) and "Place held" not in str(draft.model_dump())
    assert not writing.unpublished_changes(Workflow.objects.get()), "what runs says the same"
    until_quiet()
    assert Enrolment.objects.filter(ended_at=None).count() == MANY
    services.move_deals(house.sailing, [one.pk for one in some[:3]], "Booked in", "open", house.member)
    services.move_deals(house.sailing, [last.pk], "In talks", "open", house.member)
    until_quiet()
    assert Enrolment.objects.filter(ended_at__isnull=False).count() == 3, "they had waited for it under its old name"
    assert Enrolment.objects.filter(contact=last.contact).count() == 1, "it starts by the new one"


def test_a_deal_that_rests_too_long_starts_a_workflow_once_and_the_task_is_its_owners(house: House) -> None:
    courses = stages.make(house.sailing, "Courses", house.consultant, ["New", "Talking"])
    stages.change_stage(courses.stages.get(name="New"), {"rest_days": 2}, house.consultant)
    say = "{{ deal.name }}, worth {{ deal.worth }}, on {{ deal.pipeline }} rests; {{ deal.owner }} knows"
    call = {"id": "c", "kind": "call", "about": "Ask", "say": say, "assign": {"to": "owner", "members": []}}
    start = {"kind": "deal_rests", "stage": "New"}
    document = ASK | {"starts": [start], "steps": [call], "entry": {"again": "always"}, "hours": None}
    made = writing.create(house.sailing, parse_workflow(document), house.consultant)
    writing.publish(made, made.revision, house.consultant)
    with clock.at(NOW) as move_to:
        rests = services.create_deal(house.contact(1), "Courses", "New", "Junior", Decimal(90), owner=house.member)
        goes = services.create_deal(house.contact(2), "Courses", "New", "Senior")
        move_to(NOW + timedelta(days=1))
        services.move_deal(goes, "Talking")
        move_to(NOW + timedelta(days=3, minutes=-1))
        until_quiet()
        assert not Task.objects.exists()
        move_to(NOW + timedelta(days=3))
        until_quiet()
        until_quiet()
        task = Task.objects.get()
        assert (task.contact_id, task.assigned) == (rests.contact_id, house.member)
        assert task.say == f"Junior, worth 90, on Courses rests; {house.member.name} knows"
        stages.change_stage(courses.stages.get(name="Talking"), {"rest_days": 0}, house.consultant)
        until_quiet()
        assert Task.objects.count() == 1, "what rests too long by a new rule is not told of"
