"""Deals: what happens next about each, the table that adds up, moving and taking back, stages that are called otherwise and taken out."""

from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from decimal import Decimal
from typing import Any

import pytest
from django.test import Client
from hypothesis import given, settings
from hypothesis import strategies as st

from bluffside.core.engine.turn import NEVER
from bluffside.core.workflow.files import parse_workflow
from bluffside.server.deals import tide
from bluffside.server.deals.next_up import NOTHING, Next, next_of
from bluffside.server.deals.taking_back import take_back_act
from bluffside.server.diary import services as diary
from bluffside.server.events.models import Event
from bluffside.server.events.stream import Cause
from bluffside.server.messaging.models import Message, Reply
from bluffside.server.people.models import Contact
from bluffside.server.people.usages import uses
from bluffside.server.pipeline import services, stages
from bluffside.server.pipeline.models import Deal, DealStay, Pipeline, Stage
from bluffside.server.practice import clock
from bluffside.server.practice.naming import NotAName
from bluffside.server.segments.models import Segment
from bluffside.server.worker import until_quiet
from bluffside.server.workflows import writing
from bluffside.server.workflows.models import Enrolment
from tests.core.examples import ASK
from tests.server.conftest import House

NOW = datetime(2026, 3, 5, 10, 42, tzinfo=UTC)  # a Thursday


@pytest.fixture
def courses(house: House) -> Pipeline:
    return stages.make(house.sailing, "Courses", house.consultant, ["New", "Talking", "Place held"])


def deal(house: House, contact: Contact | int = 1, stage: str = "New", value: int = 240, **more: Any) -> Deal:
    who = house.contact(contact) if isinstance(contact, int) else contact
    return services.create_deal(who, "Courses", stage, "Start Sailing", Decimal(value), **more)


def task(contact: Contact, at: datetime, kind: Any = "call", title: str = "Call") -> None:
    new = diary.NewTask(contact.pk, f"t{at}", kind, title, "", "", None, None, "", 1, at)
    diary.make(contact.account, [new], {new.key: Cause()})


def coming(one: Deal) -> Next:
    return next_of(one.account, [one], clock.now())[one.pk]


def test_what_comes_first_is_what_happens_next(house: House, courses: Pipeline) -> None:
    with clock.at(NOW) as move_to:
        one = deal(house)
        assert coming(one) is NOTHING
        diary.book(one.contact, "Taster sail", NOW + timedelta(days=2))
        assert coming(one)[:4] == ("appointment", NOW + timedelta(days=2), "", "Taster sail")
        task(one.contact, NOW + timedelta(days=1))
        assert coming(one)[:2] == ("task", NOW + timedelta(days=1)) and coming(one).words == "calls"
        one.contact.responsible = house.member
        one.contact.save()
        Reply.objects.create(
            account=house.sailing, contact=one.contact, key="r", channel="text", text="Hello", received_at=NOW - timedelta(hours=2)
        )  # fmt: skip
        assert (coming(one).who, coming(one).words) == ("Mel", "answers the text of 08:42")
        move_to(NOW + timedelta(days=3))  # the appointment is over: nobody waits for it any more
        Reply.objects.all().delete()
        assert coming(one).sort == "task"


def test_a_workflow_that_is_about_another_deal_says_nothing_of_this_one(house: House, courses: Pipeline) -> None:
    with clock.at(NOW):
        ana = house.contact()
        one, other = deal(house, ana), deal(house, ana)
        document = parse_workflow(ASK | {"starts": [{"kind": "deal", "what": "made"}], "entry": {"again": "always"}})
        made = writing.create(house.sailing, document, house.consultant)
        writing.publish(made, made.revision, house.consultant)
        third = deal(house, house.contact(2))
        until_quiet()
        assert coming(third).sort in ("waits", "goes on") and coming(third).words == made.name
        Enrolment.objects.update(contact=ana, about={"deal": one.ref})
        assert coming(one).workflow == made.pk and coming(other) is NOTHING


