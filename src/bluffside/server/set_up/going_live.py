"""Going live: what an account still misses, and whether that keeps it from sending."""

from typing import NamedTuple

from bluffside.core.steps.speaking import Speaking
from bluffside.core.terms import Channel
from bluffside.core.workflow.document import walk
from bluffside.server.people.queries import account_facts
from bluffside.server.practice.models import Account
from bluffside.server.set_up.depending import Published


class Missing(NamedTuple):
    """`page`: where it is set, by the name of its address in the web application. `needed`: without it, it cannot go live."""

    words: str
    page: str
    needed: bool


def missing(account: Account, workflows: Published) -> list[Missing]:
    """What is needed first."""
    channels: set[Channel] = {
        channel
        for document in workflows.values()
        for step in walk(document.steps)
        if isinstance(step, Speaking)
        for channel in step.versions()
    }
    care = account_facts(account).care
    looked_at = [
        ("email" in channels and not account.sender_email, "Workflows send emails, and no address is set and confirmed that they come from.", "senders", True),
        ("email" in channels and not account.postal_address, "Commercial email needs a postal address.", "set-up", True),
        ("text" in channels and not account.text_number, "Workflows send texts, and no number is set that they come from.", "senders", True),
        (not workflows, "No workflow is published yet.", "workflows", False),
        (not any(care.opening.days.values()), "No opening hours are set: calls and to-dos fall due at any hour.", "hours", False),
        ("text" in channels and not care.quiet, "No quiet hours are set: texts go out at any hour their workflow sends.", "hours", False),
        (not care.policy, "Nobody has said whether people are written to before they agree.", "consent", False),
        (not account.signature, "Messages have no signature.", "set-up", False),
    ]  # fmt: skip
    return [Missing(words, page, needed) for is_so, words, page, needed in looked_at if is_so]
