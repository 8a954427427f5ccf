"""What the booking assistant of an account says; and a conversation with it, of which nothing is kept."""

from ninja import Path, Router, Schema
from pydantic import Field

from bluffside.core.assistant.script import AssistantScript
from bluffside.core.assistant.talking import Talk, free_among, hear, in_words
from bluffside.core.steps.booking_assistant import BookingAssistant
from bluffside.core.timing.local import to_local
from bluffside.core.workflow.document import Workflow as Document
from bluffside.core.workflow.document import walk
from bluffside.server.people.queries import account_facts
from bluffside.server.practice import audit, clock
from bluffside.server.practice.access import AccountRequest, InAccount, require
from bluffside.server.set_up import depending
from bluffside.server.set_up.api import NamedOut, named

router = Router(tags=["set-up"], auth=InAccount())
MOST_SAID = 20
WORDS = {
    "opening": "what it asks again", "questions": "what it asks before it offers times", "pause": "seconds before it answers",
    "offers": "how often it offers times", "at_once": "how many times it offers at once", "confirms": "what it adds to a booking",
    "declined": "what it says to a no", "put_off": "what it says to who is not ready", "handed_over": "what it says before a person goes on",
    "who": "who it says it is", "answers": "its answers to questions", "never": "what it never answers",
}  # fmt: skip


class AssistantOut(Schema):
    """`workflows`: those that have it talk with people."""

    script: AssistantScript
    workflows: list[NamedOut]


class TriedIn(Schema):
    """What somebody would write, one message after the other."""

    said: list[str] = Field(max_length=MOST_SAID)
    script: AssistantScript


class TriedWordsOut(Schema):
    """`understood` of what they `said`; what it `says` to that, empty for nothing; what it `books` in words; `person`: why one goes on."""

    said: str
    understood: str
    says: str
    books: str
    person: str


def _out(request: AccountRequest) -> AssistantOut:
    published = depending.published(request.account)
    ones = depending.those(published, _talks)
    return AssistantOut(script=account_facts(request.account).assistant, workflows=[*map(named, ones)])


def _talks(document: Document) -> bool:
    return any(isinstance(step, BookingAssistant) for step in walk(document.steps))


@router.get("set-up/assistant", response=AssistantOut)
def get_assistant(request: AccountRequest, account: Path[str]) -> AssistantOut:
    require(request, "set-up")
    return _out(request)


@router.put("set-up/assistant", response=AssistantOut)
def put_assistant(request: AccountRequest, account: Path[str], given: AssistantScript) -> AssistantOut:
    """What it says from now on, also in conversations that have begun."""
    require(request, "set-up")
    before = account_facts(request.account).assistant
    own = request.account
    own.assistant = given.model_dump(mode="json", exclude_defaults=True)
    own.save(update_fields=["assistant"])
    changed = [name for name in WORDS if getattr(before, name) != getattr(given, name)]
    noted = [
        audit.Noted(f"the booking assistant: {WORDS[name]}", _said(getattr(before, name)), _said(getattr(given, name)))
        for name in changed
    ]
    audit.note(own, request.person, "appointments", noted)
    return _out(request)


def _said(value: object) -> str:
    if isinstance(value, tuple):
        return "; ".join(getattr(one, "says", str(one)) for one in value)[:1_000]
    return str(value)[:1_000]


@router.post("set-up/assistant/try", response=list[TriedWordsOut])
def try_assistant(request: AccountRequest, account: Path[str], given: TriedIn) -> list[TriedWordsOut]:
    """A conversation from its beginning, by a script that need not be kept yet; the times are those of an empty diary, and nothing is booked
    or sent."""
    require(request, "set-up")
    facts, now = account_facts(request.account), clock.now()
    local = to_local(now, facts.zone)
    times = [to_local(one.start, facts.zone) for one in facts.free_times("", now)]
    talk, said = Talk(), []
    for text in given.said:
        step = hear(talk, text[:1_000], local, free_among(times), given.script)
        talk = step.talk
        booked = in_words(step.books) if step.books else ""
        said.append(
            TriedWordsOut(said=text, understood=talk.understood, says=step.says, books=booked, person=step.person)
        )
    return said
