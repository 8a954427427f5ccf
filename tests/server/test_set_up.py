"""Set-up: what is set is what is sent and kept, who changed it stands in the audit trail, and what cannot be is said by its field."""

import json
from datetime import UTC, date, datetime
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from bluffside.core.care.calendar import HolidayCalendar, public_holidays
from bluffside.core.care.house import Care
from bluffside.core.engine.turn import Setting
from bluffside.core.words import date_in, time_in, weekday_in
from bluffside.server.people.queries import account_facts
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account, AuditEntry
from bluffside.server.set_up import hours, places
from bluffside.server.workflows.house_rules import change_care
from tests.core.examples import ASK
from tests.core.making import cares, limited_cares
from tests.server.conftest import House

MONDAY = datetime(2026, 3, 2, 9, tzinfo=UTC)


@pytest.fixture
def set_up(house: House, signed_in: Any) -> Any:
    client = signed_in(house.consultant)

    def ask(method: str, path: str, **body: Any) -> Any:
        address = f"/api/accounts/sailing/{path}"
        if method == "get":
            return client.get(address)
        return getattr(client, method)(address, json.dumps(body), content_type="application/json")

    return ask


def business(set_up: Any, **changes: Any) -> Any:
    now = set_up("get", "set-up/business").json()
    return set_up("put", "set-up/business", **{**now, **changes})


def test_what_the_business_is_is_what_its_messages_say(house: House, set_up: Any) -> None:
    told = [
        {
            "kind": "text",
            "id": "t",
            "purpose": "service",
            "message": {"name": "Park", "body": "Park: {{ account.details.Where_to_park }}."},
        }
    ]
    house.workflow(name="Parking", steps=told)
    details = [{"name": "Where to park", "words": "behind the chandlery"}]
    answer = business(
        set_up, trade="sailing school", web_page="sailing.example.com", phone="07700 900456", details=details
    )
    assert answer.status_code == 200, answer.content
    kept = answer.json()
    assert (kept["number"], kept["web_page"]) == ("07700 900456", "https://sailing.example.com")
    assert {one["path"]: [w["name"] for w in one["workflows"]] for one in kept["depends"]}[
        "account.details.Where_to_park"
    ] == ["Parking"]
    own = account_facts(Account.objects.get(id=house.sailing.id))
    assert own.details == {"Where to park": "behind the chandlery"}
    said = [
        (one.what, one.old, one.new, one.by_name)
        for one in AuditEntry.objects.filter(account=house.sailing, area="business")
    ]
    assert ("the detail “Where to park”", "", "behind the chandlery", "Imogen F") in said
    assert ("the phone", "", "+447700900456", "Imogen F") in said
    # Taken out again, what merges it is told of by the checks.
    assert business(set_up, details=[]).status_code == 200
    document = {**ASK, "name": "Parking", "steps": told}
    checks = set_up("post", "read", document=document).json()["reading"]["checks"]
    assert any(one["code"] == "no-such-detail" and "Where to park" in one["sentence"] for one in checks)


@pytest.mark.parametrize(
    ("changes", "field"),
    [
        ({"zone": "Atlantis/Deep"}, "zone"), ({"region": "QQ"}, "region"), ({"currency": "XYZ"}, "currency"), ({"language": "tlh-XX-oops"}, "language"),
        ({"phone": "12"}, "phone"), ({"name": "  "}, "name"), ({"web_page": "javascript:alert(1)"}, "web_page"), ({"booking_link": "no page"}, "booking_link"),
        ({"details": [{"name": "To park", "words": ""}, {"name": "to_park", "words": ""}]}, "details"),
    ],
)  # fmt: skip
def test_what_cannot_be_is_said_by_its_field_and_changes_nothing(set_up: Any, changes: Any, field: str) -> None:
    before = set_up("get", "set-up/business").json()
    answer = business(set_up, **changes)
    assert answer.status_code == 422
    assert list(answer.json()["faults"]) == [field]
    assert set_up("get", "set-up/business").json() == before


