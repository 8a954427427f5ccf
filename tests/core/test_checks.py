"""Checks: each finds its fault, names the line, and where it offers a mend, the mend makes it go away."""

from datetime import UTC, datetime
from typing import Any

import pytest

from bluffside.core.care.house import Care
from bluffside.core.care.quiet import QuietHours
from bluffside.core.steps import KINDS
from bluffside.core.workflow.checks import can_publish, check
from bluffside.core.workflow.document import Workflow
from bluffside.core.workflow.graph import reachable, unbounded_loop
from bluffside.core.workflow.house import House, People, Trouble
from bluffside.core.workflow.mending import mended
from bluffside.core.workflow.program import compile_workflow
from bluffside.core.workflow.references import Reference, references
from tests.core.examples import ask


def text(id: str, body: str = "Hi", **more: Any) -> dict[str, Any]:
    return {"kind": "text", "id": id, "message": {"name": id.upper(), "body": body}} | more


def email(id: str, **message: Any) -> dict[str, Any]:
    return {"kind": "email", "id": id, "message": {"name": id.upper(), "subject": "S", "body": "B"} | message}


TAG, END, HOURS = {"kind": "tag", "id": "x", "tag": "t"}, {"kind": "end", "id": "e"}, {"start": "09:00", "end": "19:00"}
CHOICE = {"test": "tag", "tag": "crew"}


def lanes(*lanes: dict[str, Any]) -> list[dict[str, Any]]:
    return [{"id": f"l{number}", "steps": []} | lane for number, lane in enumerate(lanes)]