@settings(deadline=None, max_examples=60)
@given(
    st.lists(
        st.tuples(st.sampled_from(["New", "Talking"]), st.integers(0, 900), st.one_of(st.none(), st.integers(-90, 900)),
                  st.integers(0, 20)),
        max_size=30,
    ),
    st.integers(0, 500), st.sampled_from(["", "nothing", "long"]),
)  # fmt: skip
def test_rows_and_columns_add_up_to_the_same_deals(
    some: list[tuple[str, int, int | None, int]], least: int, only: Any
) -> None:
    """Without the database: what `tide` sorts, against the plainest count of it."""
    by = {"New": Stage(name="New", rest_days=7), "Talking": Stage(name="Talking")}
    rows = [
        tide.Known(n, n, "", s, "open", "", Decimal(v), None, NOW - timedelta(days=d), None, None, "")
        for n, (s, v, _, d) in enumerate(some)
    ]
    nexts = [Next("task", NOW + timedelta(hours=h)) if h is not None else NOTHING for _, _, h, _ in some]
    found = tide.sort_out(rows, dict(enumerate(nexts)), by, tide.Filter(None, Decimal(least), only), NOW, "UTC")
    wanted = [
        n
        for n, (s, v, h, d) in enumerate(some)
        if v >= least and (only != "nothing" or h is None) and (only != "long" or (s == "New" and d > 7))
    ]
    for sums in (found.columns, found.rows, found.cells):
        assert sum(one.count for one in sums.values()) == len(wanted)
        assert sum(one.worth for one in sums.values()) == sum(some[n][1] for n in wanted)
        assert sorted(each.deal.id for one in sums.values() for each in one.some) == wanted
    for (row, stage), cell in found.cells.items():
        for each in cell.some:
            hours = some[each.deal.id][2]
            assert each.deal.stage == stage
            days = None if hours is None else ((NOW + timedelta(hours=hours)).date() - NOW.date()).days
            assert row == tide.row_of(each.next, tide.beginnings(NOW.date(), "UTC"))
            assert (days is None) == (row == "nothing") and (row == "late") == (days is not None and days < 0)


def test_the_table_says_what_comes_when_and_what_rests_too_long(house: House, courses: Pipeline, signed_in: Callable[..., Client]) -> None:  # fmt: skip
    client = signed_in(house.member)
    stages.change_stage(courses.stages.get(name="New"), {"rest_days": 2}, house.consultant)
    with clock.at(NOW - timedelta(days=4)):
        rests = deal(house, 1, value=180)
    with clock.at(NOW):
        for n in range(2, 9):
            deal(house, n, "Talking", 100 + n, owner=house.member if n < 4 else None)
        task(Contact.objects.get(first_name="P3"), NOW - timedelta(days=2))
        task(Contact.objects.get(first_name="P4"), NOW + timedelta(hours=3))
        services.move_deal(deal(house, 9, value=60), state="won")
        table = client.get("/api/accounts/sailing/deals").json()
        assert [one["name"] for one in table["columns"]] == ["New", "Talking", "Place held"]
        assert (table["count"], table["nothing"], table["longer"], table["mine"]) == (8, 6, 1, 2)
        assert table["won"] == {"count": 1, "worth": "60.00"} and table["lost"]["count"] == 0
        assert [(one["row"], one["count"]) for one in table["rows"]] == [("nothing", 6), ("late", 1), ("today", 1)]
        nothing = {cell["stage"]: cell for cell in table["rows"][0]["cells"]}
        assert [(one["id"], one["days"], one["over"]) for one in nothing["New"]["deals"]] == [(rests.pk, 4, 2)]
        assert (len(nothing["Talking"]["deals"]), nothing["Talking"]["more"]) == (4, 1)
        assert [one["value"] for one in nothing["Talking"]["deals"]] == ["108.00", "107.00", "106.00", "105.00"]
        late = table["rows"][1]["cells"][1]["deals"][0]["next"]
        assert (late["words"], late["late_days"]) == ("calls", 2)
        assert (
            client.get("/api/accounts/sailing/deals?whole=nothing/Talking").json()["rows"][0]["cells"][1]["more"] == 0
        )
        assert client.get(f"/api/accounts/sailing/deals?whose={house.member.pk}").json()["count"] == 2
        assert client.get("/api/accounts/sailing/deals?only=long").json()["count"] == 1
        assert client.get("/api/accounts/pottery/deals").status_code == 404


# ---- moving and taking back


