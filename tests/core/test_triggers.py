"""Triggers: what fits each kind, how it reads, who matches already; who may enter; and the index they are found by."""

from datetime import date, timedelta
from typing import Any

import pytest
from pydantic import TypeAdapter

from bluffside.core.conditions import Case
from bluffside.core.events import SUBJECTS, Event
from bluffside.core.facts import Appointment, Contact, Deal, Facts
from bluffside.core.scoring.sheet import Score
from bluffside.core.timing.local import to_local
from bluffside.core.triggers import TRIGGERS, AnyTrigger, Trigger
from bluffside.core.triggers.appointment_near import AppointmentNear
from bluffside.core.triggers.date_comes import DateComes
from bluffside.core.workflow.document import Entry
from bluffside.core.workflow.entering import Before, already_matching, started_by, why_not
from tests.core.examples import ADA, MONDAY, ask

reader: TypeAdapter[Trigger] = TypeAdapter(AnyTrigger)
CASE = Case(ADA, MONDAY)


def event(kind: str, by: str = "", **data: Any) -> Event:
    return Event(kind, MONDAY, data, by)


STAGE = {"deal": "d", "pipeline": "Courses", "stage": "Quoted", "old": "New"}
REPLY = {"channel": "text", "text": "hm", "message": "Hello"}

