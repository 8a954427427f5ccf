"""Waiting for a place in what is full. A place that comes free is kept for whoever waits longest; they are asked by their channel,
with a limit, and then the next one is.

    waits --a place comes free--> asked --takes it in time--> booked
                                    \\--lets it go, or the limit passes--> the next one is asked
"""

from datetime import timedelta

from django.conf import settings
from django.db import transaction

from bluffside.server.appointments import offering, telling
from bluffside.server.appointments.models import AppointmentType, Place, Sitting, Waiting
from bluffside.server.events.stream import Happened, record
from bluffside.server.people import signed
from bluffside.server.people.models import Contact
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account
from bluffside.server.practice.words import moment
from bluffside.server.wake import wake

BATCH = 100


class CannotWait(ValueError):
    """In words."""


def link_of(one: Waiting) -> str:
    text = f"{signed.short(one.account_id)}.{signed.short(one.pk)}"
    return f"{settings.ADDRESS}/w/{signed.sign('w', text)}"


def read(token: str) -> tuple[int, int]:
    """The ids of account and of who waits. Raises BadToken."""
    account, one = signed.read("w", token, 2)
    return account, one


@transaction.atomic
def join(one: AppointmentType, contact: Contact, sitting: Sitting) -> Waiting:
    """Puts somebody on the list of a sitting. Who is on it already stays where they are. Raises CannotWait."""
    row = Sitting.objects.select_for_update().filter(pk=sitting.pk).first()
    if row is None or row.start <= clock.now() or not offering.offer_of(one).waiting_hours:
        raise CannotWait("There is no waiting list for that time.")
    if Place.objects.filter(sitting=row, appointment__contact=contact).exists():
        raise CannotWait("You have a place then already.")
    made, new = Waiting.objects.get_or_create(
        sitting=row, contact=contact, defaults={"account": one.account, "since": clock.now()}
    )
    if new:
        record(one.account, [Happened("appointment.waited_for", contact.pk, {"type": one.name, "start": row.start})])
    if Place.objects.filter(sitting=row).count() < row.places:  # one came free while they were deciding
        ask_next(row)
    return made


def is_waited_for(sitting: Sitting) -> bool:
    return sitting.start > clock.now() and Waiting.objects.filter(sitting=sitting).exists()


def ask_next(sitting: Sitting) -> None:
    """Keeps places that are free for those who wait longest, and asks them; in the transaction that holds the sitting."""
    hours = offering.offer_of(sitting.type).waiting_hours
    now = clock.now()
    if not hours or sitting.start <= now:
        return
    gone = set(Place.objects.filter(sitting=sitting).values_list("number", flat=True))
    free = [number for number in range(1, sitting.places + 1) if number not in gone]
    line = (
        Waiting.objects.filter(sitting=sitting, until=None).select_related("contact__account").order_by("since", "id")
    )
    for number, one in zip(free, line[: len(free)], strict=False):
        one.until = min(now + timedelta(hours=hours), sitting.start)
        one.save(update_fields=["until"])
        Place.objects.create(account_id=sitting.account_id, sitting=sitting, number=number, waiting=one)
        account = one.contact.account
        when = moment(sitting.start, account.zone)
        telling.tell(
            one.contact,
            f"waiting:{one.pk}",
            "A place has come free",
            f"{sitting.type.name}, {when}: a place has come free",
            f"A place has come free: {sitting.type.name}, {when}. It is kept for you until"
            f" {moment(one.until, account.zone)}. Take it, or let it go, here: {link_of(one)}",
        )
        wake("waiting")


@transaction.atomic
def let_go(one: Waiting) -> None:
    """They do not wait any more; a place that was kept for them is the next one's."""
    sitting = Sitting.objects.select_for_update().select_related("type__account").get(pk=one.sitting_id)
    one.delete()
    ask_next(sitting)


def are_one(account: Account, stays: int, goes: int) -> None:
    """Called before two contacts are made one: who waits twice for one sitting waits once."""
    both = Waiting.objects.filter(account=account, contact=stays).values("sitting")
    for one in Waiting.objects.filter(account=account, contact=goes, sitting__in=both):
        let_go(one)


def waiting_batch(account: Account) -> int:
    """Who was asked and has not answered in time makes room for the next; answers how many."""
    late = Waiting.objects.filter(account=account, until__lte=clock.now()).order_by("until", "id")
    found = list(late[:BATCH])
    for one in found:
        let_go(one)
    return len(found)
