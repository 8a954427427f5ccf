"""The lead score: rules that do not count yet, what would change, counting everybody anew while the engine goes on, and what it was."""

from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from django.test import Client
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from bluffside.core.scoring.rules import ScoreRules
from bluffside.core.workflow.files import parse_workflow
from bluffside.server import moving_the_clock, throttled_cache
from bluffside.server.events.models import Event
from bluffside.server.events.stream import Cause, Happened, record
from bluffside.server.people import merging
from bluffside.server.people.models import Contact
from bluffside.server.people.services import add_tags
from bluffside.server.people.values import read_score
from bluffside.server.practice import clock
from bluffside.server.scores import recounting
from bluffside.server.scores.counting import compare, counted_anew
from bluffside.server.scores.learning import lesson
from bluffside.server.scores.models import ScoreDraft, ScoreRecount
from bluffside.server.worker import until_quiet
from bluffside.server.workflows import writing
from bluffside.server.workflows.models import Enrolment, ScoreTurn
from bluffside.server.workflows.scoring import rules_of, set_rules
from tests.core.examples import ASK
from tests.server.conftest import House

NOW = datetime(2026, 3, 5, 10, 42, tzinfo=UTC)
BEING = {"kind": "being", "name": "", "points": 15, "when": {"test": "tag", "tag": "keen", "has": True}}
DOING = {
    "kind": "doing",
    "name": "",
    "points": 10,
    "on": {"kind": "form_sent", "form": "Prices"},
    "half_life": "30 days",
    "limit": 30,
}


def rules(*doing: dict[str, Any], being: tuple[dict[str, Any], ...] = (BEING,)) -> ScoreRules:
    return recounting.named(
        ScoreRules.model_validate(
            {"being": [one | {"name": "x"} for one in being], "doing": [one | {"name": "x"} for one in doing]}
        )
    )


def who(house: House, n: int) -> Contact:
    return Contact.objects.filter(account=house.sailing, first_name=f"P{n}").first() or house.contact(n)


def sends_a_form(house: House, n: int, times: int = 1) -> None:
    data = {"form": "Prices", "answers": {}}
    record(house.sailing, [Happened("form.sent", who(house, n).pk, data)] * times)
    until_quiet()


def points(house: House, n: int) -> float:
    return read_score(Contact.objects.get(pk=who(house, n).pk).score).at(clock.now())


def starts_at(house: House, mark: float, name: str) -> Any:
    start = {"kind": "score_crossed", "way": "rises_to", "mark": mark}
    document = parse_workflow(ASK | {"name": name, "starts": [start], "entry": {"again": "always"}})
    made = writing.create(house.sailing, document, house.consultant)
    writing.publish(made, made.revision, house.consultant)
    return made


