"""Rules for what comes in by text and email: which words do what.

Rules are asked in their order, and the first that fits acts. Words are compared as answers are everywhere: whatever
their case and punctuation. Opting out is no rule: words for it act before any rule is asked (messaging.services).

A rule acts when the reply is handed on, once, in the order in which replies came.
"""

import re
from collections.abc import Sequence
from contextlib import suppress
from datetime import timedelta
from typing import Literal

from django.db.models import F
from ninja import Schema
from pydantic import Field

from bluffside.core.care.house import Care
from bluffside.core.channels.answers import keyword, meant
from bluffside.core.channels.consent import why_closed
from bluffside.core.channels.keywords import plain
from bluffside.core.facts import TwoWay
from bluffside.core.messages.merge import BadTemplate, render
from bluffside.server.capture.models import IncomingRule
from bluffside.server.events.stream import Cause, Recorded
from bluffside.server.messaging.correspondence import answered_by
from bluffside.server.messaging.outbox import Draft, queue
from bluffside.server.messaging.strangers import Written
from bluffside.server.people.models import Contact
from bluffside.server.people.queries import account_facts, load_contacts
from bluffside.server.people.services import set_responsible, sort_in
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account, Person
from bluffside.server.workflows import enrolling
from bluffside.server.workflows.models import Workflow

Match = Literal["is", "begins", "contains"]


class Acts(Schema):
    """What is done; empty things are not. `answer` is sent `after` so many minutes by the channel they wrote on."""

    tags: list[str] = Field(default=[], max_length=10)
    tags_off: list[str] = Field(default=[], max_length=10)
    lists: list[str] = Field(default=[], max_length=10)
    lists_off: list[str] = Field(default=[], max_length=10)
    assign: str = Field(default="", max_length=120)
    workflow: int = 0
    answer: str = Field(default="", max_length=1_000)
    after: int = Field(default=0, ge=0, le=7 * 24 * 60)

    def words(self, workflow: str = "") -> str:
        """What is done, as a sentence."""
        said = [f"tags “{name}”" for name in self.tags] + [f"takes “{name}” off" for name in self.tags_off]
        said += [f"puts on the list “{name}”" for name in self.lists] + [
            f"takes off the list “{name}”" for name in self.lists_off
        ]
        if self.assign:
            said.append(f"gives them to {self.assign}")
        if self.workflow:
            said.append(f"enrols in “{workflow}”")
        if self.answer:
            said.append(f"answers{f' after {self.after} minutes' if self.after else ' at once'}")
        return ", ".join(said) or "does nothing yet"


def fits(match: str, words: Sequence[str], text: str) -> bool:
    """Whether a text fits: it is one of the words, begins with one, or contains one as whole words."""
    said = plain(text)
    for word in filter(None, map(plain, words)):
        pattern = {
            "is": f"^{re.escape(word)}$",
            "begins": rf"^{re.escape(word)}\b",
            "contains": rf"\b{re.escape(word)}\b",
        }
        if re.search(pattern[match], said):
            return True
    return False


def first_that_fits(
    rules: Sequence[IncomingRule], care: Care, channel: str, text: str, subject: str = ""
) -> IncomingRule | None:
    """The rule that would act, of those that are switched on; None also for words that opt out or in. An email fits by its
    words or its subject."""
    if keyword(meant(text, care)) in ("out", "in"):
        return None
    said = [one for one in (text, subject) if one]
    return next(
        (
            one
            for one in rules
            if one.on and channel in one.channels and any(fits(one.match, one.words, words) for words in said)
        ),
        None,
    )


def wants(account: Account, mail: Written) -> bool:
    """Whether a rule fits what somebody unknown wrote by email: then they come in, and the rule acts."""
    return first_that_fits(rules_of(account), care_of(account), "email", mail.text, mail.subject) is not None


def overlaps(rules: Sequence[IncomingRule], care: Care) -> dict[int, str]:
    """For each rule that can be hidden by one before it: why, in words, by its id."""
    found: dict[int, str] = {}
    for number, one in enumerate(rules):
        for before in rules[:number]:
            if not before.on or not one.on or not set(before.channels) & set(one.channels):
                continue
            hidden = [word for word in one.words if fits(before.match, before.words, word)]
            if hidden and (before.match != "is" or one.match == "is"):
                position = rules.index(before) + 1
                found.setdefault(one.id, f"“{hidden[0]}” is taken by rule {position} before it")
        if hidden := [word for word in one.words if keyword(meant(word, care)) in ("out", "in")]:
            found[one.id] = f"“{hidden[0]}” opts out or in, before any rule is asked"
        elif hidden := [word for word in one.words if keyword(meant(word, care)) == "help"]:
            found.setdefault(one.id, f"“{hidden[0]}” is answered by itself, too, with who writes and how to stop")
    return found


def care_of(account: Account) -> Care:
    return account_facts(account).care


def rules_of(account: Account) -> list[IncomingRule]:
    return list(IncomingRule.objects.filter(account=account).order_by("position", "id"))


def act(account: Account, events: Sequence[Recorded]) -> None:
    """Hears replies, and does what the first fitting rule says."""
    replies = [one for one in events if one.kind == "reply.received" and one.contact_id]
    if not replies:
        return
    rules, care = rules_of(account), care_of(account)
    for event in replies:
        if rule := first_that_fits(
            rules, care, event.data["channel"], event.data["text"], event.data.get("subject", "")
        ):
            contact = Contact.objects.filter(account=account, id=event.contact_id or 0).first()
            if contact:
                _do(account, rule, contact, event)
                IncomingRule.objects.filter(id=rule.id).update(fitted=F("fitted") + 1, last_at=clock.now())


def _do(account: Account, rule: IncomingRule, contact: Contact, event: Recorded) -> None:
    acts, cause = Acts.model_validate(rule.acts), Cause(depth=event.depth + 1)
    sort_in(account, contact.id, cause, acts.tags, acts.lists, acts.tags_off, acts.lists_off)
    if acts.assign and (member := Person.objects.filter(practice=account.practice_id, name=acts.assign).first()):
        set_responsible(account, [contact.id], member, cause)
    if acts.workflow and (
        workflow := Workflow.objects.filter(account=account, id=acts.workflow, archived_at=None).first()
    ):
        with suppress(enrolling.CannotEnrol):  # closed, or not published: nobody comes in, as by any other way
            enrolling.enrol(workflow, [contact.id], f"wrote “{event.data['text'][:60]}”", cause)
    if acts.answer:
        _answer(account, acts, contact, event)


def _answer(account: Account, acts: Acts, contact: Contact, event: Recorded) -> None:
    facts = load_contacts(account, [contact.id])[contact.id]
    channel: TwoWay = event.data["channel"]
    if why_closed(facts.contact, channel, "service", facts.account.care, clock.now()):
        return
    try:
        body = render(acts.answer, facts)
    except BadTemplate:
        return
    subject = f"From {account.name}" if channel == "email" else ""
    draft = Draft(
        contact.id, f"answer:{event.id}", channel, "service", facts.contact.address(channel), body,
        name="Answer to what they wrote", subject=subject,
    )  # fmt: skip
    queue(account, [draft], later=timedelta(minutes=acts.after))
    answered_by(account, "rule", [event.data.get("reply", 0)])
