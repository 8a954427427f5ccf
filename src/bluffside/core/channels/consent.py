"""Whether a channel is open to a contact for a purpose, and if not why, in words.

Every message is decided by this: by the step that would send it, and again when it is handed over.
"""

from bluffside.core.care.house import ConsentPolicy
from bluffside.core.facts import Contact
from bluffside.core.terms import CHANNEL_KINDS, SEVERAL, Channel, Purpose


def why_closed(
    contact: Contact,
    channel: Channel,
    purpose: Purpose = "marketing",
    policy: ConsentPolicy = "until_they_object",
) -> str:
    """Why this channel cannot be used; empty when it can. What forbids it comes before what prevents it."""
    if contact.do_not_contact:
        return "not to be contacted"
    if contact.consents or policy == "ask_first":
        said = contact.consent(channel, purpose)
        if said and said.state == "withdrawn":
            other = contact.consent(channel, "service" if purpose == "marketing" else "marketing")
            everything = other is not None and other.state == "withdrawn"
            return f"opted out of {SEVERAL[channel]}" + ("" if everything else f" for {purpose}")
        if policy == "ask_first" and not (said and said.state == "given"):
            return f"has not agreed to {SEVERAL[channel]} for {purpose}"
    if not contact.address(channel):
        return CHANNEL_KINDS[channel].no_address
    if channel in contact.exhausted:
        return f"the address for {SEVERAL[channel]} does not work"
    return ""