@settings(max_examples=30, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(care=limited_cares | cares, at=st.datetimes(datetime(2026, 1, 1), datetime(2027, 12, 1), timezones=st.just(UTC)))
def test_whatever_care_is_set_decides_the_same_when_it_is_read_back(house: House, care: Care, at: datetime) -> None:
    change_care(house.sailing, care.model_dump(mode="json"), house.consultant)
    kept = account_facts(Account.objects.get(id=house.sailing.id)).care
    given_, read = (Setting("Europe/London", None, one, home="Europe/London") for one in (care, kept))
    assert kept == care
    for channel in ("text", "email"):
        assert given_.next_allowed(at, channel, "marketing") == read.next_allowed(at, channel, "marketing")  # type: ignore[arg-type]
    assert given_.team_is_there(at) == read.team_is_there(at)


def test_parts_of_the_care_are_changed_by_themselves_and_noted(set_up: Any, house: House) -> None:
    opening = {"days": {"mon": [{"start": "09:00", "end": "17:00"}]}}
    assert set_up("patch", "care", parts={"opening": opening}).status_code == 200
    kept = set_up("patch", "care", parts={"quiet": [{"start": "20:00", "end": "08:00"}]}).json()
    assert kept["opening"]["days"] == {"mon": [{"start": "09:00", "end": "17:00"}]}
    wrong = set_up("patch", "care", parts={"opening": {"days": {"mon": [{"start": "17:00", "end": "09:00"}]}}})
    assert wrong.status_code == 422
    assert "end after they begin" in wrong.json()["faults"]["opening"]
    assert set_up("patch", "care", parts={"quiets": []}).status_code == 422
    rows = set_up("get", "set-up/changes?area=hours").json()["rows"]
    assert [(one["what"], one["old"], one["new"]) for one in rows] == [
        ("quiet hours", "", "20:00 to 08:00"),
        ("opening hours", "", "Monday 09:00 to 17:00"),
    ]
    assert set_up("get", "set-up/changes?q=monday%20imogen").json()["rows"]
    assert not set_up("get", "set-up/changes?q=tuesday").json()["rows"]


def test_holidays_are_kept_by_name_and_a_day_can_be_otherwise() -> None:
    # GOV.UK, bank holidays of England and Wales, 2026 (from memory): 1 Jan, 3 Apr, 6 Apr, 4 May, 25 May, 31 Aug, 25 Dec, 28 Dec.
    named = dict(public_holidays("GB", "ENG", 2026))
    weekdays = [day for day in named if day.weekday() < 5]
    assert weekdays == [
        date(2026, m, d) for m, d in [(1, 1), (4, 3), (4, 6), (5, 4), (5, 25), (8, 31), (12, 25), (12, 28)]
    ]
    open_on = {"days": {day: [{"start": "09:00", "end": "17:00"}] for day in ("mon", "fri")}}
    exception = {"day": "2026-04-06", "hours": [{"start": "10:00", "end": "16:00"}]}
    closed = {"first": "2026-03-20", "last": "2026-03-24", "name": "crane on the slip"}
    care = Care.model_validate(
        {
            "opening": {**open_on, "exceptions": [exception]},
            "holidays": {"country": "GB", "region": "ENG", "worked": ["May Day"], "own": [closed]},
        }
    )
    assert care.closed(date(2026, 4, 3)) == "Good Friday" and not care.hours_on(date(2026, 4, 3))
    assert [one.start.hour for one in care.hours_on(date(2026, 4, 6))] == [10]  # Easter Monday, as an exception
    assert not care.closed(date(2026, 5, 4)) and care.hours_on(date(2026, 5, 4))  # May Day is worked, each year
    assert care.closed(date(2026, 3, 23)) == "crane on the slip"
    assert (
        HolidayCalendar.model_validate({"also": ["2026-03-04"]}).holiday(date(2026, 3, 4))
        == "a day the business is closed"
    )


def test_six_weeks_are_counted_in_a_sentence(house: House) -> None:
    with clock.at(MONDAY):
        days = {day: [{"start": "09:00", "end": "18:00"}] for day in ("tue", "wed", "thu", "fri", "sat", "sun")}
        holidays = {"country": "GB", "region": "ENG"}
        care = change_care(house.sailing, {"opening": {"days": days}, "holidays": holidays}, house.consultant)
        ahead = hours.weeks_ahead(house.sailing, care)
        assert [one.day for one in ahead if one.clocks] == [
            date(2026, 3, 29)
        ]  # British Summer Time begins: 60 minutes forward
        assert next(one.clocks for one in ahead if one.clocks) == 60
        said = hours.in_a_sentence(care, ahead)
    assert (
        said
        == "Open 54 hours a week. In these six weeks 35 days are open, 7 closed: 5 Mondays, Good Friday and Easter Monday."
    )


def test_house_rules_warn_or_refuse_and_say_who_breaks_them(set_up: Any, house: House) -> None:
    house.workflow()
    assert set_up("patch", "care", parts={"first_text_says_who": True}).status_code == 200
    rules = {one["name"]: one["broken"] for one in set_up("get", "set-up/rules").json()["rules"]}
    assert [one["name"] for one in rules["first_text_says_who"]] == [ASK["name"]]
    assert not rules["longest_days"]
    severities = []
    for refuses in ([], ["first_text_says_who"]):
        set_up("patch", "care", parts={"refuses": refuses})
        checks = set_up("post", "read", document=ASK).json()["reading"]["checks"]
        severities += [one["severity"] for one in checks if one["code"] == "says-not-who"]
    assert severities == ["warning", "error"]


def test_places_are_found_by_town_or_country() -> None:
    assert [one.zone for one in places.find_zones("hobart")] == ["Australia/Hobart"]
    assert "Europe/Lisbon" in {one.zone for one in places.find_zones("portugal")}
    assert not places.find_zones("  ")
    # CLDR: what is usual in a country.
    assert [(places.usual_language(one), places.usual_currency(one)) for one in ("GB", "US", "AU", "DE")] == [
        ("en-GB", "GBP"), ("en-US", "USD"), ("en-AU", "AUD"), ("de-DE", "EUR"),
    ]  # fmt: skip
    assert len(places.countries()) > 200 and len(places.currencies()) > 140


def test_dates_are_written_as_the_language_of_the_account_writes_them() -> None:
    day, at = date(2026, 4, 3), datetime(2026, 4, 3, 14, 5)  # a local time
    said = {
        language: (weekday_in(language, day), date_in(language, day), time_in(language, at))
        for language in ("en-GB", "en-US", "de-DE")
    }
    assert said == {  # CLDR's patterns
        "en-GB": ("Friday 3 April", "3 April 2026", "14:05"),
        "en-US": ("Friday, April 3", "April 3, 2026", "2:05 PM"),
        "de-DE": ("Freitag, 3. April", "3. April 2026", "14:05"),
    }


def test_who_may_not_set_up_is_told_who_may(house: House, signed_in: Any) -> None:
    client = signed_in(house.member)
    for path in ("set-up/business", "set-up/hours", "set-up/rules", "set-up/changes"):
        answer = client.get(f"/api/accounts/sailing/{path}")
        assert answer.status_code == 403 and "consultants and managers may" in answer.json()["detail"]
