"""What pages of results say: figures with what they are of, along the script, as files; to whoever may look, of their own account alone."""

import csv
import io
from datetime import timedelta
from typing import Any

import pytest
from python_calamine import CalamineWorkbook

from bluffside.server import moving_the_clock
from bluffside.server.diary import services as diary
from bluffside.server.events.stream import Cause
from bluffside.server.messaging.services import click, take_reply
from bluffside.server.people.models import Contact
from bluffside.server.practice import clock
from bluffside.server.worker import until_quiet
from bluffside.server.workflows import enrolling
from bluffside.server.workflows.models import Workflow
from tests.server.conftest import NOON, House
from tests.server.test_counting import BOOKED, DAY, begin

PERIOD = "since=2026-02-20&until=2026-03-20"


@pytest.fixture
def lived(house: House) -> Any:
    """Forty came in on one day, five of them were held back; some answer, click, book, opt out. Twenty-five days later another two come."""
    contacts = [house.contact(n) for n in range(40)]
    with clock.at(NOON) as move_to:
        workflow = begin(house, *contacts, aim=BOOKED | {"within": "10 days"}, entry={"again": "never", "hold_back": 5})
        moving_the_clock.run_through(NOON + timedelta(hours=3), move_to)
        inside = list(Contact.objects.filter(enrolments__held_back=False).order_by("id"))
        for one in inside[:6]:
            take_reply(house.sailing, "text", one.mobile, "yes please", f"r{one.pk}")
        take_reply(house.sailing, "text", inside[6].mobile, "STOP", "stop")
        for link in inside[7].messages.get().links.all():
            click(link.message_id, link.number)
        until_quiet()
        for one in inside[:12]:
            diary.book(one, "Course", clock.now() + 5 * DAY)
        moving_the_clock.run_through(NOON + 25 * DAY, move_to)
        begun = [house.contact(n) for n in (50, 51)]
        enrolling.enrol(workflow, [one.id for one in begun], "test", Cause())
        until_quiet()
        yield workflow


def test_an_account_is_told_how_many_reached_the_aim_of_how_many_and_how_sure_that_is(
    lived: Workflow, api: Any
) -> None:
    status, found = api("GET", f"results?{PERIOD}")
    assert status == 200
    [row] = found["rows"]
    held = lived.enrolments.filter(held_back=True).count()
    assert (row["name"], row["joined"], row["young"]) == (lived.name, 40 - held, 0)
    assert (row["rate"]["count"], row["rate"]["of"]) == (12, 40 - held)
    assert row["rate"]["words"].startswith(f"{round(1200 / (40 - held))} % (") and row["worth"] == "£3,000"
    assert row["against"]["way"] == "few" and "nothing to compare with" in found["sentences"][0]
    assert sum(one["reached"] for one in row["weeks"]) == 12 and row["opted_out"] == 1
    assert found["counting"] == 0
    # Whose days are not over stand apart.
    [later] = api("GET", "results?since=2026-03-21&until=2026-04-20")[1]["rows"]
    assert (later["joined"], later["young"], later["rate"]["of"]) == (2, 2, 0)


def test_along_the_script_each_line_says_who_came_what_came_of_it_and_who_left(lived: Workflow, api: Any) -> None:
    found = api("GET", f"results/workflows/{lived.id}?{PERIOD}")[1]
    lines = {one["step"]: one for one in found["lines"]}
    came = found["joined"]
    first = lines["t"]
    assert (first["when"], first["came"], first["sent"]["tried"], first["sent"]["delivered"]) == (
        "Day 0",
        came,
        came,
        came,
    )
    assert (
        first["sent"]["replied"]["count"],
        first["sent"]["reached"]["count"],
        first["sent"]["clicked"]["count"],
    ) == (7, 12, 1)
    assert sum(one["left"] for one in found["lines"]) == 7 and lines["w"]["left"] == 7
    assert sum(one["count"] for one in lines["w"]["why"]) == 7
    assert lines["m"]["came"] == came - 7 and lines["c"]["tasks"]["made"] == came - 7
    assert f"{came} people were written to" in found["sentences"][0] and "held back on purpose" in found["sentences"][1]
    assert found["held"]["of"] == 40 - came
    assert api("GET", "results/workflows/999999")[0] == 404


def test_tables_add_up_by_whatever_they_are_told_apart(lived: Workflow, api: Any) -> None:
    by_message = api("GET", f"results/messages?{PERIOD}")[1]
    assert by_message["all"]["tried"] > 50
    for by in ("message", "channel", "sender", "week"):
        table = api("GET", f"results/messages?{PERIOD}&by={by}")[1]
        assert table["all"] == by_message["all"]
        for count in ("tried", "delivered", "failed"):
            assert sum(one["sent"][count] for one in table["rows"]) == table["all"][count], by
        assert sum(one["sent"]["replied"]["count"] for one in table["rows"]) == 7
    assert api("GET", f"results/messages?{PERIOD}&by=wording")[1]["rows"] == []
    [source] = api("GET", f"results/sources?{PERIOD}")[1]["rows"]
    assert (source["name"], source["rate"]["count"]) == ("by hand", 12)
    [member] = api("GET", f"results/team?{PERIOD}")[1]["rows"]
    assert (member["name"], member["calls"], member["open"]) == (
        "Mel R",
        by_message["rows"][1]["sent"]["tried"],
        member["calls"],
    )


@pytest.mark.parametrize("table", ["workflows", "message", "channel", "sender", "wording", "week", "team", "sources"])
def test_each_table_is_a_file_too(lived: Workflow, api: Any, table: str, signed_in: Any, house: House) -> None:
    client = signed_in(house.consultant)
    address = f"/api/accounts/sailing/results/tables/{table}?{PERIOD}"
    answer = client.get(address)
    read = list(csv.reader(io.StringIO(b"".join(answer.streaming_content).decode("utf-8-sig"))))  # type: ignore[attr-defined]
    sheet = CalamineWorkbook.from_filelike(io.BytesIO(client.get(f"{address}&kind=xlsx").content)).get_sheet_by_index(0)
    as_sheet = [[str(cell) for cell in row] for row in sheet.to_python()]
    as_sheet = [row + [""] * (len(read[0]) - len(row)) for row in as_sheet]  # a last column that is empty is not kept
    assert as_sheet == read and len({len(row) for row in read}) == 1
    assert "attachment" in answer["Content-Disposition"] and len(read) >= (1 if table == "wording" else 2)


def test_who_may_only_look_sees_them_and_another_account_sees_nothing_of_them(
    lived: Workflow, house: House, signed_in: Any
) -> None:
    viewer = signed_in(house.member)
    house.member.memberships.update(role="viewer")
    assert viewer.get(f"/api/accounts/sailing/results?{PERIOD}").json()["rows"]
    assert viewer.get(f"/api/accounts/pottery/results?{PERIOD}").status_code == 404
    elsewhere = signed_in(house.consultant).get(f"/api/accounts/pottery/results?{PERIOD}").json()
    assert elsewhere["rows"] == []


@pytest.mark.parametrize(
    "asked", ["since=2026-03-02&until=2026-03-01", "since=1026-03-02", "since=2020-01-01&until=2026-01-01", "since=x"]
)
def test_days_that_cannot_be_are_refused_in_words(api: Any, asked: str) -> None:
    status, found = api("GET", f"results?{asked}")
    assert status == 422 and found["detail"]