# kind: its data, how it reads, an event that fits, events that do not
KINDS: dict[str, tuple[dict[str, Any], str, Event | None, list[Event]]] = {
    "by_hand": ({}, "when someone is enrolled by hand", None, [event("contact.added")]),
    "contact_added": ({}, "when a contact is added", event("contact.added"), [event("tag.added", tag="a")]),
    "tag_added": ({"tags": ["a", "b"]}, "when someone is tagged a or b", event("tag.added", tag="b"),
                  [event("tag.added", tag="c"), event("tag.removed", tag="a")]),
    "tag_removed": ({"tags": ["a"]}, "when someone loses the tag a", event("tag.removed", tag="a"),
                    [event("tag.added", tag="a")]),
    "field_changed": ({"field": "size", "to": "Large"}, "when size changes to Large",
                      event("field.changed", field="size", old="", new="large"),
                      [event("field.changed", field="size", new="small"), event("field.changed", field="boat", new="large")]),
    "list_joined": ({"list": "regatta"}, "when someone joins the list regatta", event("list.joined", list="regatta"),
                    [event("list.joined", list="news"), event("list.left", list="regatta")]),
    "form_sent": ({"form": "Open day"}, "when someone sends the form Open day", event("form.sent", form="Open day"),
                  [event("form.sent", form="Contact us")]),
    "keyword_texted": ({"keyword": "Sail!"}, "when someone texts Sail!", event("keyword.texted", keyword="sail"),
                       [event("keyword.texted", keyword="sale")]),
    "replied": ({"channel": "text", "message": "Hello"}, "when they reply to “Hello” by text", event("reply.received", **REPLY),
                [event("reply.received", **REPLY | {"channel": "email"}), event("reply.received", **REPLY | {"message": "Bye"})]),
    "link_clicked": ({"message": "Regatta", "url": "/BOOK"}, "when they click /BOOK in Regatta",
                     event("link.clicked", message="Regatta", url="https://tern.example.com/book?x=1"),
                     [event("link.clicked", message="Regatta", url="https://tern.example.com/tides")]),
    "deal_rests": ({"pipeline": "Courses", "stage": "New"}, "when a deal on Courses rests too long in New",
                   event("deal.rested", deal="d", pipeline="Courses", stage="New"),
                   [event("deal.rested", deal="d", pipeline="Boats", stage="New"),
                    event("deal.rested", deal="d", pipeline="Courses", stage="Quoted")]),
    "stage_changed": ({"pipeline": "Courses", "out_of": "New", "into": "Quoted", "by": {"who": "anyone_but", "member": "Mel"}},
                      "when a deal on Courses moves out of New into Quoted, moved by anyone but Mel",
                      event("stage.changed", "Theo", **STAGE),
                      [event("stage.changed", "Mel", **STAGE), event("stage.changed", "Theo", **STAGE | {"old": "Lost"}),
                       event("stage.changed", "Theo", **STAGE | {"stage": "New"})]),
    "deal": ({"pipeline": "Courses", "what": "won"}, "when a deal on Courses is won",
             event("deal.won", deal="d", pipeline="Courses", stage="Done"),
             [event("deal.created", pipeline="Courses"), event("deal.won", pipeline="Charter")]),
    "score_crossed": ({"way": "falls_below", "mark": 30}, "when the score falls below 30", event("score.changed", old=30, new=29.9),
                      [event("score.changed", old=29, new=20), event("score.changed", old=20, new=40)]),
    "appointment": ({"type": "Taster", "what": "missed"}, "when Taster is missed", event("appointment.missed", type="Taster"),
                    [event("appointment.booked", type="Taster"), event("appointment.missed", type="Fitting")]),
    "appointment_near": ({"type": "Taster", "before": "1 day"}, "1 day before Taster",
                         event("appointment.near", type="Taster", before="1 day", appointment="a"),
                         [event("appointment.near", type="Taster", before="2 days", appointment="a")]),
    "date_comes": ({"field": "birthday"}, "on birthday, each year, at 09:00 (29 February on the 28th in other years)",
                   event("date.came", field="birthday"),
                   [event("date.came", field="renewal")]),
    "lead_received": ({"source": "Adverts"}, "when a lead comes from Adverts", event("lead.received", source="Adverts"),
                      [event("lead.received", source="Fair")]),
    "purchase_made": ({"item": "Dinghy"}, "when someone buys Dinghy", event("purchase.made", item="Dinghy", amount="120"),
                      [event("purchase.made", item="Kayak")]),
    "consent_given": ({"channel": "text"}, "when they agree to text", event("consent.given", channel="text"),
                      [event("consent.given", channel="email"), event("consent.withdrawn", channel="text")]),
    "opted_out": ({"channel": "text"}, "when they opt out of text", event("consent.withdrawn", channel="text"),
                  [event("consent.withdrawn", channel="email"), event("consent.given", channel="text")]),
    "task_done": ({"step": "ring", "outcomes": ["reached"]}, "when the task of ring is done: reached",
                  event("task.done", step="ring", outcome="reached", task="call"),
                  [event("task.done", step="ring", outcome="no_answer"), event("task.done", step="other", outcome="reached")]),
    "handed_over": ({"source": "Welcome"}, "when Welcome hands someone over",
                    event("workflow.handed_over", workflow="this one", **{"from": "Welcome"}),
                    [event("workflow.handed_over", workflow="this one", **{"from": "Other"})]),
}  # fmt: skip


def test_every_kind_is_tried_here() -> None:
    assert set(KINDS) == set(TRIGGERS)


@pytest.mark.parametrize("kind", KINDS)
def test_a_trigger_fits_what_it_names_reads_and_is_found_by_its_index(kind: str) -> None:
    data, said, fitting, others = KINDS[kind]
    trigger = reader.validate_python({"kind": kind, **data})
    assert trigger.describe() == said
    assert not any(trigger.fits(other) for other in others)
    assert all(listened in SUBJECTS for listened in trigger.listens_to)
    if fitting:
        assert trigger.fits(fitting)
        # The server looks only at triggers indexed by the event's subject, or by none.
        assert fitting.subject in trigger.subjects() or trigger.subjects() == ("",)
    filtered = reader.validate_python({"kind": kind, **data, "when": {"test": "tag", "tag": "crew"}})
    assert filtered.describe() == f"{said}, if has the tag “crew”"
    if fitting:
        assert not filtered.admits(fitting, CASE)


