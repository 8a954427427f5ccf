"""Leads that other systems send: kept as they come, matched to a contact's fields, replayed when something was wrong.

A source has a URL with a secret. What it sends is kept first, whole; then its fields are found by their paths
("lead.person.email", "answers.0.value"), changed a little where that is asked (a name split, letters' case), and become
a contact as a form does. Nothing that comes is ever lost: what cannot be taken waits with its reason.
"""

import json
import logging
import secrets
from collections.abc import Iterator, Mapping
from hashlib import sha256
from typing import Any, Literal
from urllib.parse import parse_qs

from django.db import transaction
from ninja import Schema
from pydantic import Field

from bluffside.core.own_fields import OWN
from bluffside.core.terms import Channel, Purpose
from bluffside.server import sql
from bluffside.server.capture import deals_made, purchases
from bluffside.server.capture.models import Lead, LeadSource
from bluffside.server.events.stream import WORLD
from bluffside.server.people import field_kinds, proposals
from bluffside.server.people.import_columns import FIELD, guess_mapping
from bluffside.server.people.import_rows import split_name
from bluffside.server.people.queries import fields_of
from bluffside.server.people.reading import Rule
from bluffside.server.people.services import (
    BadContact,
    change_contact,
    known_by,
    lead_received,
    normalised,
    set_consent,
    set_fields,
    sort_in,
    without_held,
)
from bluffside.server.practice import clock, connections
from bluffside.server.practice.models import Account, Person
from bluffside.server.practice.naming import free_name

MOST_PATHS = 120
MOST_FIELDS = 500  # of a web form
DEEPEST = 6
LONGEST_BODY = 100_000  # bytes
State = Lead.State
How = Literal["as_it_is", "split_name", "capitals", "lower", "day_first", "month_first", "comma"]


class Pointed(Schema):
    """One value of a body and what it becomes: a field of the contact's own, "full_name", "field:<name>", or a part of a purchase (purchases.py)."""

    path: str = Field(max_length=300)
    fills: str = Field(max_length=100)
    how: How = "as_it_is"


class Matching(Schema):
    """`trusted`: what it says of somebody who is known is filled in, or replaces what was there, as `duplicates` says; else it
    is taken as what comes from a form is (people.proposals)."""

    fields: list[Pointed] = Field(default=[], max_length=60)
    tags: list[str] = Field(default=[], max_length=10)
    lists: list[str] = Field(default=[], max_length=10)
    deal: deals_made.MakesDeal | None = None
    duplicates: Literal["skip", "fill", "overwrite"] = "fill"
    trusted: bool = False
    consent: Literal[""] | Channel = ""
    consent_purposes: list[Purpose] = ["marketing"]
    consent_evidence: str = Field(default="", max_length=300)

    def ready(self) -> bool:
        return bool({"email", "mobile"} & {one.fills for one in self.fields})


log = logging.getLogger("bluffside.leads")


class BadLead(ValueError):
    """Why a body cannot be taken, in words."""


# ---- what a body holds


def paths(body: Any, before: str = "", depth: int = 0) -> Iterator[tuple[str, str]]:
    """Each single value of a body with its path, in its order."""
    if depth > DEEPEST:
        return
    if isinstance(body, Mapping):
        parts: Any = body.items()
    elif isinstance(body, list):
        parts = enumerate(body[:20])
    else:
        if body is not None and str(body).strip():
            yield before, str(body)[:300] if not isinstance(body, bool) else ("yes" if body else "no")
        return
    for name, value in parts:
        yield from paths(value, f"{before}.{name}" if before else str(name), depth + 1)


def guess(body: Any) -> Matching:
    """What the values of a first body probably are, by the last word of their paths."""
    found = list(paths(body))[:MOST_PATHS]
    names = [path.rpartition(".")[2] for path, _ in found]
    mapping = guess_mapping(names)
    targets = {"full_name", "zone"} | {name for name, one in OWN.items() if one.asked}
    return Matching(
        fields=[
            Pointed(path=found[int(n)][0], fills=fills, how="split_name" if fills == "full_name" else "as_it_is")
            for n, fills in mapping.items()
            if fills in targets
        ]
    )