def test_rules_are_written_compared_and_counted_and_only_what_was_said_starts(house: House, signed_in: Callable[..., Client]) -> None:  # fmt: skip
    client, api = signed_in(house.consultant), "/api/accounts/sailing"
    with clock.at(NOW - timedelta(days=30)) as move_to:
        set_rules(house.sailing, rules(DOING))
        sends_a_form(house, 1, 2)
        sends_a_form(house, 2)
        move_to(NOW)
        add_tags(house.sailing, [(who(house, 3).pk, "keen", Cause())])
        until_quiet()
        assert [points(house, n) for n in (1, 2, 3)] == [10, 5, 15]  # faded by half; who they are does not
        ready, also = starts_at(house, 20, "Ready"), starts_at(house, 18, "Also")
        found = client.get(f"{api}/score").json()
        assert found["revision"] == 0 and found["rules"] == found["counting"]
        draft = found["rules"] | {"doing": [DOING | {"name": "x", "points": 20, "limit": 40}], "marks": [{"name": "warm", "at_least": 10}, {"name": "hot", "at_least": 20}]}  # fmt: skip
        kept = client.put(f"{api}/score", {"rules": draft, "revision": 0}, "application/json").json()
        assert kept["revision"] == 1 and kept["rules"]["doing"][0]["name"].startswith("someone sends")
        stale = client.put(f"{api}/score", {"rules": draft, "revision": 0}, "application/json")
        assert stale.status_code == 409 and rules_of(house.sailing) == rules(DOING), "nothing counts yet"
        seen = client.get(f"{api}/score/compared?contact={who(house, 1).pk}").json()
        assert (seen["one_before"], seen["one_after"]) == (10, 20)
        assert {one["name"]: one["count"] for one in seen["starts"]} == {"Ready": 1, "Also": 1}
        assert ("", "warm") not in {(one["before"], one["after"]) for one in seen["moves"]}
        assert [(one["name"], one["mark_after"]) for one in seen["who"]][0] == ("P1", "hot")
        refused = signed_in(house.member).post(f"{api}/score/count", {"revision": 1}, "application/json")
        assert refused.status_code == 403
        asked = {"revision": 1, "starts": [ready.pk]}
        assert client.post(f"{api}/score/count", asked, "application/json").json()["recount"]["state"] == "running"
        until_quiet()
        assert [points(house, n) for n in (1, 2, 3)] == [20, 10, 15]
        assert list(Enrolment.objects.values_list("workflow", "contact")) == [(ready.pk, who(house, 1).pk)]
        sends_a_form(house, 3)
        assert Enrolment.objects.filter(workflow=also).count() == 1, "what happens afterwards starts as ever"
        listed = client.post(f"{api}/contacts/find", {"who": {}, "order": "-score"}, "application/json").json()
        assert [(one["name"], one["score"]) for one in listed["rows"]] == [("P3", 35), ("P1", 20), ("P2", 10)]
        now = client.get(f"{api}/score").json()
        assert now["recount"]["state"] == "done" and len(now["versions"]) == 2 and not ScoreDraft.objects.exists()
        then = client.get(f"{api}/contacts/{who(house, 1).pk}/score/on?day=2026-02-10").json()
        assert then["known"] and then["score"] == pytest.approx(20 * 2 ** -(7.55 / 30), abs=0.1)
        assert len(then["made_of"]) == 1 and then["made_of"][0][0].startswith("someone sends")
        assert not client.get(f"{api}/contacts/{who(house, 2).pk}/score/on?day=2026-01-01").json()["known"]


def test_a_rule_that_is_not_complete_cannot_count_and_marks_are_told_apart(house: House) -> None:
    row = recounting.keep_draft(
        house.sailing, rules(being=(BEING | {"when": {"test": "tag", "tag": ""}},)), 0, house.consultant
    )
    with pytest.raises(recounting.BadScore, match="no tag is named"):
        recounting.let_count(house.sailing, row.revision, [], house.consultant)
    twice = ScoreRules.model_validate({"marks": [{"name": "warm", "at_least": 3}, {"name": "Warm", "at_least": 4}]})
    with pytest.raises(recounting.BadScore, match="same name"):
        recounting.keep_draft(house.sailing, twice, row.revision, house.consultant)
    assert [one.name for one in rules(DOING, DOING).doing][1].endswith("(2)")


def test_no_rule_counts_that_goes_by_a_barred_field_and_none_is_learned(house: House) -> None:
    """Also where the field stands in a part of a condition, and where what happens is about it."""
    of_post = {"kind": "being", "name": "x", "points": 5, "when": {"test": "any", "of": [
        {"test": "tag", "tag": "keen"}, {"test": "field", "field": "post", "compare": "contains", "value": "SW1"}]}}  # fmt: skip
    changes = {"kind": "doing", "name": "y", "points": 5, "on": {"kind": "field_changed", "field": "Locker"}}
    some = ScoreRules.model_validate(
        {"being": [of_post], "doing": [changes, DOING | {"name": "z"}], "barred": ["post", "Locker"]}
    )
    row = recounting.keep_draft(house.sailing, some, 0, house.consultant)
    kept = ScoreRules.model_validate(row.rules)
    faults = recounting.missing(kept)
    assert len(faults) == 2 and "goes by what is barred: postal address." in faults[0] and "Locker." in faults[1]
    with pytest.raises(recounting.BadScore, match="barred"):
        recounting.let_count(house.sailing, 1, [], house.consultant)
    assert set(lesson(house.sailing, kept, "won", 30, NOW).refused) == {kept.being[0].name, kept.doing[0].name}
    recounting.keep_draft(house.sailing, kept.model_copy(update={"barred": ("post",)}), 1, house.consultant)
    assert len(recounting.missing(ScoreRules.model_validate(ScoreDraft.objects.get().rules))) == 1


