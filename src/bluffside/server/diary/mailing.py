"""Notices to members that go out by email: each at once, or all of a day together, as whoever is told has said."""

from collections import defaultdict

from django.conf import settings
from django.db import transaction
from django.db.models import Q

from bluffside.server.diary.models import Notice
from bluffside.server.diary.notices import settled_meanwhile
from bluffside.server.messaging.carrier import Parcel, carrier_for, tell_of
from bluffside.server.messaging.parcels import carrier_key
from bluffside.server.practice import clock, connections
from bluffside.server.practice.models import Account

BATCH = 10  # mails in one transaction, so few
MOST_TOGETHER = 200  # notices


@transaction.atomic
def notice_batch(account: Account) -> int:
    """Hands mails to the carrier, and marks the notices of those it took or will never take; answers how many those are. To a
    member of the team one too many, after a crash, is better than none. Nothing while the connection rests."""
    if connections.rests(account, "channel", "email"):
        return 0
    due = Q(mail_at=None) | Q(mail_at__lte=clock.now())
    waiting = Notice.objects.filter(due, account=account, mail=True).select_related("person", "contact").order_by("id")
    mails: dict[tuple[int, int], list[Notice]] = defaultdict(list)
    rows = list(waiting.select_for_update(skip_locked=True, of=("self",))[:MOST_TOGETHER])
    over = settled_meanwhile(account, rows)
    Notice.objects.filter(id__in=over).update(mail=False)
    for one in (row for row in rows if row.pk not in over):
        mails[one.person_id, 0 if one.mail_at else one.id].append(one)
    some = list(mails.values())[:BATCH]
    parcels = [_mail(account, notices) for notices in some]
    answers = carrier_for("email").hand_over(parcels) if parcels else []
    tell_of(account, "email", answers)
    taken = zip(some, answers, strict=True)
    settled = [one.id for notices, answer in taken if answer.did not in ("unavailable", "away") for one in notices]
    Notice.objects.filter(id__in=settled).update(mail=False)
    return len(settled) + len(over)


def _mail(account: Account, notices: list[Notice]) -> Parcel:
    first = notices[0]
    said = "\n\n".join(f"{_said(one)}\n{_place(account, one)}" for one in notices)
    about = f"About {first.contact.name}, in {account.name}." if first.contact else f"In {account.name}."
    alone = f"{first.text}\n\n{about}\n{_place(account, first)}"
    together_goes = bool(first.mail_at) and len(notices) > 1
    together = f"Of {account.name}, since yesterday:\n\n{said}"
    return Parcel(
        carrier_key(account.id, f"notice:{first.id}"),
        "email",
        account.sender_email,
        account.name,
        first.person.email,
        (f"{account.name}: {len(notices)} of the day" if together_goes else _said(first))[:120],
        together if together_goes else alone,
        message_id=f"<notice.{account.id}.{first.id}@{account.sender_email.rpartition('@')[2]}>",
    )


def _place(account: Account, one: Notice) -> str:
    """Where what it tells of stands."""
    return f"{settings.ADDRESS}/{account.slug}/{one.place or f'people/{one.contact_id}'}"


def _said(one: Notice) -> str:
    return f"{one.contact.name}: {one.text}" if one.contact else one.text
