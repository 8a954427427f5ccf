"""Whom messages come from, and what DNS should say of the domains."""

from typing import Any, Literal, cast

from django.http import Http404
from django.shortcuts import get_object_or_404
from ninja import Path, Router, Schema
from pydantic import Field

from bluffside.core.phone_numbers import as_written
from bluffside.core.terms import Purpose
from bluffside.server.messaging import domains
from bluffside.server.messaging.models import Sender
from bluffside.server.practice import audit
from bluffside.server.practice.access import AccountRequest, InAccount, require
from bluffside.server.set_up import depending, senders
from bluffside.server.set_up.api import NamedOut

router = Router(tags=["set-up"], auth=InAccount())
Sort = Literal["email", "text"]


class DoneOut(Schema):
    """In the last 30 days."""

    sent: int
    arrived: int
    failed: int
    answers: int


class SenderOut(Schema):
    """`name`: what lines call it; `written`: the address, or the number as the country writes it; `named_in`: workflows whose
    lines name it."""

    id: int
    name: str
    channel: Sort
    written: str
    shown_as: str
    reply_to: str
    one_way: bool
    confirmed: bool
    usual_for: list[Purpose]
    done: DoneOut
    named_in: list[NamedOut]


class RecordOut(Schema):
    """A TXT record of DNS."""

    name: str
    text: str
    why: str


class DomainOut(Schema):
    """`signs`: here; else the mail server does."""

    domain: str
    signs: bool
    records: list[RecordOut]


class SendersOut(Schema):
    senders: list[SenderOut]
    domains: list[DomainOut]


def _senders(request: AccountRequest) -> SendersOut:
    own = request.account
    workflows, done = depending.published(own), senders.lately(own)
    rows = list(own.senders.order_by("channel", "id"))
    listed = [
        SenderOut(
            id=one.id,
            name=one.name,
            channel=cast(Sort, one.channel),
            written=one.address if one.channel == "email" else as_written(one.address, own.region),
            shown_as=one.shown_as,
            reply_to=one.reply_to,
            one_way=one.one_way,
            confirmed=one.confirmed_at is not None,
            usual_for=cast(list[Purpose], one.usual_for),
            done=DoneOut(**done[one.id]._asdict()),
            named_in=[NamedOut(id=named.id, name=named.name) for named in senders.using(one, workflows)],
        )
        for one in rows
    ]
    first: dict[str, str] = {}
    for one in rows:
        if one.channel == "email" and one.confirmed_at:
            first.setdefault(domains.domain_of(one.address), one.address)
    kept = {one.domain: one for one in own.sender_domains.all()}
    return SendersOut(
        senders=listed,
        domains=[
            DomainOut(
                domain=domain,
                signs=domain in kept and kept[domain].signs,
                records=[RecordOut(**one._asdict()) for one in domains.records(domain, kept.get(domain), address)],
            )
            for domain, address in first.items()
        ],
    )


def _one(request: AccountRequest, sender_id: int) -> Sender:
    return get_object_or_404(Sender.objects.select_related("account"), account=request.account, id=sender_id)


@router.get("set-up/senders", response=SendersOut)
def get_senders(request: AccountRequest, account: Path[str]) -> SendersOut:
    require(request, "set-up")
    return _senders(request)


class SenderIn(Schema):
    channel: Sort
    address: str = Field(max_length=254)
    shown_as: str = Field(default="", max_length=120)


@router.post("set-up/senders", response=SendersOut)
def add(request: AccountRequest, account: Path[str], given: SenderIn) -> SendersOut:
    """An email address is mailed a code, and used once it was typed in here."""
    require(request, "set-up")
    senders.add(request.account, given.channel, given.address, given.shown_as, request.person)
    return _senders(request)


@router.post("set-up/senders/{int:sender_id}/code", response=SendersOut)
def send_code(request: AccountRequest, account: Path[str], sender_id: int) -> SendersOut:
    """Mails another code; the one before is worth nothing."""
    require(request, "set-up")
    one = _one(request, sender_id)
    if one.channel == "email" and not one.confirmed_at:
        senders.send_code(one)
    return _senders(request)


class CodeIn(Schema):
    code: str = Field(max_length=20)


@router.post("set-up/senders/{int:sender_id}/confirm", response=SendersOut)
def confirm(request: AccountRequest, account: Path[str], sender_id: int, given: CodeIn) -> SendersOut:
    require(request, "set-up")
    one = _one(request, sender_id)
    if not one.confirmed_at:
        senders.confirm(one, given.code, request.person)
    return _senders(request)


class SenderChange(Schema):
    """What is not said stays as it is. `usual_for`: purposes that it is to be usual for from now on."""

    name: str | None = Field(default=None, max_length=120)
    shown_as: str | None = Field(default=None, max_length=120)
    reply_to: str | None = Field(default=None, max_length=254)
    one_way: bool | None = None
    usual_for: list[Purpose] | None = None


@router.patch("set-up/senders/{int:sender_id}", response=SendersOut)
def change(request: AccountRequest, account: Path[str], sender_id: int, given: SenderChange) -> SendersOut:
    require(request, "set-up")
    said: dict[str, Any] = {
        name: value for name, value in given.model_dump(exclude_unset=True).items() if value is not None
    }
    senders.change(_one(request, sender_id), said, request.person, depending.published(request.account))
    return _senders(request)


@router.delete("set-up/senders/{int:sender_id}", response=SendersOut)
def remove(request: AccountRequest, account: Path[str], sender_id: int) -> SendersOut:
    require(request, "set-up")
    senders.remove(_one(request, sender_id), request.person, depending.published(request.account))
    return _senders(request)


class SignsIn(Schema):
    signs: bool


@router.put("set-up/domains/{domain}", response=SendersOut)
def sign(request: AccountRequest, account: Path[str], domain: str, given: SignsIn) -> SendersOut:
    """Whether mails of a domain are signed here, or by the mail server. The key is made the first time."""
    require(request, "set-up")
    if domain not in {domains.domain_of(one.address) for one in request.account.senders.filter(channel="email")}:
        raise Http404
    one = domains.of(request.account, domain)
    if one.signs != given.signs:
        one.signs = given.signs
        one.save(update_fields=["signs"])
        words = ("signed by the mail server", "signed here")
        noted = audit.Noted(f"emails of {domain}", words[not given.signs], words[given.signs])
        audit.note(request.account, request.person, "senders", [noted])
    return _senders(request)
