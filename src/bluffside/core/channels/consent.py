"""Words that revoke consent, and whether a channel is open to a contact.

A text that consists of one of OPT_OUT_WORDS stops everything on that channel at once, whatever a
workflow says. The words are those of 47 CFR 64.1200(a)(10); "stopall" is common practice among
carriers. A sentence that merely contains one ("I will stop by on Monday") does not count as one.
"""

import re

from bluffside.core.facts import Channel, Contact

OPT_OUT_WORDS = ("stop", "quit", "end", "revoke", "opt out", "cancel", "unsubscribe", "stopall")
CHANNEL_NAMES: dict[Channel, str] = {"email": "email", "text": "texts"}


def plain(words: str) -> str:
    """Lower case, punctuation and doubled spaces gone: how answers and words are compared."""
    return " ".join(re.sub(r"[^\w\s]", " ", words.casefold()).split())


def is_opt_out(text: str) -> bool:
    """Whether a reply, taken as a whole, revokes consent ("STOP", "Stop please", "opt-out")."""
    said = plain(text)
    return said.removesuffix(" please").removeprefix("please ") in OPT_OUT_WORDS


def why_closed(contact: Contact, channel: Channel) -> str:
    """Why this channel cannot reach the contact, in words; empty when it can."""
    if channel in contact.opted_out:
        return f"opted out of {CHANNEL_NAMES[channel]}"
    if not contact.address(channel):
        return "no mobile number" if channel == "text" else "no email address"
    return ""