@pytest.mark.parametrize("kind", [kind for kind in KINDS if TRIGGERS[kind].must_be_named])
def test_one_that_must_name_something_fits_nothing_until_it_does(kind: str) -> None:
    trigger = reader.validate_python({"kind": kind})
    fitting = KINDS[kind][2]
    assert fitting and not trigger.fits(fitting)
    assert "named yet" in trigger.fault()


def test_the_entry_rules_say_why_not() -> None:
    crew = Entry.model_validate({"who": {"test": "tag", "tag": "crew"}})
    once, always = Entry(), Entry(again="always")
    later = Entry.model_validate({"again": "after", "after": "30 days"})
    ended = Before(MONDAY - timedelta(days=29))
    assert why_not(once, CASE, None) == ""
    assert why_not(once, CASE, ended) == "was in it before, and nobody comes in twice"
    assert why_not(later, CASE, ended) == "left it less than 30 days ago"
    assert why_not(later, CASE, Before(MONDAY - timedelta(days=31))) == ""
    assert why_not(always, CASE, Before(None)) == "inside already"  # never twice at once
    assert why_not(crew, CASE, None) == "only who has the tag “crew”"


def test_the_first_trigger_that_fits_with_its_condition_starts_it() -> None:
    workflow = ask(
        starts=[
            {"kind": "tag_added", "tags": ["taster"], "when": {"test": "reach", "channel": "push"}},
            {"kind": "tag_added", "tags": ["taster", "fair"]},
        ]
    )
    assert started_by(workflow, event("tag.added", tag="taster"), CASE) == workflow.starts[1]
    assert started_by(workflow, event("tag.added", tag="x"), CASE) is None


@pytest.mark.parametrize(
    ("start", "who"),
    [
        ({"kind": "tag_added", "tags": ["a", "b"]}, {"tags": frozenset({"b"})}),
        ({"kind": "list_joined", "list": "regatta"}, {"lists": frozenset({"regatta"})}),
        ({"kind": "field_changed", "field": "boat", "to": "cutter"}, {"fields": {"boat": "Cutter"}}),
        ({"kind": "form_sent", "form": "Open day"}, {"happened": (event("form.sent", form="Open day"),)}),
        ({"kind": "stage_changed", "into": "New"}, {"deals": (Deal("d", "P", "New", MONDAY, MONDAY),)}),
        ({"kind": "deal", "what": "won"}, {"deals": (Deal("d", "P", "X", MONDAY, MONDAY, state="won"),)}),
        ({"kind": "score_crossed", "mark": 30}, {"score": Score().plus("r", 31, MONDAY)}),
        ({"kind": "appointment", "what": "booked"}, {"appointments": (Appointment("a", "T", MONDAY + timedelta(1)),)}),
        ({"kind": "appointment", "what": "missed"},
         {"appointments": (Appointment("a", "T", MONDAY - timedelta(1), state="missed"),)}),
    ],
)  # fmt: skip
def test_who_matches_already_is_a_condition_that_can_be_counted(start: dict[str, Any], who: dict[str, Any]) -> None:
    condition = already_matching(ask(starts=[start, {"kind": "by_hand"}]))
    assert condition.holds(Case(Facts(Contact(**who)), MONDAY))
    assert not condition.holds(Case(Facts(Contact()), MONDAY))


def test_a_date_comes_round_each_year_and_once_where_the_contact_is() -> None:
    born = Contact(fields={"birthday": date(1996, 2, 29)})
    yearly = DateComes(field="birthday", feb_29="mar_1")
    found = yearly.next_after(born, MONDAY, "Australia/Hobart")
    assert found and to_local(found, "Australia/Hobart").isoformat(" ", "minutes") == "2027-03-01 09:00"
    assert DateComes(field="birthday", often="once").next_after(born, MONDAY, "UTC") is None
    assert yearly.next_after(Contact(), MONDAY, "UTC") is None
    assert AppointmentNear(before="2 days").comes_at(Appointment("a", "T", MONDAY), "UTC") == MONDAY - timedelta(days=2)  # type: ignore[arg-type]
