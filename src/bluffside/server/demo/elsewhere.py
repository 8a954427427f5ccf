"""What stands around the people of the demo's other accounts, which the consultant has had for less long: for each a
brand, fields, a list, a segment, a form with answers, a word that comes in; leads for the workshop. As `ways_in`, all of it
through the services that people use."""

from dataclasses import dataclass, field
from datetime import timedelta
from functools import partial
from typing import Any

from bluffside.server.capture import forms, leads
from bluffside.server.capture.design import Asked, FormDesign, Question
from bluffside.server.capture.incoming import Acts
from bluffside.server.capture.models import Form, IncomingRule
from bluffside.server.demo.ways_in import At
from bluffside.server.events.stream import listen
from bluffside.server.messaging.services import take_reply
from bluffside.server.outside.services import advert
from bluffside.server.people.models import Contact
from bluffside.server.people.sorting import keep_field, keep_list
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account, Person
from bluffside.server.segments.models import Segment

NAME = Question(id="q1", label="Your name", fills="full_name", required=True)
EMAIL = Question(id="q2", label="Your email", fills="email", kind="email", required=True)
LEVELS = ["Never", "Some", "A lot"]
PLACES = ["Back", "Knee", "Neck", "Shoulder"]


@dataclass(frozen=True)
class Ways:
    """`fields`: name, kind and choices; `offered`: a list, and as what it is offered; `word`: what is texted, and what it
    does; `texted`: numbers that nobody knew; `sent`: answers to the form, hours before the end; `leads`: of which source."""

    colour: str
    line: str
    fields: list[tuple[str, str, list[str]]]
    offered: tuple[str, str]
    segment: tuple[str, dict[str, Any]]
    form: tuple[str, FormDesign]
    word: tuple[str, Acts]
    for_team: bool = False
    texted: list[str] = field(default_factory=list)
    sent: list[tuple[int, dict[str, list[str]]]] = field(default_factory=list)
    leads: tuple[str, list[tuple[int, str, str, str, str]]] = ("", [])


