"""Two contacts who are one person: found, said to be two after all, or made one with the history of both.

How they are merged:
  - who stays keeps what they have; gaps are filled from who goes; single values can be taken from who goes instead
  - addresses are never lost: those of who goes become further addresses
  - whoever said no, says no: an opt-out on either record holds, and so does "do not contact"
  - tags, lists, deals, messages, appointments, enrolments, events: all of both
  - in a workflow that both are in, who stays goes on; the other enrolment ends with that reason
"""

from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from typing import Any

from django.db import transaction
from django.db.models import Q

from bluffside.core.own_fields import OWN
from bluffside.core.phone_numbers import as_written
from bluffside.core.scoring.sheet import Score
from bluffside.core.terms import ANSWERED_AT, BY_ADDRESS, CHANNELS, PURPOSES
from bluffside.core.words import day
from bluffside.server import sql
from bluffside.server.events.stream import Cause, Happened, record
from bluffside.server.people.erasing import BY_NUMBER, referring, rows_of
from bluffside.server.people.models import (
    Consent,
    Contact,
    ContactTag,
    Field,
    FurtherAddress,
    ImportTouched,
    MergedContact,
    NotTheSame,
)
from bluffside.server.people.values import in_words, plain_score, read_score, read_value
from bluffside.server.practice.models import Account

MOST = 200  # pairs that are shown
OWN_RULES = (ContactTag, Consent, FurtherAddress, NotTheSame)  # rows that are put together here
BeforeMerging = Callable[[Account, int, int], None]
_before: list[BeforeMerging] = []


class CannotMerge(ValueError):
    """Why two contacts cannot be made one, in words."""


def before_merging(do: BeforeMerging) -> None:
    """Has an area settle what its rows of two contacts (account, who stays, who goes) could get in each other's way
    with, before they become one's. Called when apps are ready."""
    _before.append(do)


# ---- finding


@dataclass(frozen=True, slots=True)
class Pair:
    first: int
    second: int
    why: str


_ALIKE = {
    "the same name": "bluffside_plain(c.first_name || ' ' || c.last_name) || CASE WHEN c.first_name = '' OR c.last_name = ''"
    " THEN '#' || c.id ELSE '' END",
    "emails that reach the same mailbox at most providers": "CASE WHEN c.email = '' THEN '#' || c.id ELSE"
    " replace(split_part(split_part(c.email, '@', 1), '+', 1), '.', '') || '@' || split_part(c.email, '@', 2) END",
    "numbers that end alike": "CASE WHEN c.mobile = '' THEN '#' || c.id ELSE right(c.mobile, 9) END",
    "the same postal address and last name": "CASE WHEN c.post = '' OR c.last_name = '' THEN '#' || c.id"
    " ELSE bluffside_plain(c.post) || '#' || lower(c.last_name) END",
}


def duplicates(account: Account) -> list[Pair]:
    """Pairs who may be one person, with why; each pair once, for the first reason that fits. Pairs of whom somebody said
    that they are two are left out."""
    settled = set(NotTheSame.objects.filter(account=account).values_list("first_id", "second_id"))
    found: dict[tuple[int, int], str] = {}
    for why, alike in _ALIKE.items():
        # Grouped by what a function of ours makes of names and addresses.
        groups = sql.rows(
            f"SELECT array_agg(id ORDER BY id) FROM (SELECT c.id, {alike} AS k FROM people_contact c"  # noqa: S608  # ours
            f" WHERE c.account_id = %s) AS x GROUP BY k HAVING count(*) BETWEEN 2 AND 50 ORDER BY 1 LIMIT {MOST}",
            [account.id],
        )
        for (ids,) in groups:
            for other in ids[1:]:
                pair = (ids[0], other)
                if pair not in settled:
                    found.setdefault(pair, why)
    return [Pair(*pair, why) for pair, why in list(found.items())[:MOST]]


def are_two(account: Account, one: int, other: int) -> None:
    first, second = sorted((one, other))
    NotTheSame.objects.get_or_create(account=account, first_id=first, second_id=second)


# ---- making one of two


