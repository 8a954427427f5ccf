"""Answers to words that people text: stop, start, help."""

from bluffside.core.channels.answers import Keyword
from bluffside.core.facts import TwoWay
from bluffside.core.messages.closing import words_for
from bluffside.server.messaging.models import Reply
from bluffside.server.messaging.outbox import Draft, queue
from bluffside.server.people.models import Contact
from bluffside.server.people.queries import load_contacts


def is_out(contact: Contact, channel: TwoWay) -> bool:
    return channel in load_contacts(contact.account, [contact.id])[contact.id].contact.opted_out


def answer_word(contact: Contact, reply: Reply, word: Keyword) -> None:
    """One text to who texted a word. That they are out is confirmed once, within minutes and without more words than that
    (47 CFR 64.1200(a)(12), from memory), that they are in again likewise. Who asks for help, even after they opted out, is
    told who writes, how to reach them, how to stop, and where they can decide what they hear: common practice among
    carriers."""
    account = contact.account
    if word == "help":
        facts = load_contacts(account, [contact.id])[contact.id]
        care = facts.account.care
        who = ", ".join(part for part in (account.name, account.phone) if part)
        if own := care.help_says.strip(" ."):
            who = own if account.name.casefold() in own.casefold() else f"{account.name}: {own}"
        to_own = f"{words_for('letter', care)}: {facts.contact.preferences_link}"
        name, body = "Answer to “help”", f"{who}. {to_own} Answer STOP and no more texts come."
    elif word == "out":
        name, body = "They are out", f"{account.name}: no more texts come to you. Text START if you want them again."
    else:
        name, body = "They are in again", f"{account.name}: you get our texts again. Text STOP to end them."
    told = Draft(contact.id, f"word:{reply.id}", "text", "service", contact.mobile, body, name, answers_word=True)
    queue(account, [told])
