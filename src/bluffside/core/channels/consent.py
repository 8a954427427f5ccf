"""Whether a channel is open to a contact for a purpose, and if not why, in words.

Every message is decided by this: by the step that would send it, and again when it is handed over.
"""

from datetime import datetime

from bluffside.core.care.house import Care
from bluffside.core.facts import Contact
from bluffside.core.terms import CHANNEL_KINDS, SEVERAL, Channel, Purpose


def why_closed(
    contact: Contact,
    channel: Channel,
    purpose: Purpose = "marketing",
    care: Care = Care(),  # noqa: B008  # frozen
    now: datetime | None = None,
) -> str:
    """Why this channel cannot be used at an instant; empty when it can. What forbids it comes before what prevents it. Consent
    that has run out counts where people are written to only after they agreed."""
    policy = care.policy_for(purpose)
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
        since = care.agreed_since(now) if now and policy == "ask_first" else None
        if since and said and said.at and said.at < since:
            return f"agreed to {SEVERAL[channel]} for {purpose} longer ago than consent is good for here"
    if not contact.address(channel):
        return CHANNEL_KINDS[channel].no_address
    if channel in contact.exhausted:
        return f"the address for {SEVERAL[channel]} does not work"
    return ""
