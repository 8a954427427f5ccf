"""What stands around the people of the sailing school in the demo: fields, lists, segments, a form with answers, words
that come in, an advert's leads, an old list brought in. All through the services that people use."""

import random
from collections.abc import Callable
from datetime import timedelta
from functools import partial

from bluffside.server.capture import forms, leads
from bluffside.server.capture.design import Asked, FormDesign, Question
from bluffside.server.capture.incoming import Acts
from bluffside.server.capture.models import Form, IncomingRule, LeadSource
from bluffside.server.events.stream import listen
from bluffside.server.messaging.services import take_reply
from bluffside.server.outside.services import advert, say_as_stranger
from bluffside.server.people import imports
from bluffside.server.people.import_columns import Settings
from bluffside.server.people.models import Contact, Tag
from bluffside.server.people.services import set_fields, set_list
from bluffside.server.people.sorting import keep_field, keep_list
from bluffside.server.practice import clock, connections
from bluffside.server.practice.models import Account, Person
from bluffside.server.segments.models import Segment

At = Callable[[timedelta, Callable[[], object]], None]  # so long before the demo's end

BOATS = ["Dinghy", "Keelboat", "Kayak"]
# One is let in by the rule about the weather; the other waits for somebody to decide.
STRANGERS = [
    (8, "ivy.marl@example.com", "Ivy Marl", "Is Sunday off if the weather turns? We come a long way."),
    (6, "gus.ferrier@example.com", "Gus Ferrier", "Do you have a berth for a keelboat of seven metres, from May on?"),
]
VISITORS = [
    ("Orla Penrose", "orla.penrose@example.com", ["Dinghy"], "My daughter is nine, is that too young?", "flyer"),
    ("Tobias Wray", "tobias.wray@example.com", ["Keelboat", "Dinghy"], "", "newsletter"),
    ("Ines Calder", "ines.calder@example.com", ["Kayak"], "I get seasick easily", "flyer"),
]
OLD_LIST = """Name;E-mail;Phone;Date of birth;Boat;Unsubscribed
Mabel Strand;mabel.strand@example.com;07700 900601;14/03/1979;Dinghy;
"Quill, Rufus";rufus.quill@example.com;07700 900602;31/02/1984;Keelboat;
Sanna Holt;sanna.holt@example.com;not known;;Kayak;yes
Piet Larkin;piet.larkin@example.com;07700 900603;2/11/1991;Rowing boat;
Edda Moss;edda.moss@example.com;07700 900604;25/12/1968;Dinghy;yes
Mabel Strand;mabel.strand@example.com;;;;
"""


def live(account: Account, consultant: Person, at: At, chance: random.Random) -> None:
    """Sets things up now, and plans what comes in on the last days."""
    account.brand_colour, account.brand_line = "#1d4e5f", "Courses and boats at the old slip"
    account.save(update_fields=["brand_colour", "brand_line"])
    keep_field(account, "Boat", "choice", BOATS, consultant)
    keep_field(account, "Date of birth", "date", [], consultant)
    keep_field(account, "Would sail", "choices", BOATS, consultant)
    keep_list(account, "race days", "Wants dates and results of races", True, "Race days and results", consultant)
    keep_list(account, "courses", "Wants to hear of new courses", True, "New courses, before they are full", consultant)
    _segments(account, consultant)
    form = _form(account)
    _rules(account)
    source = leads.make(account, "Spring advert")
    connections.expect(account, "source", source.name, 2, consultant)
    for hours, visitor in zip((52, 31, 5), VISITORS, strict=True):
        at(timedelta(hours=hours), partial(_visit, form, visitor))
    at(timedelta(hours=20), partial(_spam, form))
    at(timedelta(hours=44), partial(_old_list, account, consultant))
    at(timedelta(hours=28), partial(take_reply, account, "text", "+447700900621", "Sail!", "demo:poster:1"))
    at(timedelta(hours=3), partial(take_reply, account, "text", "+447700900622", "SAIL", "demo:poster:2"))
    for hours, address, name, text in STRANGERS:
        at(timedelta(hours=hours), partial(say_as_stranger, account, "email", address, name, text))
    at(
        timedelta(hours=26),
        partial(advert, source, "nell frost", "nell.frost@example.com", "07700 900631", "A weekend course"),
    )
    at(timedelta(hours=25), partial(_match, source))
    at(timedelta(hours=24), partial(advert, source, "Arlo Dane", "arlo.dane@example.com", "", "Evenings"))
    at(timedelta(hours=9), partial(advert, source, "Somebody", "", "", "Ring me"))
    at(
        timedelta(hours=7),
        partial(advert, source, "Mabel Strand", "m.strand@example.org", "07700 900640", "A weekend course"),
    )
    at(timedelta(hours=2), partial(_know_more, account, chance))


