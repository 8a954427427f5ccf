"""An old list woken up in the demo: the booking assistant talks with ten people, and what comes of it is of every sort."""

from collections.abc import Callable
from datetime import datetime, time, timedelta
from functools import partial
from pathlib import Path

from bluffside.core.assistant.script import AssistantScript, KnownAnswer
from bluffside.core.timing.local import at_time, to_local
from bluffside.core.workflow.files import read_workflow
from bluffside.server.demo.bookings import TASTER
from bluffside.server.events.stream import Cause
from bluffside.server.outside.services import say
from bluffside.server.people.models import Contact
from bluffside.server.people.services import add_contact, add_tags, set_consent
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account, Person
from bluffside.server.workflows import intakes, writing

At = Callable[[datetime, Callable[[], object]], None]
TEN, LAST = time(10), timedelta(minutes=9)
FILE = Path(__file__).parent / "workflows" / "tern-old-sign-ups.yaml"
SCRIPT = AssistantScript(
    opening="Is sailing still on your mind? Yes or no is plenty.",
    questions=("Good to hear. Have you sailed before, and how many of you would come?",),
    confirms="At the Old Slip; bring old trainers and a change of clothes.",
    declined="No problem, and fair winds.",
    put_off="No hurry. Write here whenever it suits you.",
    handed_over="I will have Mel answer you.",
    who="This is the assistant of Tern Harbour Sailing, which finds times; Mel reads along.",
    answers=(
        KnownAnswer(about="price", says="A taster sail is £38 for one."),
        KnownAnswer(about="where", says="We are at the Old Slip, Tern Harbour; park behind the chandlery."),
        KnownAnswer(about="long", says="It takes an hour."),
        KnownAnswer(about="bring", says="Old trainers and a change of clothes; we have jackets."),
        KnownAnswer(words=("dog", "dogs"), says="Dogs are welcome ashore."),
    ),
    never=("refund", "insurance"),
)
# Who, how many days before the end they are asked at ten, and what they write so many minutes later (none: in the last minutes).
TALKS: list[tuple[str, int, list[tuple[int | None, str]]]] = [
    ("Farid Ostler", 3, [(40, "Yes but I cant do weekdays"), (55, "Once on holiday. two of us"), (90, "the second one")]),
    ("Celia Dray", 4, [(30, "yes please"), (41, "never, just me"), (47, "how much is it?"), (52, "the last one"),
                       (60, "can we make it a day later instead"), (66, "the first one")]),
    ("Nell Wyvern", 3, [(65, "yep"), (70, "yes, me and my sister"), (76, "the last one"), (500, "sorry, please cancel my booking")]),
    ("Osric Pane", 2, [(18, "no thanks")]),
    ("Tilda Roke", 2, [(240, "maybe in the summer")]),
    ("Hale Merrin", 2, [(12, "yes"), (20, "yes, years ago"), (26, "do you run courses for deaf sailors?")]),
    ("Bettany Coyle", 2, [(33, "depends"), (45, "either")]),
    ("Jory Pask", 1, [(5, "stop")]),
    ("Una Leddy", 5, []),
    ("Marlow Finch", 1, [(20, "Yes, is it still going?"), (28, "a bit, as a child. 2"), (None, "after 3 on the saturday? or is that too late")]),
]  # fmt: skip
NUMBERS = {f"+447700900{310 + number}": name for number, (name, _, _) in enumerate(TALKS)}


def live(account: Account, consultant: Person, at: At, end: datetime) -> None:
    at(end - timedelta(days=6), partial(_set_up, account, consultant))
    for (name, days, said), mobile in zip(TALKS, NUMBERS, strict=True):
        asked = at_time(to_local(end, account.zone).date() - timedelta(days=days), TEN, account.zone)
        at(asked, partial(_ask, account, consultant, name, mobile))
        for minutes, words in said:
            when = end - LAST if minutes is None else asked + timedelta(minutes=minutes)
            at(when, partial(_says, account, mobile, words))


def _set_up(account: Account, consultant: Person) -> None:
    account.refresh_from_db()
    account.assistant = SCRIPT.model_dump(mode="json", exclude_defaults=True)
    account.save(update_fields=["assistant"])
    document = read_workflow(FILE.read_text(encoding="utf-8"))
    made = writing.create(account, document, consultant)
    writing.publish(made, made.revision, consultant)
    writing.set_colour(made, "kelp")
    assert account.appointment_types.filter(name=TASTER).exists()


def _ask(account: Account, consultant: Person, name: str, mobile: str) -> None:
    first, last = name.split()
    contact = add_contact(account, {"first_name": first, "last_name": last, "mobile": mobile})
    set_consent(account, [contact.pk], "text", True, "signed up on last summer's open day")
    add_tags(account, [(contact.pk, "old list", Cause(actor=consultant))])
    workflow = account.workflows.select_related("account", "published").get(name="Old sign-ups, woken up")
    intakes.start(workflow, [contact.pk], consultant, clock.now())


def _says(account: Account, mobile: str, words: str) -> None:
    say(Contact.objects.get(account=account, mobile=mobile), "text", words)
