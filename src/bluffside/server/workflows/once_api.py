"""Writing a message of the library once to some people: what it would do, the act, and what was written so."""

from django.db import transaction
from django.db.models import Count, Exists, OuterRef, Q, Subquery
from ninja import Path, Router, Schema
from ninja.errors import HttpError

from bluffside.core.workflow.library import said_by
from bluffside.server.messaging.models import Message, Reply
from bluffside.server.practice.access import AccountRequest, InAccount, require
from bluffside.server.workflows import writing
from bluffside.server.workflows.api import local_moment
from bluffside.server.workflows.intakes_api import IntakeIn, IntakeOut, IntakePlan, begun, plan_of
from bluffside.server.workflows.library import draft_of
from bluffside.server.workflows.messages_api import message_row
from bluffside.server.workflows.models import Enrolment, Intake, Sort, Workflow
from bluffside.server.workflows.writing_once import NotPublished, once

router = Router(tags=["messages"], auth=InAccount())
SHOWN = 100


class OnceRow(Schema):
    """`id`: of the workflow underneath. `to`: how many were chosen; `sent`, `answered`: messages; `state`: of bringing people in."""

    id: int
    name: str
    message: str
    made: str
    by: str
    state: Intake.State | None
    to: int
    came: int
    sent: int
    answered: int


@router.post("messages/{int:message_id}/once/plan", response=IntakePlan)
def once_plan(request: AccountRequest, account: Path[str], message_id: int, given: IntakeIn) -> IntakePlan:
    """What it would do. Nothing is kept of it."""
    with transaction.atomic():
        try:
            made = once(request.account, message_row(request, message_id), request.person)
            plan = plan_of(request, made, given)
        except (NotPublished, writing.CannotPublish) as error:
            plan = IntakePlan(problem=str(error))
        transaction.set_rollback(True)
    return plan


@router.post("messages/{int:message_id}/once", response={201: IntakeOut})
def write_once(request: AccountRequest, account: Path[str], message_id: int, given: IntakeIn) -> tuple[int, IntakeOut]:
    """All of it or nothing: the workflow of one line, and its people."""
    require(request, "workflows")
    try:
        with transaction.atomic():
            made = once(request.account, message_row(request, message_id), request.person)
            return 201, begun(request, made, given)
    except (NotPublished, writing.CannotPublish) as error:
        raise HttpError(422, f"Nothing is written. {error}") from None


@router.get("messages/once", response=list[OnceRow])
def written_once(request: AccountRequest, account: Path[str]) -> list[OnceRow]:
    """The newest first."""
    rows = list(
        Workflow.objects.filter(account=request.account, sort=Sort.ONCE)
        .select_related("changed_by")
        .order_by("-id")[:SHOWN]
    )
    replied = Exists(Reply.objects.filter(message=OuterRef("pk"), automatic=False))
    intakes = {one.workflow_id: one for one in Intake.objects.filter(workflow__in=rows).order_by("id")}
    inside = Enrolment.objects.filter(workflow__in=rows)
    of = Subquery(inside.filter(pk=OuterRef("enrolment_id")).values("workflow_id"))
    messages = Message.objects.filter(
        account=request.account, enrolment_id__in=inside.values("id"), sent_at__isnull=False
    )
    counted = (
        messages.annotate(replied=replied, workflow=of)
        .values_list("workflow")
        .annotate(count=Count("id"), answered=Count("id", filter=Q(replied=True)))
        .order_by()
    )
    sent = {workflow: [count, answered] for workflow, count, answered in counted}
    return [_row(request, row, intakes.get(row.pk), sent.get(row.pk, [0, 0])) for row in rows]


def _row(request: AccountRequest, row: Workflow, intake: Intake | None, figures: list[int]) -> OnceRow:
    return OnceRow(
        id=row.pk,
        name=row.name,
        message=next((name for name, _ in said_by(draft_of(row))), ""),
        made=local_moment(request, row.changed_at),
        by=row.changed_by.name if row.changed_by else "",
        state=Intake.State(intake.state) if intake else None,
        to=intake.total if intake else 0,
        came=intake.came if intake else 0,
        sent=figures[0],
        answered=figures[1],
    )