def test_what_is_moved_is_taken_back_with_its_age_and_what_was_sent_is_said(house: House, courses: Pipeline) -> None:
    document = parse_workflow(
        ASK | {"starts": [{"kind": "stage_changed", "into": "Place held"}], "entry": {"again": "always"}, "hours": None}
    )
    made = writing.create(house.sailing, document, house.consultant)
    writing.publish(made, made.revision, house.consultant)
    with clock.at(NOW - timedelta(days=3)):
        some = [deal(house, n) for n in (1, 2)]
    with clock.at(NOW) as move_to:
        act = services.move_deals(house.sailing, [one.pk for one in some], "Place held", "open", house.member)
        assert len(act.deals) == 2 and set(Deal.objects.values_list("since", flat=True)) == {NOW}
        until_quiet()
        assert Message.objects.count() == 2 and Enrolment.objects.filter(ended_at=None).count() == 2
        services.move_deal(some[1], "Talking")  # it went on, so it stays
        move_to(NOW + timedelta(minutes=1))
        said, back, left = take_back_act(house.sailing, act.key, house.member)
        until_quiet()
        assert (back, left) == (1, 1) and len(said) == 1 and said[0].endswith("to P1")
        one, other = Deal.objects.order_by("id")
        assert (one.stage, one.since, other.stage) == ("New", NOW - timedelta(days=3), "Talking")
        ended = Enrolment.objects.get(contact=one.contact)
        assert "moved the deal back" in ended.ended and Enrolment.objects.get(contact=other.contact).ended_at is None
        assert Event.objects.filter(kind="deal.put_back").count() == 1
        assert take_back_act(house.sailing, act.key, house.member)[1] == 0  # once


def test_deals_are_closed_with_a_reason_and_opened_again(house: House, courses: Pipeline, signed_in: Callable[..., Client]) -> None:  # fmt: skip
    client, one = signed_in(house.member), deal(house)
    path = "/api/accounts/sailing/deals/move"
    body = {"deals": [one.pk], "state": "lost", "why": "too dear"}
    act = client.post(path, body, "application/json").json()
    one.refresh_from_db()
    assert (one.state, one.why, act["moved"]) == ("lost", "too dear", 1) and one.closed_at
    assert client.post(path, body, "application/json").json()["moved"] == 0
    assert client.post(path, body | {"deals": [one.pk, 10**9]}, "application/json").status_code == 409
    assert client.post(path, body | {"stage": "Nowhere", "state": "open"}, "application/json").status_code == 409
    back = client.post(f"/api/accounts/sailing/deals/acts/{act['act']}/take-back").json()
    assert back == {"taken_back": 1, "left": 0, "stays": []}
    one.refresh_from_db()
    assert (one.state, one.why, one.closed_at) == ("open", "", None)
    assert client.post(f"/api/accounts/sailing/deals/acts/{act['act']}/take-back").status_code == 404
    client.patch(
        f"/api/accounts/sailing/deals/{one.pk}", {"value": "310.50", "owner": house.member.pk}, "application/json"
    )
    one.refresh_from_db()
    assert (one.value, one.owner) == (Decimal("310.50"), house.member)
    assert (
        client.patch(f"/api/accounts/sailing/deals/{one.pk}", {"owner": 10**9}, "application/json").status_code == 422
    )


def test_a_second_open_deal_of_somebody_is_asked_about(house: House, courses: Pipeline, signed_in: Callable[..., Client]) -> None:  # fmt: skip
    client, contact = signed_in(house.member), house.contact()
    body: dict[str, Any] = {
        "contact_id": contact.pk,
        "pipeline": "Courses",
        "stage": "New",
        "value": 90,
        "name": "Junior",
    }

    def make(**more: Any) -> Any:
        return client.post("/api/accounts/sailing/deals", body | more, "application/json")

    assert make().status_code == 201
    asks = make().json()["asks"]
    assert asks == "P1 has “Junior” open on Courses already." and Deal.objects.count() == 1
    assert make(although=True).status_code == 201 and Deal.objects.count() == 2
    assert make(stage="Nowhere").status_code == 422 and make(value=-1).status_code == 422


# ---- stages


def test_a_stage_is_called_otherwise_in_all_that_names_it(house: House, courses: Pipeline) -> None:
    one = deal(house, 1, "Talking")
    Segment.objects.create(
        account=house.sailing, name="In talks", condition={"test": "deal", "stages": ["Talking"]}, by=house.consultant, made_at=NOW
    )  # fmt: skip
    stages.change_stage(courses.stages.get(name="Talking"), {"name": "In talks", "position": 0}, house.consultant)
    one.refresh_from_db()
    assert one.stage == "In talks" and [each.name for each in courses.stages.all()] == ["In talks", "New", "Place held"]
    assert {use.name for use in uses(house.sailing) if use.kind == "stage"} == {"In talks"}
    with pytest.raises(NotAName):
        stages.change_stage(courses.stages.get(name="New"), {"name": "in TALKS"}, house.consultant)
    stages.make(house.sailing, "Boats", house.consultant, ["In talks"])
    with pytest.raises(NotAName, match="Another pipeline"):  # whose the segment means cannot be told
        stages.change_stage(courses.stages.get(name="In talks"), {"name": "Talking"}, house.consultant)


