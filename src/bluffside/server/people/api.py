"""One contact of an account and all that is kept of them; quick entry; duplicates."""

from django.db.models import Prefetch, QuerySet
from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from ninja import Path, Router, Schema
from ninja.errors import HttpError
from pydantic import Field

from bluffside.core.facts import FieldValue, TwoWay
from bluffside.core.phone_numbers import as_written
from bluffside.core.terms import CHANNELS, PURPOSES, Channel, Purpose
from bluffside.core.timing.local import to_local
from bluffside.core.words import day_of
from bluffside.server.events.stream import Cause
from bluffside.server.people import proof
from bluffside.server.people.field_kinds import FIELD_KINDS, How, read_typed
from bluffside.server.people.models import Consent, Contact, ContactTag
from bluffside.server.people.models import Field as OwnField
from bluffside.server.people.queries import fields_of
from bluffside.server.people.services import (
    BadContact,
    add_contact,
    add_note,
    change_contact,
    set_channel_order,
    set_consent,
    set_fields,
    set_further,
    set_list,
)
from bluffside.server.people.signed import preferences_link
from bluffside.server.people.values import in_words, read_score
from bluffside.server.practice import clock
from bluffside.server.practice.access import AccountRequest, InAccount, require
from bluffside.server.practice.refusals import BadFields

router = Router(tags=["people"], auth=InAccount())


class ConsentSaid(Schema):
    """What a contact said of a channel for a purpose, in words: "agreed, 3 Mar 2026, by form"."""

    channel: str
    purpose: str
    state: str
    how: str


class ContactRow(Schema):
    id: int
    name: str
    first_name: str
    last_name: str
    email: str
    mobile: str
    number: str  # the mobile, as the account's country writes it
    zone: str
    post: str
    tags: list[str]
    opted_out: list[str]
    agreed: list[str]
    channel_order: list[str]
    added: str
    lists: list[str]
    responsible: str
    score: float | None  # None: nothing has earned points yet
    further: dict[str, float]  # the account's further scores in which something has
    do_not_contact: bool
    push: str
    social: str
    said: list[ConsentSaid]


class ContactIn(Schema):
    """Fields left out stay as they are."""

    first_name: str | None = None
    last_name: str | None = None
    email: str | None = None
    mobile: str | None = None
    zone: str | None = None
    post: str | None = None
    push: str | None = None
    social: str | None = None

    def given(self) -> dict[str, str]:
        return self.model_dump(exclude_none=True)


class ConsentIn(Schema):
    channel: Channel
    given: bool
    purposes: list[Purpose] = Field(default=list(PURPOSES), min_length=1)
    evidence: str = Field(min_length=1, max_length=400)


class ChannelOrder(Schema):
    channels: list[Channel] = Field(max_length=len(CHANNELS))


class Counted(Schema):
    count: int


class NoteIn(Schema):
    text: str = Field(min_length=1, max_length=2_000)


def contact_row(contact: Contact) -> ContactRow:
    zone, now, known = contact.account.zone, clock.now(), read_score(contact.score)
    scores = {one.score: round(known.at(now, one.score), 1) for one in known.earned}
    return ContactRow(
        id=contact.id,
        name=contact.name,
        first_name=contact.first_name,
        last_name=contact.last_name,
        email=contact.email,
        mobile=contact.mobile,
        number=as_written(contact.mobile, contact.account.region),
        zone=contact.zone,
        post=contact.post,
        tags=sorted(link.tag.name for link in contact.tagged.all()),
        opted_out=sorted({one.channel for one in contact.consents.all() if one.state == Consent.State.WITHDRAWN}),
        agreed=sorted({one.channel for one in contact.consents.all() if one.state == Consent.State.GIVEN}),
        channel_order=contact.channel_order,
        added=day_of(contact.added_at, zone),
        lists=contact.lists,
        responsible=contact.responsible.name if contact.responsible else "",
        score=scores.pop("", None),
        further=scores,
        do_not_contact=contact.do_not_contact,
        push=contact.push,
        social=contact.social,
        said=[
            ConsentSaid(
                channel=one.channel,
                purpose=one.purpose,
                state=one.state,
                how=f"{day_of(one.at, zone)}{f', {one.how}' if one.how else ''}",
            )
            for one in contact.consents.all()
        ],
    )