def _segments(account: Account, by: Person) -> None:
    tag = {"test": "tag", "tag": "taster day"}
    for name, condition in {
        "Keen, nothing booked": {"test": "all", "of": [tag, {"test": "message", "did": "answered", "within": "30 days"},
                                                       {"test": "appointment", "has": False}]},
        "Silent for a month": {"test": "all", "of": [{"test": "count", "activity": "message", "compare": "at_least", "number": 2,
                                                      "within": "30 days"}, {"test": "count", "activity": "reply", "compare": "exactly",
                                                                             "number": 0, "within": "30 days"}]},
        "Open, and not rung in this stage": {"test": "deal", "state": "open", "done": {"compare": "fewer_than", "number": 1, "activity": "call"}},
        "Can be texted": {"test": "reach", "channel": "text", "purpose": "marketing"},
    }.items():  # fmt: skip
        Segment.objects.create(account=account, name=name, condition=condition, by=by, made_at=clock.now())


def _form(account: Account) -> Form:
    form = forms.make(account, "Open day")
    design = FormDesign(
        title="Come to the open day",
        intro="Boats on the water from ten to four. Tell us who you are, and we keep a place for you.",
        questions=[
            Question(id="q1", label="Your name", fills="full_name", required=True),
            Question(id="q2", label="Your email", fills="email", kind="email", required=True),
            Question(id="q3", label="Your mobile number", fills="mobile", kind="phone", help="Only to tell you should the weather turn"),
            Question(id="q4", label="What would you like to sail?", fills="field:Would sail", kind="choices", choices=BOATS),
            Question(id="q5", label="Anything we should know?", kind="long"),
        ],
        consent=[Asked(channel="email", words=forms.suggested_words(account, "email"))],
        button="Keep me a place",
        thanks="Thank you, we have kept you a place. See you at the slip.",
        tags=["open day"],
        lists=["courses"],
    )  # fmt: skip
    forms.change(form, design, True)
    after = forms.make(account, "After the trial sail", for_team=True)
    questions = [
        Question(
            id="q1", label="How did it go?", kind="choice", choices=["Very well", "Well", "Not for them"], required=True
        ),
        Question(id="q2", label="Which boat would suit them?", fills="field:Boat", kind="choice", choices=BOATS),
        Question(id="q3", label="What did they say?", kind="long"),
    ]
    forms.change(after, FormDesign(title=after.name, questions=questions, button="Keep", thanks="Kept."), True)
    return form


def _rules(account: Account) -> None:
    answer = "Welcome aboard! The open day is on Sunday from ten. Bring warm things. {{ account.name }}"
    acts = [
        (["text"], "is", ["SAIL", "sailing"], Acts(tags=["poster"], lists=["courses"], answer=answer)),
        (
            ["text", "email"],
            "contains",
            ["weather", "cancelled"],
            Acts(assign="Mel Rowan", answer="We watch the wind, and ring you by noon if it is off.", after=2),
        ),
    ]
    for position, (channels, match, words, do) in enumerate(acts, start=1):
        IncomingRule.objects.create(
            account=account, position=position, channels=channels, match=match, words=words, acts=do.model_dump()
        )
    listen(account, ["reply.received"])
    tags = {
        "taster day": "Signed up for a taster day",
        "poster": "Texted the word on the poster",
        "open day": "Sent the form of the open day",
    }
    for name, about in tags.items():
        Tag.objects.update_or_create(account=account, name=name, defaults={"about": about})


def _visit(form: Form, visitor: tuple[str, str, list[str], str, str]) -> None:
    name, email, boats, said, source = visitor
    given = {"q1": [name], "q2": [email], "q4": boats, "q5": [said], "consent-0": ["yes"]}
    forms.send(form, given, {"source": source, "campaign": "open day"}, forms.stamp(form, 40), email)


def _spam(form: Form) -> None:
    given = {
        "q1": ["Best Deals"],
        "q2": ["deals@example.net"],
        "q5": ["Cheap sails, click here"],
        forms.HONEYPOT: ["x"],
    }
    forms.send(form, given, {}, forms.stamp(form, 40), "a program")


def _match(source: LeadSource) -> None:
    """Somebody points at the fields of the first lead, and what waits is tried again."""
    source.refresh_from_db()
    matching = leads.Matching(
        fields=[
            leads.Pointed(path="person.full name", fills="full_name", how="capitals"),
            leads.Pointed(path="person.email", fills="email"),
            leads.Pointed(path="person.phone", fills="mobile"),
        ],
        tags=["advert"], consent="email", consent_evidence="the box on the advert’s form",
    )  # fmt: skip
    source.matching = matching.model_dump()
    source.save(update_fields=["matching"])
    leads.replay(source)


def _old_list(account: Account, by: Person) -> None:
    imported = imports.read_file(account, by, "members of the old club.csv", OLD_LIST.encode("cp1252"))
    imports.start(imported, Settings(**(imported.settings | {
        "tags": ["old club"], "consent_channels": ["email"], "consent_evidence": "membership form of the old club, 2021",
        "consent_wording": "The club and its school may write to me.",
    })))  # fmt: skip
    while imports.import_chunk(account):
        pass


def _know_more(account: Account, chance: random.Random) -> None:
    """What the team has noted of some, and who asked for what."""
    some = list(Contact.objects.filter(account=account).order_by("id")[:24])
    for contact in some:
        if chance.random() < 0.6:
            set_fields(contact, {"Boat": chance.choice(BOATS)})
    set_list(account, [one.id for one in some[::3]], "race days", True)
