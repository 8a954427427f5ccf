"""An act of moving deals taken back: the deals, and what workflows did because of it, as far as that can be."""

from uuid import UUID

from django.db import transaction
from django.db.models import Q

from bluffside.core.terms import CHANNEL_KINDS
from bluffside.server.messaging.models import Message
from bluffside.server.pipeline import services
from bluffside.server.pipeline.models import DealMove
from bluffside.server.practice.models import Account, Person
from bluffside.server.workflows.models import Enrolment
from bluffside.server.workflows.signals import take_out_many

STANDS = (Message.State.SENDING, Message.State.SENT, Message.State.DELIVERED, Message.State.UNCERTAIN)
MOST_SAID = 20


@transaction.atomic
def take_back_act(account: Account, act: UUID, by: Person) -> tuple[list[str], int, int]:
    """Takes the act back. Whoever came into a workflow about one of its deals since is taken out of it, and what waits to go out does
    not go; answers what went out all the same, in words, how many deals went back, and how many had gone on and stay."""
    moves = DealMove.objects.filter(account=account, act=act, taken_back_at=None).count()
    back = services.take_back(account, act, by)
    began = Q()
    for one in back:
        began |= Q(contact=one.deal.contact_id, about__deal=one.deal.ref, joined_at__gte=one.at)
    inside = (
        Enrolment.objects.filter(began, account=account).select_related("workflow")
        if back
        else Enrolment.objects.none()
    )
    enrolments = list(inside)
    take_out_many(account, [one for one in enrolments if one.ended_at is None], f"{by.name} moved the deal back", by)
    gone = Message.objects.filter(
        account=account, enrolment_id__in=[one.pk for one in enrolments], state__in=STANDS
    ).select_related("contact")
    said = [
        f"the {CHANNEL_KINDS[one.channel].one} “{one.name}” to {one.contact.name}"
        for one in gone.order_by("id")[:MOST_SAID]
    ]
    return said, len(back), moves - len(back)
