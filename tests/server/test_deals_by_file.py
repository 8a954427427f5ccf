"""Deals that come with a file of people: made once, told where they cannot be, and taken back as far as nothing has become of them."""

from datetime import UTC, date, datetime
from decimal import Decimal
from typing import Any

from bluffside.server.events.models import Event
from bluffside.server.people import imports
from bluffside.server.pipeline import services, stages
from bluffside.server.pipeline.models import Deal, DealStay
from bluffside.server.practice import clock
from tests.server.bringing import begin, finish
from tests.server.conftest import House

FILE = """Email;Name;Deal;Stage;Deal value;Deal expected;Deal status;Deal owner
ada@example.com;Ada Marsh;Junior course;Talking;"1.240,50";03.04.2026;;
ada@example.com;Ada Marsh;Crew week;new;580;;won;{owner}
bo@example.com;Bo Tarn;;;;;;
cy@example.com;Cy Reed;Charter;Nowhere;90;;;
di@example.com;Di Shaw;Charter;New;a lot;;;
ed@example.com;Ed Lund;Charter;New;90;;maybe;
flo@example.com;Flo Hay;;Talking;240;;;
"""


def test_a_file_brings_people_and_their_deals_once_and_they_are_taken_back(api: Any, house: House) -> None:
    data = FILE.format(owner=house.member.name).encode()
    before = imports.read_file(house.sailing, house.consultant, "people.csv", data)
    assert "deal:stage" not in before.settings["mapping"].values(), "there is no pipeline that they could stand on"
    stages.make(house.sailing, "Courses", house.consultant, ["New", "Talking"])
    with clock.at(datetime(2026, 3, 5, 12, tzinfo=UTC)) as move_to:
        one = imports.read_file(house.sailing, house.consultant, "people.csv", data)
        _, read = api("GET", f"imports/{one.id}")
        assert read["settings"]["places"] == {"deal": "Courses"} and read["beside"][0]["places"] == ["Courses"]
        _, look = api("POST", f"imports/{one.id}/look", read["settings"])
        said = {row["row"]: row["words"] for row in look["rows"]}
        assert "the deal “Junior course” in “Talking”" in said[2]
        wrong = read["settings"] | {"places": {"deal": "Charters"}}
        assert api("POST", f"imports/{one.id}/start", wrong)[0] == 422
        status, _ = api("POST", f"imports/{one.id}/start", read["settings"])
        assert status == 200
        finish(one)
        one.refresh_from_db()
        assert (one.state, one.added, one.failed, one.partly) == ("done", 6, 0, 3)
        reasons = " ".join(one.faults.order_by("row").values_list("reason", flat=True))
        assert "Courses has no stage “Nowhere”" in reasons and "“maybe” is neither open" in reasons
        rows = Deal.objects.order_by("contact__email", "name").values_list(
            "contact__email", "name", "stage", "state", "value", "expected_on", "owner"
        )
        assert list(rows) == [
            ("ada@example.com", "Crew week", "New", "won", Decimal(580), None, house.member.id),
            ("ada@example.com", "Junior course", "Talking", "open", Decimal("1240.50"), date(2026, 4, 3), None),
            ("di@example.com", "Charter", "New", "open", Decimal(0), None, None),
            ("flo@example.com", "", "Talking", "open", Decimal(240), None, None),
        ]
        assert (
            DealStay.objects.filter(left_at=None).count() == 3
            and Event.objects.filter(kind="deal.created").count() == 3
        )

        again = finish(begin(house, data, duplicates="skip"))
        assert Deal.objects.count() == 4 and again.added == 0, "brought in again, nothing is made twice"

        move_to(datetime(2026, 3, 6, 12, tzinfo=UTC))
        services.move_deal(Deal.objects.get(contact__email="di@example.com"), "Talking")
        imports.take_back(one)
        finish(one)
        assert (one.state, one.kept) == ("taken_back", 2), "Di is still here, and so is her deal that went on"
        assert list(Deal.objects.values_list("contact__email", flat=True)) == ["di@example.com"]
        assert not DealStay.objects.exclude(deal__contact__email="di@example.com").exists()


def test_deals_of_people_who_are_here_are_taken_back_though_nothing_else_came_for_them(house: House) -> None:
    stages.make(house.sailing, "Courses", house.consultant, ["New", "Talking"])
    ada = house.contact()
    data = f"Email;Deal\n{ada.email};Junior\n".encode()
    one = finish(begin(house, data))
    assert (one.added, one.changed) == (0, 0) and Deal.objects.get().contact == ada
    imports.take_back(one)
    finish(one)
    assert one.state == "taken_back" and not Deal.objects.exists()
