"""Rules for what comes in by text and mail, and mail from people nobody knows."""

from typing import Literal

from django.db import transaction
from django.shortcuts import get_object_or_404
from ninja import Path, Router, Schema
from ninja.errors import HttpError
from pydantic import Field

from bluffside.core.channels.answers import keyword, meant
from bluffside.core.terms import TwoWay
from bluffside.server.capture import incoming
from bluffside.server.capture.models import IncomingRule
from bluffside.server.events.stream import Cause, listen
from bluffside.server.messaging import strangers
from bluffside.server.messaging.models import StrangerMail
from bluffside.server.people.api import ContactRow, bad_contact, contact_row
from bluffside.server.people.services import BadContact
from bluffside.server.practice.access import AccountRequest, InAccount, require
from bluffside.server.practice.words import moment
from bluffside.server.workflows.models import Workflow

router = Router(tags=["capture"], auth=InAccount())
SHOWN = 100


class RuleIn(Schema):
    on: bool = True
    channels: list[TwoWay] = Field(default=["text"], min_length=1)
    match: incoming.Match = "is"
    words: list[str] = Field(max_length=20)
    acts: incoming.Acts = incoming.Acts()


class RuleOut(RuleIn):
    """`does` in words; `hidden`: why it will not act for some of its words."""

    id: int
    does: str
    hidden: str
    fitted: int
    last: str


class TryText(Schema):
    channel: TwoWay = "text"
    text: str = Field(max_length=2_000)


class RuleTrial(Schema):
    """Which rule would act (0: none), and what happens, in words."""

    rule: int
    words: str


def _rules(request: AccountRequest) -> list[RuleOut]:
    rules = incoming.rules_of(request.account)
    hidden = incoming.overlaps(rules, incoming.care_of(request.account))
    names = dict(Workflow.objects.filter(account=request.account).values_list("id", "name"))
    return [
        RuleOut(
            id=one.pk, on=one.on, channels=one.channels, match=one.match, words=one.words,  # type: ignore[arg-type]
            acts=(acts := incoming.Acts.model_validate(one.acts)), does=acts.words(names.get(acts.workflow, "a workflow that is gone")),
            hidden=hidden.get(one.pk, ""), fitted=one.fitted, last=moment(one.last_at, request.account.zone) if one.last_at else "",
        )
        for one in rules
    ]  # fmt: skip


def _rule_of(request: AccountRequest, rule_id: int) -> IncomingRule:
    require(request, "workflows")
    return get_object_or_404(IncomingRule, account=request.account, id=rule_id)


def _write(request: AccountRequest, rule: IncomingRule, given: RuleIn) -> None:
    words = list(dict.fromkeys(word for word in (" ".join(one.split())[:80] for one in given.words) if word))
    if not words:
        raise HttpError(422, "Name at least one word. Nothing was changed.")
    if given.acts.workflow:
        get_object_or_404(Workflow, account=request.account, id=given.acts.workflow)
    rule.on, rule.channels, rule.match, rule.words = given.on, list(given.channels), given.match, words
    rule.acts = given.acts.model_dump()
    rule.save()
    listen(request.account, ["reply.received"])


@router.get("incoming-rules", response=list[RuleOut])
def all_rules(request: AccountRequest, account: Path[str]) -> list[RuleOut]:
    """In the order in which they are asked."""
    return _rules(request)


@router.post("incoming-rules", response={201: list[RuleOut]})
def new_rule(request: AccountRequest, account: Path[str], given: RuleIn) -> tuple[int, list[RuleOut]]:
    require(request, "workflows")
    rules = incoming.rules_of(request.account)
    with transaction.atomic():
        _write(request, IncomingRule(account=request.account, position=rules[-1].position + 1 if rules else 1), given)
    return 201, _rules(request)


@router.put("incoming-rules/{int:rule_id}", response=list[RuleOut])
def change_rule(request: AccountRequest, account: Path[str], rule_id: int, given: RuleIn) -> list[RuleOut]:
    rule = _rule_of(request, rule_id)
    with transaction.atomic():
        _write(request, rule, given)
    return _rules(request)


@router.post("incoming-rules/{int:rule_id}/{way}", response=list[RuleOut])
def move_rule(request: AccountRequest, account: Path[str], rule_id: int, way: Literal["up", "down"]) -> list[RuleOut]:
    """One place earlier or later."""
    rule = _rule_of(request, rule_id)
    rules = incoming.rules_of(request.account)
    at = next(n for n, one in enumerate(rules) if one.pk == rule.pk)
    to = at + (-1 if way == "up" else 1)
    if 0 <= to < len(rules):
        rules[at], rules[to] = rules[to], rules[at]
    for position, one in enumerate(rules, start=1):
        one.position = position
    IncomingRule.objects.bulk_update(rules, ["position"])
    return _rules(request)


@router.delete("incoming-rules/{int:rule_id}", response=list[RuleOut])
def drop_rule(request: AccountRequest, account: Path[str], rule_id: int) -> list[RuleOut]:
    _rule_of(request, rule_id).delete()
    return _rules(request)


@router.post("incoming-try", response=RuleTrial)
def try_text(request: AccountRequest, account: Path[str], given: TryText) -> RuleTrial:
    """What a text would do. Nothing is done."""
    care = incoming.care_of(request.account)
    said = keyword(meant(given.text, care))
    if said == "out":
        return RuleTrial(rule=0, words="Opts them out at once; no rule is asked.")
    if said == "in":
        return RuleTrial(rule=0, words="Opts them in again; no rule is asked.")
    rule = incoming.first_that_fits(incoming.rules_of(request.account), care, given.channel, given.text)
    if rule is None:
        return RuleTrial(rule=0, words="No rule fits: it waits under Today for somebody to answer.")
    at, found = next((at, one) for at, one in enumerate(_rules(request), start=1) if one.id == rule.pk)
    return RuleTrial(rule=rule.pk, words=f"Rule {at} acts: {found.does}.")


# ---- emails from people nobody knows


class StrangerOut(Schema):
    """`text` is how the mail begins."""

    id: int
    address: str
    name: str
    subject: str
    text: str
    at: str


@router.get("strangers", response=list[StrangerOut])
def all_strangers(request: AccountRequest, account: Path[str]) -> list[StrangerOut]:
    """The newest hundred, kept apart until somebody takes the writer in or throws the mail away."""
    require(request, "people")
    found = StrangerMail.objects.filter(account=request.account).order_by("-received_at", "-id")[:SHOWN]
    return [
        StrangerOut(
            id=one.pk, address=one.address, name=one.name, subject=one.subject, text=one.text[:600],
            at=moment(one.received_at, request.account.zone),
        )
        for one in found
    ]  # fmt: skip


def _stranger_of(request: AccountRequest, stranger_id: int) -> StrangerMail:
    require(request, "people")
    return get_object_or_404(StrangerMail.objects.select_related("account"), account=request.account, id=stranger_id)


@router.post("strangers/{int:stranger_id}/take-in", response=ContactRow)
def take_in_stranger(request: AccountRequest, account: Path[str], stranger_id: int) -> ContactRow:
    """The writer becomes a contact, and what they wrote a reply of theirs."""
    mail = _stranger_of(request, stranger_id)
    try:
        return contact_row(strangers.take_in(mail, Cause(actor=request.person)))
    except BadContact as error:
        raise bad_contact(error) from None


@router.delete("strangers/{int:stranger_id}", response={204: None})
def drop_stranger(request: AccountRequest, account: Path[str], stranger_id: int) -> tuple[int, None]:
    _stranger_of(request, stranger_id).delete()
    return 204, None