def with_details(contacts: QuerySet[Contact]) -> QuerySet[Contact]:
    return contacts.select_related("responsible", "account").prefetch_related(
        Prefetch("tagged", ContactTag.objects.select_related("tag")), Prefetch("consents", Consent.objects.all())
    )


def contact_of(request: AccountRequest, contact_id: int) -> Contact:
    known = Contact.objects.select_related("responsible", "account")
    return get_object_or_404(known, account=request.account, id=contact_id)


def bad_contact(error: BadContact) -> BadFields:
    return BadFields({name: f"{text[0].upper()}{text[1:]}." for name, text in error.faults.items()})


@router.post("contacts", response={201: ContactRow})
def new_contact(request: AccountRequest, account: Path[str], fields: ContactIn) -> tuple[int, ContactRow]:
    require(request, "people")
    try:
        contact = add_contact(request.account, fields.given(), Cause(actor=request.person))
    except BadContact as error:
        raise bad_contact(error) from None
    return 201, contact_row(contact)


@router.get("contacts/{int:contact_id}", response=ContactRow)
def one_contact(request: AccountRequest, account: Path[str], contact_id: int) -> ContactRow:
    return contact_row(contact_of(request, contact_id))


@router.patch("contacts/{int:contact_id}", response=ContactRow)
def edit_contact(request: AccountRequest, account: Path[str], contact_id: int, fields: ContactIn) -> ContactRow:
    require(request, "people")
    contact = contact_of(request, contact_id)
    try:
        change_contact(contact, fields.given(), Cause(actor=request.person))
    except BadContact as error:
        raise bad_contact(error) from None
    return contact_row(contact)


@router.post("contacts/{int:contact_id}/consent", response=ContactRow)
def say_consent(request: AccountRequest, account: Path[str], contact_id: int, said: ConsentIn) -> ContactRow:
    """What the contact told the team about a channel, for some purposes or all. Who opted out comes in again only by words of
    their own, which `evidence` then holds."""
    require(request, "people")
    contact = contact_of(request, contact_id)
    if not said.evidence.strip():
        raise HttpError(422, "Say how you know: what they said, and when. Nothing was changed.")
    evidence = f"{said.evidence.strip()} (noted by {request.person.name})"
    cause = Cause(actor=request.person)
    set_consent(
        request.account,
        [contact.id],
        said.channel,
        said.given,
        evidence,
        cause,
        said.purposes,
        by_themselves=True,
        how="told the team",
    )
    return contact_row(contact_of(request, contact_id))


@router.put("contacts/{int:contact_id}/channels", response=ContactRow)
def order_channels(request: AccountRequest, account: Path[str], contact_id: int, order: ChannelOrder) -> ContactRow:
    """In which order the contact likes to be reached; channels left out come after, as the account has them."""
    require(request, "people")
    contact = contact_of(request, contact_id)
    set_channel_order(contact, order.channels, Cause(actor=request.person))
    return contact_row(contact)


@router.post("contacts/{int:contact_id}/notes", response={204: None})
def note(request: AccountRequest, account: Path[str], contact_id: int, note: NoteIn) -> tuple[int, None]:
    require(request, "people")
    add_note(contact_of(request, contact_id), note.text, Cause(actor=request.person))
    return 204, None


# ---- values of the account's own fields, further addresses, lists


class FieldValueOut(Schema):
    """`value` as it is typed: dates as 2026-03-01, several choices by comma; `said` as it is read."""

    name: str
    kind: str
    choices: list[str]
    value: str
    said: str


class Details(Schema):
    """What a contact's page shows besides the row. `quiet_until`: the day until which they asked for quiet, in words."""

    fields: list[FieldValueOut]
    further: list[tuple[str, str, str]]  # channel, address, and how it is written
    preferences_link: str
    quiet_until: str


