"""Types of appointment: made and changed; and what is free of them, with all that is known around."""

import secrets
from collections import defaultdict
from collections.abc import Mapping, Sequence
from datetime import UTC, date, datetime, timedelta
from typing import Any

from django.conf import settings
from django.db import transaction
from django.db.models import Count, FloatField, QuerySet
from django.db.models.functions import Cast, Extract
from pydantic import ValidationError

from bluffside.core.appointments.free import MIDNIGHT, Around, Free, Holder, Span, free, merged
from bluffside.core.appointments.free import Sitting as Standing
from bluffside.core.appointments.offer import Offer
from bluffside.core.care.quiet import OpeningHours
from bluffside.core.timing.local import LAST, at_time
from bluffside.server import sql
from bluffside.server.appointments.models import AppointmentType, Busy, MemberHours, Place, Sitting, Taken
from bluffside.server.diary import services as diary
from bluffside.server.diary.models import Appointment
from bluffside.server.people import usages
from bluffside.server.people.queries import account_facts
from bluffside.server.practice import audit, clock
from bluffside.server.practice.models import Account, Person
from bluffside.server.practice.naming import free_name
from bluffside.server.practice.refusals import BadFields

LONGEST_BUFFER = timedelta(hours=8)


def offer_of(one: AppointmentType) -> Offer:
    return Offer.model_validate(one.offer)


def open_types(account: Account) -> QuerySet[AppointmentType]:
    """Those that anybody can book."""
    return AppointmentType.objects.filter(account=account, open=True).select_related("account")


def page_of(one: AppointmentType) -> str:
    """Where anybody books it, while it is open."""
    return f"{settings.ADDRESS}/book/{one.token}"


@transaction.atomic
def make(account: Account, name: str, by: Person) -> AppointmentType:
    """Raises NotAName."""
    made = AppointmentType.objects.create(
        account=account, name=free_name(AppointmentType, "appointment", account, name), token=secrets.token_urlsafe(9),
        offer=Offer().model_dump(mode="json"), made_at=clock.now(),
    )  # fmt: skip
    audit.note(account, by, "appointments", [audit.Noted(f"the type “{made.name}”", "", "added")])
    note_pages(account)
    return made


@transaction.atomic
def rename(one: AppointmentType, name: str, by: Person) -> None:
    """In all that names it, what is booked among it. Raises NotAName."""
    old, new = one.name, free_name(AppointmentType, "appointment", one.account, name, one.pk)
    if new == old:
        return
    usages.give_name(one.account, "appointment", old, new, by)
    Appointment.objects.filter(account=one.account, type=old).update(type=new)
    one.name = new
    one.save(update_fields=["name"])
    audit.note(one.account, by, "appointments", [audit.Noted("the name of a type", old, new)])
    note_pages(one.account)


@transaction.atomic
def set_open(one: AppointmentType, is_open: bool, by: Person) -> None:
    """Whether its page takes bookings."""
    if one.open != is_open:
        one.open = is_open
        one.save(update_fields=["open"])
        said = ("closed", "open") if is_open else ("open", "closed")
        audit.note(one.account, by, "appointments", [audit.Noted(f"the page of “{one.name}”", *said)])
        note_pages(one.account)


def note_pages(account: Account) -> None:
    """Messages name the pages that are open: they stand in the account itself, where everything finds it."""
    account.booking_pages = dict(
        account.appointment_types.filter(open=True).order_by("name").values_list("name", "token")
    )
    account.save(update_fields=["booking_pages"])


def names(account: Account) -> dict[str, dict[str, str]]:
    """The types there are, for workflows to name, with what is worth knowing of each."""
    types = AppointmentType.objects.filter(account=account)
    return {"appointment": {one.name: f"{offer_of(one).minutes} minutes" for one in types}}


@transaction.atomic
def change(one: AppointmentType, parts: Mapping[str, Any], by: Person) -> AppointmentType:
    """Puts parts of the offer in the place of those there are; what is booked stays. Raises BadFields."""
    row = AppointmentType.objects.select_for_update().select_related("account").get(pk=one.pk)
    before = offer_of(row).model_dump(mode="json")
    try:
        offer = Offer.model_validate(sql.kept(before | dict(parts)))
    except ValidationError as error:
        raise BadFields(
            {str(one["loc"][0]): f"{one['msg'].removeprefix('Value error, ')}." for one in error.errors()}
        ) from None
    known = {one.pk for one in who_may(row.account)}
    if strangers := set(offer.members) - known:
        raise BadFields({"members": f"There is nobody {min(strangers)} in the team any more."})
    if strangers := set(offer.things) - set(row.account.things.values_list("pk", flat=True)):
        raise BadFields({"things": f"There is nothing {min(strangers)} here any more."})
    after = offer.model_dump(mode="json")
    row.offer = after
    row.save(update_fields=["offer"])
    changed = [
        audit.Noted(f"“{row.name}”: {name}", str(before[name]), str(after[name]))
        for name in after
        if before[name] != after[name]
    ]
    audit.note(row.account, by, "appointments", changed)
    return row