def test_a_stage_that_is_taken_out_leaves_no_deal_behind(house: House, courses: Pipeline, signed_in: Callable[..., Client]) -> None:  # fmt: skip
    client, one = signed_in(house.consultant), deal(house, 1, "Talking")
    talking, held = courses.stages.get(name="Talking"), courses.stages.get(name="Place held")
    refused = client.delete(f"/api/accounts/sailing/set-up/stages/{talking.pk}")
    assert refused.status_code == 409 and "1 deal is in “Talking”" in refused.json()["detail"]
    left = client.delete(f"/api/accounts/sailing/set-up/stages/{talking.pk}?into={held.pk}").json()
    one.refresh_from_db()
    assert one.stage == "Place held" and [each["name"] for each in left[0]["stages"]] == ["New", "Place held"]
    assert not Event.objects.filter(kind="stage.changed").exists()
    assert client.delete(f"/api/accounts/sailing/set-up/pipelines/{courses.pk}").status_code == 409
    one.delete()
    assert client.delete(f"/api/accounts/sailing/set-up/pipelines/{courses.pk}").json() == []


def test_what_waits_without_end_stands_last(house: House) -> None:
    assert tide.row_of(Next("waits", NEVER), tide.beginnings(NOW.date(), "Pacific/Kiritimati")) == "later"


def test_a_contact_shows_their_deals_and_who_moved_them(house: House, courses: Pipeline, signed_in: Callable[..., Client]) -> None:  # fmt: skip
    client, one = signed_in(house.member), deal(house)
    other = services.create_deal(one.contact, "Courses", "Talking", "Family week", Decimal(690))
    act = services.move_deals(house.sailing, [one.pk], "Talking", "open", house.member)
    services.move_deals(house.sailing, [other.pk], "", "lost", house.member, "too dear")
    services.take_back(house.sailing, act.key, house.member)
    found = client.get(f"/api/accounts/sailing/contacts/{one.contact_id}/deals").json()
    first, second = found["deals"]
    assert (first["id"], first["stage"], first["next"]["sort"]) == (one.pk, "New", "nothing")
    assert [(each["by"], each["stage"], each["back"]) for each in first["moves"]] == [
        (house.member.name, "Talking", True)
    ]
    assert (second["state"], second["why"], second["stages"]) == ("lost", "too dear", ["New", "Talking", "Place held"])
    again = client.post("/api/accounts/sailing/deals/move", {"deals": [other.pk]}, "application/json").json()
    other.refresh_from_db()
    assert again["moved"] == 1 and (other.state, other.why, other.closed_at) == ("open", "", None)
    assert client.get(f"/api/accounts/pottery/contacts/{one.contact_id}/deals").status_code == 404


# ---- a deal's own page, lists, and what is counted


def test_a_deal_has_people_notes_fields_and_what_must_be_known(house: House, courses: Pipeline, signed_in: Callable[..., Client]) -> None:  # fmt: skip
    client, one, other = signed_in(house.consultant), deal(house, value=0), house.contact(2)
    api, page = "/api/accounts/sailing", f"/api/accounts/sailing/deals/{one.pk}"
    for field in (
        {"name": "Boat", "kind": "choice", "choices": ["Dinghy", "Keelboat"]},
        {"name": "Crew", "kind": "number"},
    ):
        assert client.post(f"{api}/set-up/deal-fields", field, "application/json").status_code == 201
    held = courses.stages.get(name="Place held")
    needs = {"needs": ["value", "Boat"], "likely": 60}
    assert client.patch(f"{api}/set-up/stages/{held.pk}", needs, "application/json").status_code == 200
    assert client.patch(f"{api}/set-up/stages/{held.pk}", {"needs": ["No such"]}, "application/json").status_code == 422
    move = {"deals": [one.pk], "stage": "Place held"}
    refused = client.post(f"{api}/deals/move", move, "application/json")
    assert refused.status_code == 409 and "must be known what it is worth and “Boat”" in refused.json()["detail"]
    bad = client.patch(page, {"fields": {"Crew": "many"}}, "application/json")
    assert bad.status_code == 422 and "Nothing was changed" in bad.json()["detail"]
    assert client.patch(page, {"value": "90", "fields": {"Boat": "Dinghy"}}, "application/json").status_code == 204
    assert client.post(f"{api}/deals/move", move, "application/json").status_code == 200
    assert client.put(f"{page}/people", {"contact_id": other.pk, "part": "pays"}, "application/json").status_code == 200
    assert (
        client.put(f"{page}/people", {"contact_id": one.contact_id, "part": "pays"}, "application/json").status_code
        == 422
    )
    found = client.post(f"{page}/notes", {"text": "Wants the blue one."}, "application/json").json()
    assert [(each["name"], each["part"]) for each in found["people"]] == [("P1", ""), ("P2", "pays")]
    assert {each["name"]: each["said"] for each in found["fields"]} == {"Boat": "Dinghy", "Crew": ""}
    assert found["notes"][0]["text"] == "Wants the blue one." and found["likely"] == 0.6
    assert [each["sentence"] for each in found["went"]][:2] == ["In the deal “Start Sailing”: pays", "Deal moved from “New” to “Place held”"]  # fmt: skip
    assert found["went"][-1]["sentence"].startswith("Deal made")
    kept = client.delete(
        f"{api}/set-up/deal-fields/{client.get(f'{api}/set-up/deal-fields').json()['fields'][0]['id']}"
    )
    assert [each["name"] for each in kept.json()["fields"]] == ["Crew"]
    one.refresh_from_db()
    held.refresh_from_db()
    assert one.fields == {} and held.needs == ["value"], "a field that is gone is needed nowhere"
    assert client.delete(f"{page}/people/{other.pk}").json()["people"][1:] == []
    assert client.delete(f"{page}/notes/{found['notes'][0]['id']}").json()["notes"] == []
    assert client.get(page.replace("sailing", "pottery")).status_code == 404