class ValuesIn(Schema):
    """Words by field; empty words empty it. Dates are read year first, numbers with a point."""

    values: dict[str, str]


class FurtherIn(Schema):
    channel: TwoWay
    address: str = Field(max_length=300)
    on: bool = True


class OnListIn(Schema):
    list: str = Field(min_length=1, max_length=120)
    on: bool = True


@router.get("contacts/{int:contact_id}/details", response=Details)
def details(request: AccountRequest, account: Path[str], contact_id: int) -> Details:
    contact = contact_of(request, contact_id)
    declared = fields_of(request.account)
    names = [*sorted(declared), *sorted(set(contact.fields) - set(declared))]
    return Details(
        fields=[
            FieldValueOut(
                name=name,
                kind=declared[name].kind if name in declared else "text",
                choices=declared[name].choices if name in declared else [],
                value=in_words(contact.fields.get(name)),
                said=_said(contact, declared.get(name), in_words(contact.fields.get(name))),
            )
            for name in names
        ],
        further=[
            (channel, address, as_written(address, contact.account.region))
            for channel, address in contact.further_addresses.order_by("id").values_list("channel", "address")
        ],
        preferences_link=preferences_link(request.account.id, contact.id),
        quiet_until=_quiet_until(contact),
    )


def _said(contact: Contact, field: OwnField | None, words: str) -> str:
    return FIELD_KINDS[field.kind].said(words, contact.account.currency) if field and words else words


def _quiet_until(contact: Contact) -> str:
    until = contact.paused_until
    if until is None or until <= clock.now():
        return ""
    return f"{to_local(until, contact.zone or contact.account.zone):%-d %B %Y}"


@router.put("contacts/{int:contact_id}/fields", response=Details)
def fill_fields(request: AccountRequest, account: Path[str], contact_id: int, given: ValuesIn) -> Details:
    require(request, "people")
    contact = contact_of(request, contact_id)
    own = fields_of(request.account)
    values: dict[str, FieldValue] = {}
    for name, text in given.values.items():
        if name not in own and name not in contact.fields:
            raise HttpError(422, f"There is no field “{name}”. Nothing was changed.")
        kind, choices = (own[name].kind, own[name].choices) if name in own else ("text", [])
        try:
            values[name] = read_typed(text, kind, How(choices, region=request.account.region))
        except ValueError as error:
            raise HttpError(422, f"{name}: {error}. Nothing was changed.") from None
    set_fields(contact, values, Cause(actor=request.person))
    return details(request, account, contact_id)


@router.put("contacts/{int:contact_id}/further", response=Details)
def further_address(request: AccountRequest, account: Path[str], contact_id: int, given: FurtherIn) -> Details:
    """Adds another address of a contact, or takes one away."""
    require(request, "people")
    contact = contact_of(request, contact_id)
    try:
        set_further(contact, given.channel, given.address, given.on, Cause(actor=request.person))
    except BadContact as error:
        raise bad_contact(error) from None
    return details(request, account, contact_id)


@router.put("contacts/{int:contact_id}/lists", response=ContactRow)
def on_list(request: AccountRequest, account: Path[str], contact_id: int, given: OnListIn) -> ContactRow:
    require(request, "people")
    contact = contact_of(request, contact_id)
    name = " ".join(given.list.split())
    set_list(request.account, [contact.id], name, given.on, Cause(actor=request.person))
    return contact_row(contact_of(request, contact_id))


@router.get("contacts/{int:contact_id}/consent-proof", response={200: str})
def consent_proof(request: AccountRequest, account: Path[str], contact_id: int) -> HttpResponse:
    """All that is known of what the contact agreed to and refused, and when, as a PDF (GDPR art. 7(1))."""
    require(request, "import")
    contact = contact_of(request, contact_id)
    response = HttpResponse(proof.as_pdf(contact), content_type="application/pdf")
    response["Content-Disposition"] = f"attachment; filename*=UTF-8''consent-{contact.id}.pdf"
    return response