# ---- receiving


def make(account: Account, name: str) -> LeadSource:
    """Raises NotAName."""
    name = free_name(LeadSource, "source", account, name)
    source = LeadSource(account=account, name=name, matching=Matching().model_dump(mode="json"), made_at=clock.now())
    return address_anew(source)


def address_anew(source: LeadSource) -> LeadSource:
    """With an address that nobody has had; the one before leads nowhere. Its `secret` is known to the answer alone."""
    source.secret = secrets.token_urlsafe(18)
    source.digest, source.address_at = digest_of(source.secret), clock.now()
    source.save()
    return source


def digest_of(secret: str) -> str:
    return sha256(secret.encode()).hexdigest()


@transaction.atomic
def switch(source: LeadSource, on: bool, by: Person) -> None:
    """What comes while it is off is kept, and waits."""
    source.on = on
    source.save(update_fields=["on"])
    connections.switch(source.account, "source", source.name, on, by)


def parse(raw: bytes, kind: str) -> Any:
    """A body of JSON or of a web form. Raises BadLead."""
    if len(raw) > LONGEST_BODY:
        raise BadLead(f"longer than {LONGEST_BODY:,} bytes")
    if "x-www-form-urlencoded" in kind:
        try:
            pairs = parse_qs(raw.decode("utf-8", "replace"), max_num_fields=MOST_FIELDS)
        except ValueError:
            raise BadLead(f"more than {MOST_FIELDS} fields") from None
        return sql.kept({name: values[0] if len(values) == 1 else values for name, values in pairs.items()})
    try:
        body = sql.kept(json.loads(raw.decode("utf-8-sig", "strict"), parse_constant=lambda _: None))
    except (ValueError, RecursionError):
        raise BadLead("neither JSON nor a web form") from None
    if not isinstance(body, dict | list) or not body:
        raise BadLead("there is nothing in it")
    return body


def receive(source: LeadSource, body: Any, key: str) -> Lead:
    """Keeps what came, and takes it when it can be. Brought twice, it is one."""
    key = sql.plain(key) if key else ""
    key = (key or sha256(json.dumps(body, sort_keys=True).encode()).hexdigest())[:80]
    now = clock.now()
    with transaction.atomic():
        lead, new = Lead.objects.get_or_create(
            source=source, key=key, defaults={"account": source.account, "body": body, "at": now}
        )
        source.last_at, changed = now, ["last_at"]
        if source.sample is None:
            source.sample, changed = body, [*changed, "sample"]
            if not Matching.model_validate(source.matching).fields:  # else somebody has pointed already
                source.matching, changed = guess(body).model_dump(mode="json"), [*changed, "matching"]
        # No more than that: somebody may be changing the matching at this moment.
        source.save(update_fields=changed)
    connections.heard(source.account, "source", source.name, "works", "it sent a lead")
    if new:
        take(source, lead)
    return lead


def take(source: LeadSource, lead: Lead) -> None:
    """Makes a lead a contact, or says why not."""
    matching = Matching.model_validate(source.matching)
    if not source.on or not matching.ready():
        why = (
            "the source is switched off"
            if not source.on
            else "its fields are not matched yet: neither email nor mobile"
        )
        _settle(lead, State.WAITING, why)
        return
    try:
        with transaction.atomic():
            contact = _contact(source, matching, lead)
            lead.contact = contact
            _settle(lead, State.TAKEN, "")
    except (BadLead, BadContact, ValueError) as error:
        lead.contact = None
        _settle(lead, State.FAILED, str(error))
    except Exception as error:  # it is kept, and can be replayed
        log.exception("a lead could not be taken", extra={"account": source.account.slug})
        lead.contact = None
        _settle(lead, State.FAILED, f"{type(error).__name__}: {error}".replace("\0", ""))


