"""Confirming what somebody agreed to on a form, where the account asks for that: they are sent one message by the channel itself,
and only who presses its link, and then its button, has agreed. Whoever types another's address into a form agrees to nothing for
them, and is heard of once.

    /c/<account>.<answer>.<way>.<signature>    never runs out as long as the answer is kept
"""

from collections.abc import Sequence
from datetime import timedelta
from typing import Any

from django.conf import settings
from django.db import transaction

from bluffside.core.terms import ADDRESS_OF, Channel
from bluffside.server.capture.models import FormAnswer
from bluffside.server.events.stream import WORLD
from bluffside.server.messaging.outbox import Draft, queue
from bluffside.server.people import signed
from bluffside.server.people.models import Consent, Contact
from bluffside.server.people.proposals import Agreed
from bluffside.server.people.services import set_consent
from bluffside.server.practice import clock

WAYS: tuple[Channel, ...] = ("email", "text")  # by which a link can be sent; in tokens by their place here
MOST_A_DAY = 3  # to one contact, whoever sends forms about them


def asks_first(contact: Contact, one: Agreed) -> bool:
    """Whether it can be confirmed, and is neither agreed to already nor refused: then somebody decides (people.proposals)."""
    said = Consent.objects.filter(contact=contact, channel=one.channel, purpose__in=one.purposes)
    if said.filter(state=Consent.State.WITHDRAWN).exists():
        return False
    if said.filter(state=Consent.State.GIVEN).count() == len(one.purposes):
        return False
    return way_for(contact, one.channel) is not None


def way_for(contact: Contact, channel: Channel) -> Channel | None:
    """By which channel it is confirmed: itself, else one that a link can be sent by."""
    found = [way for way in dict.fromkeys((channel, *WAYS)) if way in WAYS and getattr(contact, ADDRESS_OF[way])]
    return found[0] if found else None


@transaction.atomic
def ask(answer: FormAnswer, contact: Contact, agreed: Sequence[Agreed]) -> None:
    """Keeps what they are to confirm, and sends them the link, by each way once."""
    account = contact.account
    lately = FormAnswer.objects.filter(contact=contact, at__gt=clock.now() - timedelta(days=1)).exclude(to_confirm={})
    kept: dict[str, list[dict[str, Any]]] = {}
    for one in agreed:
        if way := way_for(contact, one.channel):
            kept.setdefault(way, []).append(
                {"channel": one.channel, "purposes": list(one.purposes), "words": one.wording, "evidence": one.evidence}
            )
    if not kept or lately.count() >= MOST_A_DAY:
        return
    answer.to_confirm = kept
    answer.save(update_fields=["to_confirm"])
    drafts = []
    for way, some in kept.items():
        link = link_for(answer, WAYS.index(way))
        words = " ".join(f"“{one['words']}”" for one in some)
        body = f"You ticked on our form: {words}\n\nPlease confirm it here: {link}\n\nIf it was not you, do nothing: you agree to nothing."
        if way == "text":
            body = f"{account.name}: please confirm that we may write to you: {link} If it was not you, do nothing."
        drafts.append(
            Draft(
                contact.id, f"confirm:{answer.pk}:{way}", way, "service", getattr(contact, ADDRESS_OF[way]), body,
                name="Confirm what you agreed to", subject="Please confirm that we may write to you", answers_word=True,
            )
        )  # fmt: skip
    queue(account, drafts)


def link_for(answer: FormAnswer, way: int) -> str:
    text = f"{signed.short(answer.account_id)}.{signed.short(answer.pk)}.{way}"
    return f"{settings.ADDRESS}/c/{signed.sign('c', text)}"


def read(token: str) -> tuple[int, int, Channel]:
    """The ids of account and answer, and by which way it was sent. Raises BadToken."""
    account, answer, way = signed.read("c", token, 3)
    if way >= len(WAYS):
        raise signed.BadToken(token)
    return account, answer, WAYS[way]


@transaction.atomic
def confirm(answer: FormAnswer, contact: Contact, way: Channel) -> None:
    """They agree to what that message asked of them; pressed twice, it is one. Who has opted out since says by it that they want
    it again."""
    row = FormAnswer.objects.select_for_update().get(pk=answer.pk)
    if way in row.confirmed:
        return
    row.confirmed = {**row.confirmed, way: clock.now().isoformat(timespec="seconds")}
    row.save(update_fields=["confirmed"])
    for one in row.to_confirm.get(way, []):
        evidence = f"{one['evidence']}, and confirmed by the link that was sent to {getattr(contact, ADDRESS_OF[way])}"
        set_consent(
            contact.account, [contact.id], one["channel"], True, evidence, WORLD, one["purposes"], how="form",
            wording=one["words"], by_themselves=True,
        )  # fmt: skip
