"""What contacts decide by themselves: on which channels and about what they hear, in which order, some quiet, their
details, or nothing any more. Only what they changed is written down, with the words of the page as evidence."""

import json
from collections.abc import Mapping, Sequence

from django.db import transaction

from bluffside.core.own_fields import OWN
from bluffside.core.terms import ADDRESS_OF, ANSWERED_AT, CHANNEL_KINDS, CHANNELS, PURPOSES, Channel, Purpose
from bluffside.server.diary.services import call_off_contacting
from bluffside.server.events.stream import WORLD, Cause
from bluffside.server.messaging.services import ask_for_quiet, opt_out
from bluffside.server.people.models import Consent, Contact, ContactList
from bluffside.server.people.queries import account_facts
from bluffside.server.people.services import (
    BadContact,
    change_contact,
    contact_at,
    set_channel_order,
    set_consent,
    set_list,
)
from bluffside.server.people.signed import keyed
from bluffside.server.practice import clock

LABELS = {name: one.own_page for name, one in CHANNEL_KINDS.items() if one.own_page}
OFFERED: tuple[Channel, ...] = tuple(LABELS)
ABOUT: dict[Purpose, str] = {"marketing": "news and offers", "service": "what I booked or asked for"}
EVIDENCE = "on their preference page"
DETAILS = tuple(name for name, one in OWN.items() if one.shown)


def channels_of(contact: Contact) -> list[Channel]:
    """The channels that the page speaks of: those with an address."""
    return [one for one in OFFERED if getattr(contact, ADDRESS_OF[one])]


def open_to(contact: Contact) -> dict[tuple[Channel, Purpose], bool]:
    """What may be written now, as far as the contact's own word decides it."""
    care = account_facts(contact.account).care
    since = care.agreed_since(clock.now())
    said = {
        (one.channel, one.purpose): "run out" if since and one.state == "given" and one.at < since else one.state
        for one in Consent.objects.filter(contact=contact)
    }
    return {
        (channel, purpose): not contact.do_not_contact
        and (
            said.get((channel, purpose)) == "given"
            if care.policy_for(purpose) == "ask_first"
            else said.get((channel, purpose)) != "withdrawn"
        )
        for channel in OFFERED
        for purpose in PURPOSES
    }


def order_of(contact: Contact) -> list[Channel]:
    """The channels of the page in the order the contact likes them."""
    own = [one for one in contact.channel_order if one in OFFERED]
    return list(dict.fromkeys([*own, *channels_of(contact)]))


def as_shown(contact: Contact) -> str:
    """What the page shows of somebody, as a digest: a page that was opened before something changed says another."""
    offered = ContactList.objects.filter(account=contact.account, offered=True).values_list("name", flat=True)
    state = {
        "open": {f"{channel} {purpose}": on for (channel, purpose), on in open_to(contact).items()},
        "order": order_of(contact),
        "subjects": sorted(set(offered) & set(contact.lists)),
        "details": [getattr(contact, name) for name in DETAILS],
        "never": contact.do_not_contact,
    }
    return keyed("own page", json.dumps(state, sort_keys=True)).hex()[:24]


@transaction.atomic
def keep(
    contact: Contact,
    ticked: Mapping[tuple[Channel, Purpose], bool],
    order: Sequence[Channel],
    subjects: Sequence[str],
    weeks: int | None,
    details: Mapping[str, str],
    cause: Cause = WORLD,
) -> None:
    """Raises BadContact in words that tell nothing of others."""
    for name, channel in ANSWERED_AT.items():
        given = details.get(name, "").strip()
        if not given and getattr(contact, name) and name in details:
            others = [one for one in ANSWERED_AT if one != name]
            if not any(details.get(one, "").strip() for one in others):
                raise BadContact({name: "We need an email or a mobile number of yours to keep your wishes by."})
        holder = contact_at(contact.account, channel, given.lower()) if given else None
        if holder and holder.id != contact.id:
            raise BadContact({name: "That address cannot be used here; write to us, and we will sort it out."})
    try:
        change_contact(contact, details, cause)
    except BadContact as error:
        said = {
            name: "That address cannot be used here." if "belongs to" in text else text
            for name, text in error.faults.items()
        }
        raise BadContact(said) from None
    now = open_to(contact)
    for (channel, purpose), on in ticked.items():
        if on != now[channel, purpose]:
            label = f"{LABELS[channel]}: {ABOUT[purpose]}"
            set_consent(
                contact.account, [contact.id], channel, on, EVIDENCE, cause, purposes=[purpose], by_themselves=not cause.actor,
                how="preference page", wording=label,
            )  # fmt: skip
    if contact.do_not_contact and any(ticked.values()):
        contact.do_not_contact = False
        contact.save(update_fields=["do_not_contact"])
    if order and list(order) != order_of(contact):
        set_channel_order(contact, order, cause)
    for one in ContactList.objects.filter(account=contact.account, offered=True):
        set_list(contact.account, [contact.id], one.name, one.name in subjects, cause)
    if weeks is not None:
        ask_for_quiet(contact, weeks)


@transaction.atomic
def leave(contact: Contact, cause: Cause = WORLD) -> None:
    """Nothing any more: no message on any channel, and no call, letter or card that the team has on its list."""
    for channel in CHANNELS:
        opt_out(contact, channel, f"pressed “Stop everything” {EVIDENCE}", cause=cause)
    contact.do_not_contact = True
    contact.save(update_fields=["do_not_contact"])
    call_off_contacting(contact, "they want no more of anything")
