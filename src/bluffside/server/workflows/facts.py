"""What decisions are taken on, gathered from every area for a whole batch."""

from collections import defaultdict
from collections.abc import Callable, Iterable
from dataclasses import replace
from datetime import datetime, timedelta
from typing import Any

from bluffside.core.conditions import Need
from bluffside.core.facts import Account as AccountFacts
from bluffside.core.facts import Contact, Facts
from bluffside.server.diary.facts import load_appointments
from bluffside.server.events.stream import history
from bluffside.server.messaging.stopping import why_held
from bluffside.server.people.queries import account_facts, load_contacts
from bluffside.server.pipeline.facts import load_deals
from bluffside.server.practice.models import Account

ALL: frozenset[Need] = frozenset({"happened"})


def load_facts(
    account: Account,
    contact_ids: Iterable[int],
    needs: frozenset[Need] = ALL,
    now: datetime | None = None,
    in_life: bool = False,
) -> dict[int, Facts]:
    """Facts by contact id, in a fixed number of queries. `in_life`: with why nothing goes out to somebody (all
    sending is stopped, or the account not live); a rehearsal sends all the same.

    The past is by far the largest part, so it is loaded only for definitions that look at it, and of it only messages
    where nothing but the account's message limits does. All else is a row or a few a contact.
    """
    ids = list(set(contact_ids))
    more: dict[int, dict[str, Any]] = defaultdict(dict)
    for name, part in (("deals", load_deals(account, ids)), ("appointments", load_appointments(account, ids))):
        for contact_id, value in part.items():
            more[contact_id][name] = value
    limits = account_facts(account).care.limits
    remembers = "happened" in needs or bool(limits)
    if "happened" in needs:
        past = history(account, ids)
    elif limits:
        # A little more than the longest limit reaches back, since days are of the contact's zone.
        reach = min(limit.within.before(now, "UTC") for limit in limits) - timedelta(days=2) if now else None
        past = history(account, ids, ["message.sent"], reach)
    else:
        past = {}
    for contact_id, events in past.items():
        more[contact_id]["happened"] = events
    found = load_contacts(account, ids, more)
    held = why_held(account) if in_life else None
    if remembers and not held:
        return found
    usual = account_facts(account)
    return {
        id: Facts(one.contact, _held(usual, held, one.contact), one.member, remembers=remembers)
        for id, one in found.items()
    }


def _held(usual: AccountFacts, held: Callable[[Contact], str] | None, contact: Contact) -> AccountFacts:
    why = held(contact) if held else ""
    return replace(usual, stopped=why) if why else usual
