"""A message sent to oneself to see how it arrives: marked as a test, handed over at once, kept and counted nowhere."""

from secrets import token_hex

from bluffside.core.terms import Channel
from bluffside.server.messaging.carrier import Parcel, carrier_for
from bluffside.server.messaging.parcels import carrier_key, senders_of
from bluffside.server.practice.models import Account, Person


class NotSent(ValueError):
    """Why it was not, in words."""


def to_oneself(account: Account, person: Person, channel: Channel, subject: str, body: str, sender: str = "") -> str:
    """Hands it to the carrier; answers the address it went to. Raises NotSent."""
    if channel not in ("email", "text", "voicemail"):
        raise NotSent("only emails, texts and voicemails can be sent to oneself.")
    to = person.email if channel == "email" else person.phone
    if not to:
        raise NotSent("you have no phone number of your own here.")
    if not body.strip():
        raise NotSent("it has no words yet.")
    named = senders_of(account).get((channel, sender))
    usual = (account.sender_email, account.sender_name) if channel == "email" else (account.text_number, account.name)
    address, shown = (named.address, named.shown_as or usual[1]) if named else usual
    key = carrier_key(account.id, f"test.{token_hex(8)}")
    if channel == "email":
        subject = f"Test: {subject}"
        footer = f"{account.name}, {account.postal_address}\nA test to yourself; the link to leave stands here."
        text = f"{body}\n\n--\n{footer}"
    else:
        text = f"Test: {body}"
    [answer] = carrier_for(channel).hand_over([Parcel(key, channel, address, shown, to, subject, text)])
    if answer.did != "taken":
        raise NotSent(answer.reason or "the carrier did not take it.")
    return to