WAYS = {
    "slipware-lane": Ways(
        "#7a3e2b", "Wheels, clay and a kiln that is seldom cold",
        fields=[("At the wheel", "choice", LEVELS)],
        offered=("studio evenings", "Evenings at the studio"),
        segment=("New to the wheel", {"test": "field", "field": "At the wheel", "compare": "is", "value": "Never"}),
        form=("Ask about a class", FormDesign(
            title="Ask about a class", intro="Six evenings, or one long Saturday. Tell us what you have in mind.",
            questions=[NAME, EMAIL, Question(id="q3", label="Have you been at the wheel before?", fills="field:At the wheel",
                                             kind="choice", choices=LEVELS),
                       Question(id="q4", label="What would you like to make?", kind="long")],
            consent=[Asked(channel="email", words="Slipware Lane may write to me about classes.")],
            button="Ask", thanks="Thank you. We answer by tomorrow.", tags=["asked about a class"],
        )),
        word=("CLAY", Acts(tags=["window poster"], answer="The next evening with a free wheel is Thursday at six. {{ account.name }}")),
        texted=["+12025550171", "+12025550172"],
        sent=[(70, {"q1": ["Ottilie Brand"], "q2": ["ottilie.brand@example.com"], "q3": ["Never"], "q4": ["Bowls, large ones"], "consent-0": ["yes"]}),
              (21, {"q1": ["Rex Amory"], "q2": ["rex.amory@example.com"], "q3": ["Some"], "q4": ["A jug that pours"]})],
    ),
    "huon-street": Ways(
        "#2f5d50", "Physiotherapy, by the park",
        fields=[("Treated for", "choice", PLACES)],
        offered=("exercises by email", "An exercise a month"),
        segment=("Still sore", {"test": "tag", "tag": "still sore"}),
        form=("At the last visit", FormDesign(
            title="At the last visit", questions=[
                Question(id="q1", label="What was treated?", fills="field:Treated for", kind="choice", choices=PLACES, required=True),
                Question(id="q2", label="How is it now?", kind="choice", choices=["Well", "Better", "As before"]),
                Question(id="q3", label="What to watch for", kind="long")],
            button="Keep", thanks="Kept.",
        )),
        word=("sore", Acts(tags=["still sore"], assign="Tam Okoro")),
        for_team=True,
        sent=[(60, {"q1": ["Knee"], "q2": ["Better"], "q3": ["Stairs"]}), (12, {"q1": ["Neck"], "q2": ["Well"], "q3": [""]})],
    ),
    "two-brakes": Ways(
        "#8a3d12", "Repairs while you wait, if you wait a day",
        fields=[("Bicycle", "text", []), ("Last service", "date", [])],
        offered=("group rides", "Sunday rides"),
        segment=("Served, came back", {"test": "count", "activity": "reply", "compare": "at_least", "number": 1, "within": "30 days"}),
        form=("Book a repair", FormDesign(
            title="What is wrong with it?", questions=[
                NAME, EMAIL, Question(id="q3", label="Which bicycle is it?", fills="field:Bicycle"),
                Question(id="q4", label="What does it do, or no longer do?", kind="long", required=True)],
            button="Send it in", thanks="Got it. We ring you before we take anything apart.", tags=["repair"],
        )),
        word=("RIDE", Acts(lists=["group rides"], answer="Sunday at nine, from the shop door. Bring a tube. {{ account.name }}")),
        texted=["+13035550171"],
        sent=[(33, {"q1": ["Cosmo Vail"], "q2": ["cosmo.vail@example.com"], "q3": ["the green tourer"], "q4": ["It creaks uphill"]})],
        leads=("Route planner", [(40, "Petra Lund", "petra.lund@example.com", "(303) 555-0172", "A service before summer"),
                                 (10, "Abe Norwood", "", "(303) 555-0173", "New brake pads")]),
    ),
}  # fmt: skip


def live(account: Account, consultant: Person, at: At) -> None:
    """Sets things up now, and plans what comes in on the last days."""
    ways = WAYS[account.slug]
    account.brand_colour, account.brand_line = ways.colour, ways.line
    account.save(update_fields=["brand_colour", "brand_line"])
    for name, kind, choices in ways.fields:
        keep_field(account, name, kind, choices, consultant)
    name, offered_as = ways.offered
    keep_list(account, name, "", True, offered_as, consultant)
    name, condition = ways.segment
    Segment.objects.create(account=account, name=name, condition=condition, by=consultant, made_at=clock.now())
    form = forms.make(account, ways.form[0], ways.for_team, ways.form[1])
    for hours, answers in ways.sent:
        at(timedelta(hours=hours), partial(_fill_in, form, answers))
    word, acts = ways.word
    match = "is" if word.isupper() else "contains"
    IncomingRule.objects.create(
        account=account, position=1, channels=["text"], match=match, words=[word], acts=acts.model_dump()
    )
    listen(account, ["reply.received"])
    for n, number in enumerate(ways.texted):
        at(timedelta(hours=30 - 9 * n), partial(take_reply, account, "text", number, word, f"demo:{account.slug}:{n}"))
    if ways.leads[0]:
        source = leads.make(account, ways.leads[0])
        for hours, *lead in ways.leads[1]:
            at(timedelta(hours=hours), partial(advert, source, *lead))


def _fill_in(form: Form, answers: dict[str, list[str]]) -> None:
    """A visitor does; or the team, about the one who came last."""
    if not form.for_team:
        forms.send(form, answers, {"source": "window"}, forms.stamp(form, 40), answers["q2"][0])
        return
    contact = Contact.objects.filter(account=form.account).order_by("-id").first()
    if contact and form.account.responsible:
        forms.fill_in(form, contact, answers, form.account.responsible)
