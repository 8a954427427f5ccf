"""The simulated phones and mailboxes of an account's contacts, and the demo's clock."""

from datetime import datetime, timedelta
from typing import Literal
from uuid import uuid4

from django.conf import settings
from django.db import transaction
from django.db.models import Max, Q
from django.http import Http404, HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Path, Router, Schema
from ninja.errors import HttpError
from pydantic import Field

from bluffside.core.phone_numbers import as_written
from bluffside.core.terms import ADDRESS_OF, CHANNEL_KINDS, Channel, TwoWay
from bluffside.core.timing.local import to_local
from bluffside.server import moving_the_clock
from bluffside.server.capture.models import LeadSource
from bluffside.server.hooks import sending as hooks
from bluffside.server.hooks.services import request_to
from bluffside.server.outside import calendar_program
from bluffside.server.outside.models import Item
from bluffside.server.outside.services import advert, mark_as_unwanted, say, say_as_stranger
from bluffside.server.outside.stand_ins import STAND_INS
from bluffside.server.outside.stand_ins.series import on_series
from bluffside.server.people.addresses import email, mobile
from bluffside.server.people.api import contact_of
from bluffside.server.people.models import Contact
from bluffside.server.people.queries import load_contacts, search
from bluffside.server.practice import clock, installation
from bluffside.server.practice.access import AccountRequest, InAccount, InSimulated, require
from bluffside.server.practice.words import moment

mailbox = Router(tags=["outside"])
router = Router(tags=["outside"], auth=InSimulated())
services = Router(tags=["outside"], auth=InAccount())


class Device(Schema):
    contact_id: int
    contact: str
    mobile: str
    email: str
    last: str
    last_at: datetime


class EntryShown(Schema):
    """What a mail put into the calendar beside the mailbox: its dates in words; `gone`: it takes it out; `open`: it can be answered."""

    title: str
    where: str
    dates: list[str]
    gone: bool
    open: bool


class ItemOut(Schema):
    id: int
    channel: Channel
    inbound: bool
    from_name: str
    subject: str
    text: str
    local_at: str
    report: str
    entry: EntryShown | None = None


class EntryAnswerIn(Schema):
    said: Literal["accepted", "declined"]


class DeviceOut(Schema):
    """`known`: what outside services know of the contact, in words."""

    contact_id: int
    contact: str
    first_name: str
    mobile: str
    email: str
    items: list[ItemOut]
    known: list[str]


class OwnOut(Schema):
    """One's own phone and mailbox: the tests one sent to oneself."""

    name: str
    mobile: str
    email: str
    items: list[ItemOut]


class Said(Schema):
    channel: TwoWay = "text"
    text: str = Field(min_length=1, max_length=2_000)


class ClockMove(Schema):
    """By so many hours, or (0) to the next moment something is due in this account."""

    hours: int = Field(ge=0, le=24 * 31)


class ClockMoved(Schema):
    local_now: str
    moments: int


def _items(contact: Contact) -> list[Item]:
    account = contact.account
    found: list[Item] = []
    for name, kind in CHANNEL_KINDS.items():
        if theirs := getattr(contact, kind.address):
            items = Item.objects.filter(channel=name, ours=getattr(account, kind.ours), theirs=theirs)
            found += items.order_by("-at", "-id")[:100]
    return found


@router.get("outside", response=list[Device])
def devices(request: AccountRequest, account: Path[str], q: str = "") -> list[Device]:
    """Contacts whose phone or mailbox holds something from this account, the newest first; or whom a search finds."""
    ours = [request.account.text_number, request.account.sender_email]
    last = dict(Item.objects.filter(ours__in=ours).values_list("theirs").annotate(at=Max("at")).order_by("-at")[:500])
    contacts = search(request.account, q)
    if not q:
        contacts = contacts.filter(Q(mobile__in=last) | Q(email__in=last))
    found = []
    for contact in contacts[:300]:
        at = max((last[one] for one in (contact.mobile, contact.email) if one in last), default=contact.added_at)
        found.append(
            Device(
                contact_id=contact.id,
                contact=contact.name,
                mobile=as_written(contact.mobile, request.account.region),
                email=contact.email,
                last=moment(at, request.account.zone),
                last_at=at,
            )
        )
    return sorted(found, key=lambda one: one.last_at, reverse=True)[:60]