# code, severity, the line it names, a workflow that has it, a piece of its sentence, and what the mend says (if any)
ALONE: list[tuple[str, str, str, dict[str, Any], str, str]] = [
    ("no-appointment", "warning", "r", {"steps": [{"kind": "around", "id": "r"}, TAG]}, "Nothing here brings an appointment", ""),
    ("no-lines", "error", "", {"steps": []}, "no lines", ""),
    ("no-start", "error", "", {"starts": []}, "Nothing starts it", "Let people be enrolled by hand"),
    ("start-incomplete", "error", "", {"starts": [{"kind": "form_sent"}]}, "no form is named yet", ""),
    ("start-incomplete", "error", "", {"starts": [{"kind": "by_hand", "when": {"test": "tag"}}]}, "no tag is named", ""),
    ("leave-incomplete", "error", "", {"leaves_on": [{"kind": "tag_added"}]}, "no tag is named yet", ""),
    ("entry-incomplete", "error", "", {"entry": {"who": {"test": "list"}}}, "no list is named", ""),
    ("nobody-speaks", "warning", "", {"steps": [TAG]}, "sends no message", ""),
    ("any-hour", "warning", "", {"steps": [text("a")], "hours": None}, "also at night", "Send only from 09:00 to 19:00"),
    ("wide-hours", "warning", "", {"steps": [text("a")], "hours": {"start": "07:00", "end": "22:00"}}, "before 08:00",
     "Send only from 08:00 to 21:00"),
    ("message-empty", "error", "a", {"steps": [text("a", " ")]}, "“A” has no words yet", ""),
    ("message-unreadable", "error", "a", {"steps": [text("a", "{{ contact.shoe }}")]}, "is not a merge field", ""),
    ("merge-field-no-words", "warning", "a", {"steps": [text("a", "Hi {{ contact.first_name }}")]}, "when first name is empty",
     "Say “there” when it is empty"),
    ("subject-empty", "error", "a", {"steps": [email("a", subject="")]}, "has no subject", "Use “A” as the subject"),
    ("back-to-back", "warning", "b", {"steps": [text("a"), text("b")]}, "right after “A”, and both go by text", "Wait a day before it"),
    ("one-version", "warning", "r", {"steps": [{"kind": "reach", "id": "r", "name": "R", "text": {"body": "x"}}]}, "text alone", ""),
    ("no-version", "error", "r", {"steps": [{"kind": "reach", "id": "r", "name": "R"}]}, "no version", ""),
    ("after-the-end", "error", "x", {"steps": [END, TAG]}, "every way above has ended", "Remove the line"),
    ("after-the-end", "error", "x", {"steps": [{"kind": "choose", "id": "c", "lanes": lanes(
        {"when": CHOICE, "steps": [END]}, {"steps": [END | {"id": "e2"}]})}, TAG]}, "every way above has ended", "Remove the line"),
    ("lane-unreachable", "error", "c", {"steps": [{"kind": "choose", "id": "c", "lanes": lanes(
        {"when": CHOICE}, {}, {"when": {"test": "owner"}})}]}, "“everyone else” stands before it", "Remove the lane and its lines"),
    ("lane-unreachable", "error", "c", {"steps": [{"kind": "choose", "id": "c", "lanes": lanes(
        {"when": CHOICE}, {"when": CHOICE}, {})}]}, "the same condition", "Remove the lane and its lines"),
    ("lane-unreachable", "error", "s", {"steps": [{"kind": "split", "id": "s", "lanes": lanes(
        {"share": 0, "name": "A"}, {"share": 1, "name": "B"})}]}, "its share is 0", "Remove the lane and its lines"),
    ("lane-unreachable", "error", "w", {"steps": [{"kind": "wait_for", "id": "w", "lanes": lanes(
        {"on": {"kind": "replied"}}, {"on": {"kind": "replied"}})}]}, "waits for the same", "Remove the lane and its lines"),
    ("no-such-task", "error", "w", {"steps": [{"kind": "wait_for", "id": "w", "lanes": lanes(
        {"on": {"kind": "task_done", "step": "gone"}})}]}, "no such line makes a task", ""),
    ("repeats-too-often", "error", "in", {"steps": [{"kind": "repeat", "id": "out", "times": 100, "lanes": lanes({"steps": [
        {"kind": "repeat", "id": "in", "times": 50, "lanes": [{"id": "ll", "steps": [TAG]}]}]})}]}, "5,000 times", "Repeat 10 times"),
    ("repeat-nothing", "error", "r", {"steps": [{"kind": "repeat", "id": "r", "lanes": lanes({})}]}, "nothing to repeat", ""),
    ("same-each-time", "warning", "d", {"steps": [{"kind": "repeat", "id": "r", "lanes": lanes(
        {"steps": [{"kind": "on_day", "id": "d"}]})}]}, "the same moment each time", ""),
    ("around-both", "error", "a", {"steps": [{"kind": "around", "id": "a", "field": "f", "type": "T"}]}, "choose one",
     "Go by the field alone"),
    ("address-empty", "error", "h", {"steps": [{"kind": "webhook", "id": "h", "url": "http://["}]}, "No web address", ""),
    ("address-open", "warning", "h", {"steps": [{"kind": "webhook", "id": "h", "url": "http://example.com/in"}]}, "not https",
     "Use https"),
    ("key-in-script", "warning", "h", {"steps": [{"kind": "webhook", "id": "h", "url": "https://berths.example.com/in",
                                                  "headers": [{"name": "authorization", "value": "Bearer x"}]}]}, "under Connections", ""),
    ("consent-no-wording", "warning", "c", {"steps": [{"kind": "consent", "id": "c"}]}, "part of its proof", ""),
    ("no-points", "warning", "p", {"steps": [{"kind": "score", "id": "p", "points": 0}]}, "adds no points", "Remove the line"),
    ("yearly-once", "warning", "", {"starts": [{"kind": "date_comes", "field": "birthday"}]}, "in one year only",
     "Let people come in again"),
    ("repeats-too-often", "error", "", {"steps": [{"kind": "repeat", "id": "r", "times": 100, "lanes": lanes(
        {"steps": [TAG | {"id": f"t{number}"} for number in range(201)]})}]}, "come to 20,101 lines", ""),
]  # fmt: skip


def found(workflow: Workflow, code: str, house: House | None = None) -> Any:
    matching = [one for one in check(workflow, house) if one.code == code]
    assert matching, f"{code} is not among {[one.code for one in check(workflow, house)]}"
    return matching[0]


@pytest.mark.parametrize(("code", "severity", "step", "change", "piece", "mend"), ALONE)
def test_each_check_of_a_workflow_alone(
    code: str, severity: str, step: str, change: dict[str, Any], piece: str, mend: str
) -> None:
    workflow = ask(**({"hours": HOURS, "starts": [{"kind": "by_hand"}]} | change))
    one = found(workflow, code)
    assert (one.severity, one.step, one.mend.sentence if one.mend else "") == (severity, step, mend)
    assert piece in one.sentence and one.sentence.endswith(".")
    assert can_publish(check(workflow)) <= (severity == "warning")
    if one.mend:
        assert code not in {two.code for two in check(mended(workflow, one.step, one.mend, "new"))}


def other(name: str, **changes: Any) -> Workflow:
    return ask(**{"name": name, "steps": [text("a")], "hours": HOURS} | changes)