def test_points_by_a_line_of_a_workflow_say_what_the_score_was_made_of(house: House, signed_in: Callable[..., Client]) -> None:  # fmt: skip
    with clock.at(NOW):
        step = {"id": "s", "kind": "score", "rule": "came to the slip", "points": 12}
        house.workflow(starts=[{"kind": "tag_added", "tags": ["keen"]}], steps=[step], hours=None)
        add_tags(house.sailing, [(who(house, 1).pk, "keen", Cause())])
        until_quiet()
        then = signed_in(house.consultant).get(
            f"/api/accounts/sailing/contacts/{who(house, 1).pk}/score/on?day={NOW:%Y-%m-%d}"
        )
    assert then.json()["known"] and then.json()["made_of"] == [["came to the slip", 12]]


def test_a_recount_goes_on_where_it_was_and_what_happens_meanwhile_is_not_lost(house: House, monkeypatch: pytest.MonkeyPatch) -> None:  # fmt: skip
    monkeypatch.setattr(recounting, "BATCH", 2)
    for n in (1, 2, 3, 4, 5):
        sends_a_form(house, n)
    row = recounting.keep_draft(house.sailing, rules(DOING), 0, house.consultant)
    recounting.let_count(house.sailing, row.revision, [], house.consultant)
    assert recounting.recount_batch(house.sailing) == 2
    first, last = who(house, 1), Contact.objects.order_by("id").last()
    assert last is not None and points(house, 1) == pytest.approx(10, abs=0.01) and read_score(last.score).earned == ()
    monkeypatch.setattr(recounting, "counted_anew", _breaks)
    with pytest.raises(RuntimeError):
        recounting.recount_batch(house.sailing)
    monkeypatch.setattr(recounting, "counted_anew", counted_anew)
    record(house.sailing, [Happened("form.sent", one.pk, {"form": "Prices", "answers": {}}) for one in (first, last)])
    until_quiet()
    job = ScoreRecount.objects.get()
    assert job.state == "done" and job.done == Contact.objects.filter(account=house.sailing).count()
    last.refresh_from_db()
    assert points(house, 1) == pytest.approx(20, abs=0.01)
    assert read_score(last.score).at(clock.now()) == pytest.approx(20 if last.pk in {who(house, n).pk for n in range(1, 6)} else 10, abs=0.01)  # fmt: skip


def _breaks(*_: Any) -> Any:
    raise RuntimeError("the machine dies")


@settings(deadline=None, max_examples=15, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.lists(st.tuples(st.integers(1, 4), st.integers(0, 40)), max_size=12), st.sampled_from([5, 10, 25]))
def test_counted_anew_is_what_was_earned_one_by_one(house: House, some: list[tuple[int, int]], worth: int) -> None:
    """What a score is after its events, each as it came, is what the same rules give by looking back: only what changed moves anybody."""
    own, people = house.sailing, [who(house, n).pk for n in range(1, 5)]
    Event.objects.filter(account=own).delete()
    Contact.objects.filter(account=own).update(score=[])
    now = rules(DOING | {"points": worth})
    set_rules(own, now)
    with clock.at(NOW) as move_to:
        for n, hours in sorted(some, key=lambda one: one[1]):
            move_to(NOW + timedelta(hours=hours))
            sends_a_form(house, n)
        move_to(NOW + timedelta(days=9))
        seen = compare(own, now, now, "", clock.now())
        assert seen.who == [] and seen.before == seen.after
        anew = counted_anew(own, people, now, clock.now())
        for n, id in enumerate(people, 1):
            assert anew[id][1].at(clock.now()) == pytest.approx(points(house, n))