@router.get("outside/mine", response=OwnOut)
def own_device(request: AccountRequest, account: Path[str]) -> OwnOut:
    """What this account's tests brought to the phone and mailbox of who asks."""
    me, own = request.person, request.account
    senders = [
        own.text_number,
        own.sender_email,
        settings.BLUFFSIDE_MAIL_FROM,
        *own.senders.values_list("address", flat=True),
    ]
    mine = Item.objects.filter(ours__in=senders, theirs__in=[one for one in (me.phone, me.email) if one])
    return OwnOut(
        name=me.name,
        mobile=as_written(me.phone, own.region),
        email=me.email,
        items=[_item(item, own.zone) for item in reversed(mine.order_by("-at", "-id")[:100])],
    )


def _item(item: Item, zone: str) -> ItemOut:
    return ItemOut(
        id=item.id,
        channel=item.channel,
        inbound=item.inbound,
        from_name=item.ours_name,
        subject=item.subject,
        text=item.text,
        local_at=moment(item.at, zone),
        report=item.report if item.reported else "on its way",
    )


class StaffMailOut(Schema):
    id: int
    to: str
    subject: str
    text: str
    at: datetime


@mailbox.get("", response=list[StaffMailOut], auth=None)
def staff_mailbox(request: HttpRequest) -> list[StaffMailOut]:
    """The simulated mailbox of those who work here, to whom Bluffside itself writes; of the demo, and nowhere else there at
    all: whoever reads it gets in."""
    if installation.is_real():
        raise Http404
    found = Item.objects.filter(ours=settings.BLUFFSIDE_MAIL_FROM).order_by("-at", "-id")[:40]
    return [StaffMailOut(id=one.id, to=one.theirs, subject=one.subject, text=one.text, at=one.at) for one in found]


@router.get("outside/{int:contact_id}", response=DeviceOut)
def device(request: AccountRequest, account: Path[str], contact_id: int) -> DeviceOut:
    contact = contact_of(request, contact_id)
    zone = request.account.zone
    theirs = [one for one in sorted(_items(contact), key=lambda one: (one.at, one.id)) if one.report != "bounced"]
    items = [
        _item(item, contact.zone or zone).model_copy(update={"entry": _entry(item, theirs, contact.zone or zone)})
        for item in theirs
    ]
    return DeviceOut(
        contact_id=contact.id,
        contact=contact.name,
        first_name=contact.first_name,
        mobile=as_written(contact.mobile, request.account.region),
        email=contact.email,
        items=items,
        known=[words for one in STAND_INS.values() for words in one.knows(request.account.slug, contact.id)],
    )


def _entry(item: Item, others: list[Item], zone: str) -> EntryShown | None:
    entry = calendar_program.entry_of(item)
    return entry and EntryShown(
        title=entry.title, where=entry.where, dates=[moment(one, zone) for one in entry.starts], gone=entry.gone,
        open=not entry.gone and calendar_program.is_newest(item, entry, others),
    )  # fmt: skip


@router.post("outside/{int:contact_id}/entries/{int:item_id}", response=DeviceOut)
def answer_entry(
    request: AccountRequest, account: Path[str], contact_id: int, item_id: int, given: EntryAnswerIn
) -> DeviceOut:
    """The contact's mail program answers an entry that came."""
    require(request, "people")
    item = next((one for one in _items(contact_of(request, contact_id)) if one.pk == item_id and one.calendar), None)
    if item is None:
        raise HttpError(404, "No such entry came to this mailbox.")
    calendar_program.answer(item, given.said)
    return device(request, account, contact_id)


@router.post("outside/{int:contact_id}/unwanted/{int:item_id}", response=DeviceOut)
def mark_unwanted(request: AccountRequest, account: Path[str], contact_id: int, item_id: int) -> DeviceOut:
    """The contact marks a mail in their mailbox as unwanted."""
    require(request, "people")
    mails = (one for one in _items(contact_of(request, contact_id)) if one.channel == "email" and not one.inbound)
    item = next((one for one in mails if one.pk == item_id), None)
    if item is None or not mark_as_unwanted(item):
        raise HttpError(404, "No such mail of the account's came to this mailbox.")
    return device(request, account, contact_id)


