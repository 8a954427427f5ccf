"""The closing: the line under a message by which whoever gets it reaches their own page and decides what they hear.

A voicemail has none, since nobody can press what is spoken; who answers "help" by text is given the page's address. A
message that names the page in its own words (a merge field) needs no second mention.
"""

from collections.abc import Mapping

from bluffside.core.care.house import InTexts
from bluffside.core.facts import Facts
from bluffside.core.terms import Channel

WHAT_YOU_HEAR = "What you hear from us, and how"
_LINES: Mapping[Channel, str] = {
    # Short, and in the texting alphabet: each letter counts towards the parts of a text.
    "text": "\nYour choices: {}",
    "social": f"\n{WHAT_YOU_HEAR}: {{}}",
    "push": "\nYour choices: {}",
    "letter": f"\n\n{WHAT_YOU_HEAR}: {{}}",
    "email": f"\n{WHAT_YOU_HEAR}: {{}}",
}


def closing(channel: Channel, body: str, page: str, in_texts: InTexts = "every", by_hand: bool = False) -> str:
    """What is put under a body; empty where nothing is. `page` is the address of the contact's own page, `by_hand`
    whether a person wrote the message to this one contact."""
    if not page or page in body or channel not in _LINES:
        return ""
    if channel == "text" and (in_texts == "named" or (in_texts == "automatic" and by_hand)):
        return ""
    return _LINES[channel].format(page)


def closing_for(facts: Facts, channel: Channel, body: str) -> str:
    """The same for a message that goes out to somebody by itself."""
    return closing(channel, body, facts.contact.preferences_link, facts.account.care.own_page_in_texts)