@transaction.atomic
def merge(account: Account, stays: int, goes: int, take: Collection[str], cause: Cause) -> Contact:
    """Makes one contact of two; `take` names what is taken from who goes: own fields, and the account's as "field:…".
    It cannot be undone. Raises CannotMerge."""
    if stays == goes:
        raise CannotMerge("These are the same contact.")
    both = Contact.objects.filter(account=account, id__in=(stays, goes)).select_for_update().order_by("id")
    rows = {one.id: one for one in both}
    if len(rows) != 2:
        raise CannotMerge("One of the two is not here any more.")
    kept, gone = rows[stays], rows[goes]
    for settle in _before:
        settle(account, stays, goes)
    happened = {
        "name": gone.name, "email": gone.email, "mobile": gone.mobile, "added": gone.added_at.isoformat(),
        "fields": gone.fields,
    }  # fmt: skip
    _consents(account, kept, gone)
    further = _values(kept, gone, take)
    for model, field in referring():
        if model not in OWN_RULES:
            model._base_manager.filter(**{field: goes}).update(**{field: stays})
    of_both = ImportTouched.objects.filter(contact_id=stays).values("of")
    for label in BY_NUMBER:
        theirs = rows_of(label).filter(account=account, contact_id=goes)
        (theirs.exclude(of__in=of_both) if theirs.model is ImportTouched else theirs).update(contact_id=stays)
    tags = ContactTag.objects.filter(contact=gone)
    tags.exclude(tag__in=ContactTag.objects.filter(contact=kept).values("tag")).update(contact=kept)
    FurtherAddress.objects.filter(contact=gone).update(contact=kept)
    gone.delete()
    kept.save()
    MergedContact.objects.create(account=account, was=goes, contact=kept)
    for channel, address in further:
        FurtherAddress.objects.get_or_create(
            account=account, channel=channel, address=address, defaults={"contact": kept}
        )
    FurtherAddress.objects.filter(Q(address=kept.email) | Q(address=kept.mobile), contact=kept).delete()
    record(account, [Happened("contact.merged", stays, happened, cause)])
    return kept


def _values(kept: Contact, gone: Contact, take: Collection[str]) -> list[tuple[str, str]]:
    """Puts the values of both together on who stays; answers the addresses that become further ones."""
    left: list[tuple[str, str]] = []
    before = {name: getattr(kept, name) for name in ANSWERED_AT}
    for name in OWN:
        old, other = getattr(kept, name), getattr(gone, name)
        new = other if other and (not old or name in take) else old
        setattr(kept, name, new)
        for address in (old, other):
            if name in ANSWERED_AT and address and address != new:
                left.append((ANSWERED_AT[name], address))
    fields = gone.fields | kept.fields
    fields |= {name: value for name, value in gone.fields.items() if f"field:{name}" in take}
    kept.fields = fields
    kept.lists = list(dict.fromkeys([*kept.lists, *gone.lists]))
    kept.channel_order = kept.channel_order or gone.channel_order
    kept.do_not_contact = kept.do_not_contact or gone.do_not_contact
    kept.held_channels = list(dict.fromkeys([*kept.held_channels, *gone.held_channels]))
    kept.paused_until = max(filter(None, (kept.paused_until, gone.paused_until)), default=None)
    kept.responsible_id = kept.responsible_id or gone.responsible_id
    kept.added_at = min(kept.added_at, gone.added_at)
    held = {(one.score, one.rule) for one in read_score(kept.score).earned}
    more = [one for one in read_score(gone.score).earned if (one.score, one.rule) not in held]
    kept.score = [*kept.score, *plain_score(Score(tuple(more)))]
    for name in ANSWERED_AT:
        if getattr(kept, name) != before[name]:  # another address may well work
            kept.exhausted = [one for one in kept.exhausted if one not in BY_ADDRESS[name]]
    return left


_RANK = {Consent.State.WITHDRAWN: 2, Consent.State.GIVEN: 1, Consent.State.ASKED: 0}


def _consents(account: Account, kept: Contact, gone: Contact) -> None:
    """The strictest of what was said on either record, with its evidence."""
    said: dict[tuple[int, str, str], Consent] = {}
    for one in Consent.objects.filter(contact__in=(kept, gone)):
        said[one.contact_id, one.channel, one.purpose] = one
    for channel in CHANNELS:
        for purpose in PURPOSES:
            ours, theirs = said.get((kept.id, channel, purpose)), said.get((gone.id, channel, purpose))
            if theirs and (not ours or _RANK[Consent.State(theirs.state)] > _RANK[Consent.State(ours.state)]):
                if ours:
                    ours.delete()
                theirs.contact = kept
                theirs.save(update_fields=["contact"])


def _own(contact: Contact, name: str) -> Any:
    value = getattr(contact, name)
    return as_written(value, contact.account.region) if name == "mobile" else value


def compared(contacts: Sequence[Contact], fields: Mapping[str, Field]) -> list[dict[str, Any]]:
    """What two contacts have, value by value, where at least one has something: for a person to look at. `fields` are the
    account's own, by name."""
    names = [name for name in OWN if any(getattr(one, name) for one in contacts)]
    rows: list[dict[str, Any]] = [{"name": name, "values": [_own(one, name) for one in contacts]} for name in names]

    def said(name: str, value: Any) -> str:
        read = read_value(value, fields[name].kind if name in fields else "text")
        return day(read) if isinstance(read, date) else in_words(value)

    own = sorted({name for one in contacts for name in one.fields})
    rows += [
        {"name": f"field:{name}", "values": [said(name, one.fields.get(name)) for one in contacts]} for name in own
    ]
    return rows