@router.post("outside/{int:contact_id}/say", response=DeviceOut)
def write_as_contact(request: AccountRequest, account: Path[str], contact_id: int, said: Said) -> DeviceOut:
    """The contact writes to the account."""
    require(request, "people")
    contact = contact_of(request, contact_id)
    kind = CHANNEL_KINDS[said.channel]
    if not getattr(contact, kind.address):
        raise HttpError(409, f"{contact.name} has {kind.no_address}.")
    say(contact, said.channel, said.text)
    return device(request, account, contact_id)


class OutsideList(Schema):
    """A list or series of the outside list-and-series service."""

    service: str = Field(min_length=1, max_length=80)
    what: Literal["list", "series"] = "list"
    name: str = Field(min_length=1, max_length=120)


class OnOutsideList(OutsideList):
    on: bool = True


@services.get("contacts/{int:contact_id}/outside-lists", response=list[OutsideList])
def outside_lists(request: AccountRequest, account: Path[str], contact_id: int) -> list[OutsideList]:
    """Which lists and series of outside services a contact is on, as these know it."""
    contact = contact_of(request, contact_id)
    found = on_series(request.account.slug, contact.id)
    return [OutsideList(service=service, what=what, name=name) for (service, what, name), on in found.items() if on]  # type: ignore[arg-type]


@services.put("contacts/{int:contact_id}/outside-lists", response={202: None})
def set_outside_list(
    request: AccountRequest, account: Path[str], contact_id: int, given: OnOutsideList
) -> tuple[int, None]:
    """Asks the service to put the contact on, or take them off; it is asked again until it has answered."""
    require(request, "people")
    contact = contact_of(request, contact_id)
    facts = load_contacts(request.account, [contact.id])[contact.id].contact
    with transaction.atomic():
        call = request_to("series", given.model_dump(), facts, request.account, f"by-hand:{uuid4()}")
        hooks.queue(request.account, [call])
    return 202, None


class Advert(Schema):
    """What somebody types into the simulated advert's form; `source` is where the advert sends it."""

    source: int
    name: str = Field(default="", max_length=120)
    email: str = Field(default="", max_length=200)
    phone: str = Field(default="", max_length=40)
    wish: str = Field(default="", max_length=400)


class AdvertSent(Schema):
    state: str
    reason: str
    contact_id: int


@router.post("outside-advert", response=AdvertSent)
def fill_in_advert(request: AccountRequest, account: Path[str], typed: Advert) -> AdvertSent:
    """Somebody fills in the form of an advert elsewhere, which passes it on as its own sort of message."""
    require(request, "people")
    source = get_object_or_404(LeadSource.objects.select_related("account"), account=request.account, id=typed.source)
    lead = advert(source, typed.name, typed.email, typed.phone, typed.wish)
    return AdvertSent(state=lead.state, reason=lead.reason, contact_id=lead.contact_id or 0)


class StrangerSaid(Said):
    """What somebody writes whom the account may not know; `address` is their number or email address."""

    address: str = Field(min_length=3, max_length=200)
    name: str = Field(default="", max_length=120)


class StrangerHeard(Schema):
    words: str


@router.post("outside-stranger", response=StrangerHeard)
def write_as_stranger(request: AccountRequest, account: Path[str], said: StrangerSaid) -> StrangerHeard:
    require(request, "people")
    try:
        address = (
            email(said.address) if ADDRESS_OF[said.channel] == "email" else mobile(said.address, request.account.region)
        )
    except ValueError as error:
        raise HttpError(422, f"It cannot be sent from there: {error}.") from None
    name = " ".join(said.name.split())
    return StrangerHeard(words=say_as_stranger(request.account, said.channel, address, name, said.text.strip()))


@router.post("clock", response=ClockMoved)
def move_clock(request: AccountRequest, account: Path[str], move: ClockMove) -> ClockMoved:
    """Moves the demo's clock ahead, for every account; what falls due on the way happens, in order."""
    require(request, "clock")
    now = clock.now()
    until = now + timedelta(hours=move.hours)
    if move.hours == 0:
        until = moving_the_clock.next_due(receipts=False, account=request.account) or now
    moments = moving_the_clock.run_through(until, clock.move_to) if until > now else 0
    return ClockMoved(
        local_now=to_local(clock.now(), request.account.zone).isoformat(timespec="minutes"), moments=moments
    )
