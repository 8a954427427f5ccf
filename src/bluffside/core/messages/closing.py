"""The closing: the line under a message by which whoever gets it reaches their own page and decides what they hear.

What is spoken can't be pressed: a voicemail says which word to text for it (who texts "help" is given the page's
address). A message that names the page in its own words (a merge field) needs no second mention.
"""

from bluffside.core.care.house import Care
from bluffside.core.facts import Facts
from bluffside.core.terms import CHANNEL_KINDS, Channel

WHAT_YOU_HEAR = "What you hear from us, and how"
SPOKEN = "To choose what you hear from us, text HELP to this number."
SHORTLY = "Your choices"  # where each letter counts


def words_for(channel: Channel, care: Care) -> str:
    """What stands before the address: the account's own words where it has any."""
    return care.own_page_words.strip(" :") or (SHORTLY if CHANNEL_KINDS[channel].short else WHAT_YOU_HEAR)


def closing(channel: Channel, body: str, page: str, care: Care, by_hand: bool = False) -> str:
    """What is put under a body; empty where nothing is. `page` is the address of the contact's own page, `by_hand`
    whether a person wrote the message to this one contact."""
    if not page or page in body:
        return ""
    kind = CHANNEL_KINDS[channel]
    if kind.reads == "heard":
        return f"\n\n{SPOKEN}"
    which = care.own_page_in_texts
    if channel == "text" and (which == "named" or (which == "automatic" and by_hand)):
        return ""
    gap = "\n\n" if kind.reads == "read" else "\n"
    return f"{gap}{words_for(channel, care)}: {page}"


def closing_for(facts: Facts, channel: Channel, body: str) -> str:
    """The same for a message that goes out to somebody by itself."""
    return closing(channel, body, facts.contact.preferences_link, facts.account.care)