def test_points_are_learned_from_what_became_of_people_and_nothing_is_applied(house: House, signed_in: Callable[..., Client]) -> None:  # fmt: skip
    """Made by known chances: who sends forms books, who is tagged does not; 30 days later it is looked back."""
    client, own = signed_in(house.consultant), house.sailing
    again = {
        "kind": "doing",
        "points": 25,
        "on": {"kind": "appointment", "what": "booked"},
        "half_life": None,
        "limit": None,
    }
    other = {
        "kind": "doing",
        "points": 10,
        "on": {"kind": "tag_added", "tags": ["keen"]},
        "half_life": None,
        "limit": None,
    }
    missed = again | {"points": -15, "on": {"kind": "appointment", "what": "missed"}}
    counting = rules(DOING, other, again, missed, being=())
    few = client.get("/api/accounts/sailing/score/learned").json()
    assert few["more"] > 0 and few["learned"] is None
    with clock.at(NOW - timedelta(days=80)) as move_to:
        set_rules(own, counting)
        Contact.objects.bulk_create(
            Contact(account=own, first_name=f"L{n}", email=f"l{n}@example.com", added_at=clock.now())
            for n in range(400)
        )
        people = list(Contact.objects.filter(account=own, first_name__startswith="L").order_by("id"))
        move_to(NOW - timedelta(days=40))
        for n, one in enumerate(people):
            if n % 2:
                record(own, [Happened("form.sent", one.pk, {"form": "Prices", "answers": {}})])
            if n % 3 == 0:
                record(own, [Happened("tag.added", one.pk, {"tag": "keen"})])
        move_to(NOW - timedelta(days=20))
        for n, one in enumerate(people):
            if n % 7 < (4 if n % 2 else 1):  # four of seven who sent the form, one of seven who did not
                record(own, [Happened("appointment.booked", one.pk, {"type": "Taster sail", "appointment": str(n)})])
        move_to(NOW)
        found = client.get("/api/accounts/sailing/score/learned?outcome=booked&horizon=30").json()
        by = {one["name"]: one for one in found["rules"]}
        forms, tags, booked, no_show = (by[rule.name] for rule in counting.doing)
        assert found["more"] == 0 and found["people"] == 401 - 1 and found["held_back"] == 100
        assert forms["learned"] > 3 * abs(tags["learned"]) and booked["learned"] is None
        assert booked["refused"] == "it is the outcome itself" and not no_show["refused"]
        assert found["learned"]["auc"]["low"] > 0.5 and len(found["calibration"]) == 5
        assert rules_of(own) == counting and not ScoreDraft.objects.exists(), "it is offered, never applied"
    assert client.get("/api/accounts/sailing/score/learned?outcome=rich").status_code == 422


def test_what_was_counted_for_one_draft_is_never_shown_for_another(house: House, signed_in: Callable[..., Client], monkeypatch: pytest.MonkeyPatch) -> None:  # fmt: skip
    """Whatever is kept for a while, and though drafts are numbered from one again."""
    monkeypatch.setattr(throttled_cache, "QUICK", 0.0)
    client, api = signed_in(house.consultant), "/api/accounts/sailing/score"
    add_tags(house.sailing, [(who(house, 1).pk, "keen", Cause())])

    def would_give(points: int) -> float:
        draft = {"rules": {"being": [BEING | {"name": "x", "points": points}]}, "revision": 0}
        assert client.put(api, draft, "application/json").json()["revision"] == 1
        found = client.get(f"{api}/compared").json()
        client.delete(api)
        return float(found["who"][0]["after"])

    assert [would_give(points) for points in (15, 40)] == [15, 40]