def test_deals_are_listed_by_any_figure_and_a_view_is_kept(house: House, courses: Pipeline, signed_in: Callable[..., Client]) -> None:  # fmt: skip
    client, api = signed_in(house.member), "/api/accounts/sailing/deals"
    with clock.at(NOW):
        some = [deal(house, n, value=worth) for n, worth in ((1, 300), (2, 100), (3, 200))]
        task(some[2].contact, NOW + timedelta(hours=1))
        services.move_deal(deal(house, 4, value=900), state="lost", why="too dear")

        def names(**asked: Any) -> list[str]:
            return [one["contact"] for one in client.get(f"{api}/list", asked).json()["deals"]]

        assert names(sort="value") == ["P2", "P3", "P1"] and names(sort="value", down=True) == ["P1", "P3", "P2"]
        assert names(sort="next")[0] == "P3" and names(only="nothing") == ["P1", "P2"]
        lost = client.get(f"{api}/list?state=lost").json()["deals"]
        assert [(one["contact"], one["why"], one["closed_on"]) for one in lost] == [("P4", "too dear", "2026-03-05")]
        assert client.get(f"{api}/list?pipeline=Nowhere").status_code == 404
    asks = {"as": "list", "sort": "value"}
    kept = client.post(f"{api}/views", {"name": "Dearest", "asks": asks}, "application/json").json()
    assert kept[0]["asks"] == asks
    assert client.post(f"{api}/views", {"name": "dearest", "asks": {}}, "application/json").status_code == 422
    assert client.delete(f"{api}/views/{kept[0]['id']}").json() == []


def test_stages_are_counted_by_what_became_of_deals_that_stood_there(house: House, courses: Pipeline, signed_in: Callable[..., Client]) -> None:  # fmt: skip
    """Moved by people, by workflows' effects, taken back and called otherwise: the stays say what was."""
    client = signed_in(house.member)
    with clock.at(NOW) as move_to:
        for n in range(1, 9):
            one = deal(house, n, value=100)
            move_to(NOW + timedelta(days=n))
            if n <= 6:
                services.move_deals(house.sailing, [one.pk], "Talking", "open", house.member)
            if n <= 4:
                services.move_deal(one, state="won" if n <= 3 else "lost")
        act = services.move_deals(house.sailing, [one.pk], "Place held", "open", house.member)
        services.take_back(house.sailing, act.key, house.member)
        stages.change_stage(courses.stages.get(name="Talking"), {"name": "In talks"}, house.consultant)
        stages.change_stage(courses.stages.get(name="New"), {"likely": 10}, house.consultant)
        found = client.get("/api/accounts/sailing/deals/coming").json()
    by = {each["stage"]: (each["open"], each["set"], each["won"], each["closed"]) for each in found["stages"]}
    assert by == {"New": (2, 10, 3, 4), "In talks": (2, None, 3, 4), "Place held": (0, None, 0, 0)}
    assert found["all"]["likely"] == pytest.approx(2 * 0.1 * 100 + 2 * 0.75 * 100) and found["left_out"] == 0
    assert [(one["month"], one["deals"]) for one in found["months"]] == [("", 4)]
    assert found["deals"] == 8 and [one["days"] for one in found["told"]] == [1]  # of eight, five were watched so long
    assert not DealStay.objects.filter(stage="Talking").exists()