def _settle(lead: Lead, state: str, reason: str) -> None:
    lead.state, lead.reason = state, reason[:300]
    lead.save(update_fields=["state", "reason", "contact"])


def replay(source: LeadSource) -> int:
    """Tries again what waits or failed; answers how many were taken."""
    taken = 0
    for lead in Lead.objects.filter(source=source).exclude(state=State.TAKEN).order_by("id")[:1_000]:
        take(source, lead)
        taken += lead.state == State.TAKEN
    return taken


def understood(account: Account, matching: Matching, body: Any) -> dict[str, str]:
    """What a body would become, in words, by what it fills. Raises BadLead."""
    own, fields, bought = _values(account, matching, body)
    paid = {"purchase": f"{bought.item or 'something'}, {bought.amount}"} if bought else {}
    return own | {f"field:{name}": str(value) for name, value in fields.items()} | paid


def _values(
    account: Account, matching: Matching, body: Any
) -> tuple[dict[str, str], dict[str, Any], purchases.Bought | None]:
    found = dict(paths(body))
    bought: dict[str, str] = {}
    written: Rule = ""  # how the amount is
    own: dict[str, str] = {}
    fields: dict[str, Any] = {}
    known = fields_of(account)
    for one in matching.fields:
        text = found.get(one.path, "")
        if not text:
            continue
        text = {"capitals": text.title(), "lower": text.lower()}.get(one.how, text)
        if one.fills == "full_name" or one.how == "split_name":
            own["first_name"], own["last_name"] = split_name(text)
        elif one.fills.startswith("purchase."):
            bought[one.fills] = text
            written = "comma" if one.fills == purchases.AMOUNT and one.how == "comma" else written
        elif one.fills.startswith(FIELD):
            name = one.fills.removeprefix(FIELD)
            field = known.get(name)
            if field is None:
                raise BadLead(f"there is no field “{name}” any more")
            rule: Rule = one.how if one.how in ("day_first", "month_first", "comma") else ""
            fields[name] = field_kinds.read_typed(
                text, field.kind, field_kinds.How(field.choices, rule, account.region)
            )
        else:
            own[one.fills] = text
    try:
        own = normalised(account, own)
    except KeyError as error:
        raise BadLead(f"a lead cannot fill {error}") from None
    if not own.get("email") and not own.get("mobile"):
        raise BadLead("neither an email nor a mobile number in it")
    return own, fields, purchases.read(bought, written, account.region)


def _contact(source: LeadSource, matching: Matching, lead: Lead) -> Any:
    account = source.account
    own, fields, bought = _values(account, matching, lead.body)
    evidence = matching.consent_evidence or f"agreed at {source.name}"
    agreed = (
        [proposals.Agreed(matching.consent, matching.consent_purposes, "lead", evidence)] if matching.consent else []
    )
    known = known_by(account, own.get("email", ""), own.get("mobile", ""))
    if known is None or not matching.trusted:
        filled = known is None or matching.duplicates != "skip"
        said = proposals.Stated(
            own if filled else {}, fields if filled else {}, agreed, f"as a lead from {source.name}"
        )
        contact = proposals.come_in(account, said, WORLD, known)
    else:
        contact = known
        fill, over = matching.duplicates != "skip", matching.duplicates == "overwrite"
        changes = {name: value for name, value in own.items() if value and fill and (over or not getattr(known, name))}
        change_contact(contact, without_held(contact, changes))
        set_fields(contact, {name: v for name, v in fields.items() if fill and (over or name not in known.fields)})
        for one in agreed:
            set_consent(account, [contact.id], one.channel, True, evidence, WORLD, one.purposes, how="lead")
    sort_in(account, contact.id, tags=matching.tags, lists=matching.lists)
    deals_made.make(contact, matching.deal, source.name, WORLD)
    lead_received(contact, source.name, dict(list(paths(lead.body))[:30]))
    if bought:
        purchases.made(source, contact, bought, lead.key)
    return contact