SEES = {"kind": "tag_added", "tags": ["seen"]}
IN_HOUSE: list[tuple[str, str, dict[str, Any], House, str]] = [
    ("too-long", "", {"steps": [{"kind": "wait", "id": "w", "duration": "40 days"}, text("a")]}, House(care=Care(longest_days=30)),
     "It takes 40 days; the house rule is 30"),
    ("too-many-touches", "", {"steps": [text("a"), email("b")]}, House(care=Care(most_touches=1)), "It has 2 touches"),
    ("text-split", "a", {"steps": [text("a", "x" * 161)]}, House(), "split into 2 parts."),
    ("text-split", "a", {"steps": [text("a", "x" * 120)]}, House(closing="y" * 55), "2 parts with the link that stands under it"),
    ("no-hour-left", "a", {"steps": [text("a")], "hours": {"start": "21:00", "end": "22:00"}}, House(care=Care(quiet=(QuietHours(),))),
     "all its sending hours are quiet hours"),
    ("no-such-tag", "c", {"steps": [{"kind": "choose", "id": "c", "lanes": lanes({"when": CHOICE})}]}, House(tags=frozenset()),
     "Nobody has the tag “crew”, and nothing sets it"),
    ("no-such-appointment", "", {"starts": [{"kind": "appointment", "type": "Fitting"}]}, House(types=frozenset()), "nobody books one"),
    ("no-such-booking-page", "a", {"steps": [text("a", "{{ account.book.Trial_sail }}")]}, House(booking_pages=frozenset({"Other"})),
     "no open page"),
    ("no-such-form", "", {"starts": [{"kind": "form_sent", "form": "Open day"}]}, House(forms=frozenset()), "nobody sends it"),
    ("no-such-field", "f", {"steps": [{"kind": "choose", "id": "f", "lanes": lanes(
        {"when": {"test": "field", "field": "boat"}})}]}, House(fields=frozenset()), "no field “boat”"),
    ("no-such-list", "", {"starts": [{"kind": "list_joined", "list": "regatta"}]}, House(lists=frozenset()), "no list “regatta”"),
    ("no-such-workflow", "h", {"steps": [{"kind": "hand_over", "id": "h", "workflow": "News"}]}, House(others=()), "no workflow “News”"),
    ("not-published", "h", {"steps": [{"kind": "hand_over", "id": "h", "workflow": "News"}]},
     House(others=(), drafts=frozenset({"News"})), "“News” is not published yet"),
    ("not-taken-over", "h", {"steps": [{"kind": "hand_over", "id": "h", "workflow": "News"}]}, House(others=(other("News"),)),
     "does not start when someone is handed over"),
    ("date-passed", "d", {"steps": [{"kind": "on_date", "id": "d", "date": "2026-04-18"}, text("a")]},
     House(zone="Australia/Hobart", now=datetime(2026, 4, 18, 14, tzinfo=UTC)), "Sat 18 Apr 2026 has passed"),
    ("lost-behind", "e", {"steps": [{"kind": "on_date", "id": "d", "date": "2026-04-03", "skip_holidays": True},
                                    {"kind": "on_date", "id": "e", "date": "2026-04-03", "at": "14:00"}, text("a")]},
     House(care=Care(holidays={"country": "GB", "region": "ENG"})), "comes Sat 4 Apr, 09:00: moved from Fri to Sat: Good Friday excluded."),
    ("lost-behind", "e", {"steps": [{"kind": "on_date", "id": "d", "date": "2026-04-03", "if_past": "next_day"},
                                    {"kind": "on_date", "id": "e", "date": "2026-04-03", "at": "14:00"}, text("a")]},
     House(), "goes on Sat 4 Apr, 09:00. This has passed then"),
    ("not-connected", "a", {"steps": [text("a")]}, House(out_of_order={("channel", "text"): Trouble("Texts: switched off.")}), "switched off"),
    ("not-connected", "o", {"steps": [{"kind": "outside_series", "id": "o", "service": "Gull Post"}]},
     House(out_of_order={("service", "series"): Trouble("It does not work.")}), "does not work"),
    ("not-connected", "w", {"steps": [{"kind": "webhook", "id": "w", "url": "https://berths.example.com:8443/in"}]},
     House(out_of_order={("host", "berths.example.com"): Trouble("It lets nobody in.")}), "lets nobody in"),
    ("not-connected", "", {"starts": [{"kind": "lead_received", "source": "Advert"}], "steps": [text("a")]},
     House(out_of_order={("source", "Advert"): Trouble("Nothing has come.")}), "Nothing has come"),
    ("beyond-reach", "a", {"steps": [text("a")]}, House(people=People(412, beyond={"text": 38})), "38 of 412 cannot be reached by text"),
    ("merge-field-empty", "a", {"steps": [text("a", "Hi {{ contact.first_name }}")]},
     House(people=People(412, empty={"contact.first_name": 5})), "5 of 412 have no first name"),
    ("same-people", "", {"starts": [SEES], "steps": [text("a")]}, House(others=(other("News", starts=[SEES]),)), "“News” starts on the same"),
    ("starts-itself", "", {"starts": [SEES], "entry": {"again": "always"}, "steps": [text("a"), {"kind": "tag", "id": "t", "tag": "seen"}]},
     House(), "starts it again"),
    ("loop-between", "", {"starts": [SEES], "entry": {"again": "always"}, "steps": [{"kind": "hand_over", "id": "h", "workflow": "News"}]},
     House(others=(other("News", starts=[{"kind": "handed_over"}], entry={"again": "always"},
                         steps=[{"kind": "set_list", "id": "l", "list": "hot"}]),
                   other("Hot", starts=[{"kind": "list_joined", "list": "hot"}], entry={"again": "always"},
                         steps=[{"kind": "tag", "id": "t", "tag": "seen"}]))),
     "“News” → “Hot”"),
]  # fmt: skip