def who_may(account: Account) -> list[Person]:
    """Who can give appointments: the team, but for those who may only look."""
    members = account.memberships.exclude(role="viewer").select_related("person").order_by("person__name")
    return [one.person for one in members if one.person.is_active]


def alone_in(appointment: Appointment) -> list[int]:
    """The sittings in which nobody else is but an appointment, and the other dates of its course."""
    own = Place.objects.filter(appointment__in=diary.dates_of(appointment)).values("sitting")
    sittings = Sitting.objects.filter(pk__in=own).annotate(n=Count("taken_places")).filter(n=1)
    return list(sittings.values_list("pk", flat=True))


def around(one: AppointmentType, first: datetime, last: datetime, but: Sequence[int] = ()) -> Around:
    """All that is known around an offer between two instants, in a few queries however many give it. `but`: sittings whose own time
    counts as free, since they are to be moved."""
    offer, account = offer_of(one), one.account
    hours = {
        row.member_id: OpeningHours.model_validate(row.hours)
        for row in MemberHours.objects.filter(account=account, member_id__in=offer.members)
    }
    last += timedelta(days=offer.apart) * (offer.dates - 1)
    members, things = defaultdict[int, list[Span]](list), defaultdict[int, list[Span]](list)
    span = (first - LONGEST_BUFFER, last + LONGEST_BUFFER)
    sittings = Sitting.objects.filter(type=one, start__gte=first, start__lt=last).exclude(pk__in=but)
    sittings = sittings.annotate(gone=Count("taken_places"))
    taken = Taken.objects.filter(account=account, during__overlap=span).exclude(sitting__in=but)
    for found, by, of in ((members, "member_id", offer.members), (things, "thing_id", offer.things)):
        rows = taken.filter(**{f"{by}__in": of}).values_list(
            by, _seconds("during__startswith"), _seconds("during__endswith")
        )
        for number, start, end in rows if of else ():
            found[number].append(Span(datetime.fromtimestamp(start, UTC), datetime.fromtimestamp(end, UTC)))
    for person, start, end in _away(account, offer.members):
        members[person].append(Span(start, end))
    busy = Busy.objects.filter(account=account, member_id__in=offer.members, end__gt=span[0], start__lt=span[1])
    for person, start, end in busy.values_list("member_id", "start", "end"):
        members[person].append(Span(start, end))
    here = {each.pk for each in who_may(account)}  # whoever has left gives none any more
    return Around(
        [Holder(number, hours.get(number), merged(members[number])) for number in offer.members if number in here],
        [Holder(number, None, merged(things[number])) for number in offer.things],
        [Standing(start, places - gone) for start, places, gone in sittings.values_list("start", "places", "gone")],
        account_facts(account).care,
        account.zone,
    )


def _seconds(of: str) -> Cast:
    """An instant as seconds since 1970: thousands of them are read several times as fast (bench booking)."""
    return Cast(Extract(of, "epoch", tzinfo=UTC), FloatField())


def _away(account: Account, numbers: tuple[int, ...]) -> list[tuple[int, datetime, datetime]]:
    """Who is away, from when until when: whole days of the account."""
    return [
        (
            one.pk,
            at_time(one.away_from, MIDNIGHT, account.zone),
            at_time(one.away_until + timedelta(days=1), MIDNIGHT, account.zone) if one.away_until else LAST,
        )
        for one in Person.objects.filter(pk__in=numbers, away_from__isnull=False)
        if one.away_from
    ]


def free_times(one: AppointmentType, first: date, last: date, but: Sequence[int] = ()) -> list[Free]:
    """The beginnings of a type that can be booked on the account's days from the first to the last. `but`: see `around`."""
    now = clock.now()
    begin, end = max(now, _midnight(first, one.account.zone)), _midnight(last + timedelta(days=1), one.account.zone)
    if end <= begin:
        return []
    return free(offer_of(one), around(one, begin, end, but), now, first, last)


def _midnight(day: date, zone: str) -> datetime:
    return at_time(day, MIDNIGHT, zone)


def in_hand(account: Account, at: datetime) -> dict[int, int]:
    """How many sittings each has in the seven days around an instant."""
    week = (at - timedelta(days=3), at + timedelta(days=4))
    rows = Taken.objects.filter(account=account, member__isnull=False, during__overlap=week).order_by()
    return dict(rows.values_list("member_id").annotate(n=Count("pk")))