def test_a_further_score_stands_beside_the_lead_score_and_stays_while_something_goes_by_it(house: House, signed_in: Callable[..., Client]) -> None:  # fmt: skip
    client, api = signed_in(house.consultant), "/api/accounts/sailing"
    racing = {"name": "x", "score": "Racing", "points": 4, "on": {"kind": "form_sent", "form": "Prices"}}
    marks = [{"name": "in", "at_least": 1}, {"name": "in", "at_least": 4, "score": "Racing"}]
    with clock.at(NOW):
        start = {"kind": "score_crossed", "way": "rises_to", "mark": 4, "score": "Racing"}
        step = {"id": "s", "kind": "score", "rule": "came to the slip", "points": 12, "score": "Racing"}
        crew = house.workflow(starts=[start], steps=[step], hours=None)
        draft = {"further": ["Racing"], "doing": [DOING | {"name": "x"}, racing], "marks": marks}
        lost = client.put(f"{api}/score", {"rules": draft | {"further": []}, "revision": 0}, "application/json")
        assert lost.status_code == 422 and "there is no score Racing" in str(lost.json())
        client.put(f"{api}/score", {"rules": draft, "revision": 0}, "application/json")
        client.post(f"{api}/score/count", {"revision": 1, "starts": []}, "application/json")
        until_quiet()
        sends_a_form(house, 1)
        sends_a_form(house, 2)
        assert Enrolment.objects.filter(workflow=crew).count() == 2, (
            "the mark of this score was passed, not the lead score's"
        )
        told = client.get(f"{api}/contacts/{who(house, 1).pk}/score").json()
        assert [(one["name"], one["score"]) for one in told] == [("", 10), ("Racing", 16)]
        add_tags(house.sailing, [(who(house, 2).pk, "keen", Cause())])
        asked = {
            "who": {"where": {"test": "score", "score": "Racing", "compare": "more_than", "points": 15}},
            "order": "-score:Racing",
        }
        rows = client.post(f"{api}/contacts/find", asked, "application/json").json()["rows"]
        assert {one["name"]: one["further"] for one in rows} == {"P1": {"Racing": 16}, "P2": {"Racing": 16}}
        gone = client.put(f"{api}/score", {"rules": draft | {"further": [], "doing": draft["doing"][:1], "marks": marks[:1]}, "revision": 0}, "application/json")  # fmt: skip
        assert gone.json()["faults"] == [f"“Racing” cannot go: “{crew.name}” goes by it."]
        refused = client.post(f"{api}/score/count", {"revision": 1}, "application/json")
        assert refused.status_code == 422 and "cannot go" in refused.json()["detail"]
        more = draft | {"doing": [DOING | {"name": "x", "points": 20}, racing]}
        client.put(f"{api}/score", {"rules": more, "revision": 1}, "application/json")
        client.post(f"{api}/score/count", {"revision": 2, "starts": []}, "application/json")
        until_quiet()
        told = client.get(f"{api}/contacts/{who(house, 1).pk}/score").json()
        assert [(one["name"], one["score"]) for one in told] == [("", 20), ("Racing", 16)], "what a line gave stands"


def test_who_has_sent_nothing_for_so_long_loses_points_on_the_minute(house: House) -> None:
    """And starts what starts by that, though nothing happens; by the clock of a worker, not at the next event."""
    lately = {"test": "event", "event": "form.sent", "yes": True, "within": "90 days"}
    with clock.at(NOW) as move_to:
        set_rules(house.sailing, rules(being=({"points": 10, "when": lately},)))
        start = {"kind": "score_crossed", "way": "falls_below", "mark": 5}
        left = house.workflow(starts=[start], steps=[{"id": "s", "kind": "tag", "tag": "quiet"}], hours=None)
        sends_a_form(house, 1)
        assert points(house, 1) == 10
        move_to(NOW + timedelta(days=60))
        sends_a_form(house, 2)
        moving_the_clock.run_through(NOW + timedelta(days=90) - timedelta(hours=1, seconds=1), move_to)
        assert (points(house, 1), Enrolment.objects.filter(workflow=left).count()) == (10, 0)
        moving_the_clock.run_through(NOW + timedelta(days=90), move_to)  # the clocks went forward meanwhile
        assert [points(house, n) for n in (1, 2)] == [0, 10]
        assert Enrolment.objects.get(workflow=left).joined_at == NOW + timedelta(days=90) - timedelta(hours=1)
        sends_a_form(house, 1)
        assert ScoreTurn.objects.count() == 2
        merging.merge(house.sailing, who(house, 1).pk, who(house, 2).pk, (), Cause())
        until_quiet()
        assert ScoreTurn.objects.get().contact_id == who(house, 1).pk and points(house, 1) == 10
        set_rules(house.sailing, rules())  # none by time: the moments that are kept are not looked at without end
        moving_the_clock.run_through(NOW + timedelta(days=300), move_to)
        assert not ScoreTurn.objects.exists() and until_quiet() == 0
        clocked = rules(being=({"points": 3, "when": {"test": "weekday"}},))
        assert "says nothing of who" in recounting.missing(clocked)[0]