@pytest.mark.parametrize(("code", "step", "change", "house", "piece"), IN_HOUSE)
def test_each_check_that_needs_to_know_the_account(
    code: str, step: str, change: dict[str, Any], house: House, piece: str
) -> None:
    workflow = ask(**({"hours": HOURS, "starts": [{"kind": "by_hand"}]} | change))
    one = found(workflow, code, house)
    assert one.step == step and piece in one.sentence
    assert code not in {two.code for two in check(workflow)}  # it is silent where the account is not known
    if one.mend:
        assert code not in {two.code for two in check(mended(workflow, one.step, one.mend, "new"), house)}


def test_what_cannot_go_round_or_is_set_elsewhere_is_not_complained_of() -> None:
    workflow = ask(starts=[SEES], steps=[{"kind": "tag", "id": "t", "tag": "seen"}])
    assert "starts-itself" not in {one.code for one in check(workflow, House())}  # nobody comes in twice
    reads = ask(steps=[{"kind": "choose", "id": "c", "lanes": lanes({"when": CHOICE})}])
    sets = other("News", steps=[{"kind": "tag", "id": "t", "tag": "crew"}])
    codes = {one.code for one in check(reads, House(tags=frozenset({"taster"}), others=(sets,)))}
    assert "no-such-tag" not in codes
    quiet = House(care=Care(quiet=(QuietHours(),)))  # the account's own quiet hours see to the night
    assert "any-hour" not in {one.code for one in check(ask(steps=[text("a")], hours=None), quiet)}


def test_a_sound_workflow_has_no_errors_even_with_every_kind_of_step_blank_below_an_end() -> None:
    assert can_publish(check(ask()))
    blanks = [kind.blank().model_copy(update={"id": f"k{number}"}) for number, kind in enumerate(KINDS.values())]
    program = compile_workflow(
        ask().model_copy(update={"steps": tuple(one for one in blanks if not one.lanes_below())})
    )
    assert unbounded_loop(program) == ()
    assert reachable(program)


def test_references_are_read_off_the_sorts_of_parts_and_conditions() -> None:
    about = [  # the other part decides what it is the name of, if of anything
        {"test": "count", "activity": "form", "about": "Talk"},
        {"test": "count", "activity": "call", "about": "a line"},
        {"test": "event", "event": "tag.removed", "about": "keen"},
    ]
    refs = references(
        ask(
            entry={"who": {"test": "list", "list": "regatta"}},
            leaves_on=[{"kind": "lead_received", "source": "Advert"}],
            steps=[
                {"kind": "tag", "id": "t", "tag": "crew"},
                {
                    "kind": "choose",
                    "id": "c",
                    "lanes": lanes({"when": {"test": "any", "of": [{"test": "field", "field": "boat"}, *about]}}),
                },
                {
                    "kind": "wait_for",
                    "id": "w",
                    "lanes": [{"id": "m", "on": {"kind": "form_sent", "form": "Open day"}}],
                },
            ],
        )
    )
    assert refs == [
        Reference("tag", "taster", ""),
        Reference("source", "Advert", ""),
        Reference("list", "regatta", ""),
        Reference("tag", "crew", "t", sets=True),
        Reference("field", "boat", "c"),
        Reference("form", "Talk", "c"),
        Reference("tag", "keen", "c"),
        Reference("form", "Open day", "w"),
    ]
