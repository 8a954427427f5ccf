"""Those inside are handled, and why somebody got something, or did not, is answered."""

from collections import Counter
from datetime import timedelta
from typing import Any

from bluffside.core.engine.state import SECOND_THOUGHTS
from bluffside.server import moving_the_clock
from bluffside.server.diary.models import Task
from bluffside.server.messaging.models import Message
from bluffside.server.outside.models import Item
from bluffside.server.outside.services import say
from bluffside.server.practice import clock
from bluffside.server.worker import until_quiet
from bluffside.server.workflows import writing
from bluffside.server.workflows.models import Enrolment
from tests.core.examples import ASK
from tests.server.bringing import people, who
from tests.server.conftest import NOON, House

DAY = timedelta(days=1)
WEEKDAYS = {"weekdays": ["mon", "tue", "wed", "thu", "fri"]}


def test_people_are_paused_resumed_let_on_moved_and_taken_out_with_their_reasons_kept(api: Any, house: House) -> None:
    workflow = house.workflow()
    ada, ben, cai = people(house, 3)
    with clock.at(NOON) as move_to:
        api("POST", f"workflows/{workflow.id}/intakes", who([ada, ben, cai]))
        until_quiet()
        _, watch = api("GET", f"workflows/{workflow.id}/watch?step=answer")
        inside = {row["contact_id"]: row["id"] for row in watch["enrolments"]}

        def act(did: str, contact: int, **more: Any) -> Any:
            return api("POST", f"workflows/{workflow.id}/inside/{did}", {"ids": [inside[contact]]} | more)

        assert act("pause", ada, why="Away on a voyage.") == (200, {"count": 1})
        assert act("skip", ben)[1] == {"count": 1}
        assert act("move", cai, to="hello")[1] == {"count": 1}
        assert act("move", cai, to="nowhere")[0] == 409
        until_quiet()
        texts = Counter(Item.objects.filter(channel="text").values_list("theirs", flat=True))
        assert texts == {"+447700900001": 1, "+447700900002": 1, "+447700900003": 2}  # cai got the first again
        assert Message.objects.filter(contact_id=ben, name="Ways").exists()  # ben's wait ended unanswered

        say(house.sailing.contacts.get(id=ada), "text", "yes")  # it waits until she goes on
        moving_the_clock.run_through(NOON + 9 * DAY, move_to)
        assert Enrolment.objects.get(contact_id=ada).place == "answer"
        assert act("resume", ada)[1] == {"count": 1}
        until_quiet()
        assert Task.objects.filter(contact_id=ada, step="ring").exists()  # “yes” came first, the limit after it
        act("pause", ada)
        assert act("take-out", ada, why="moved away")[1] == {"count": 1}
        until_quiet()  # who is paused can be taken out, and nothing that is due happens on the way
    assert Enrolment.objects.get(contact_id=ada).ended == "moved away"
    _, story = api("GET", f"contacts/{ada}/story")
    said = [item["sentence"] for item in story]
    assert "Paused by Imogen F. Away on a voyage." in said and "Goes on, by Imogen F." in said
    assert "Taken out: moved away." in said


def test_everything_of_one_contact_is_paused_at_once(api: Any, house: House) -> None:
    contact = house.contact()
    for name in ("First", "Second"):
        workflow = house.workflow(name=name)
        api("POST", f"workflows/{workflow.id}/intakes", who([contact.id]))
    assert api("POST", f"contacts/{contact.id}/workflows/pause", {})[1] == {"count": 2}
    until_quiet()
    assert not Message.objects.exists()
    assert api("POST", f"contacts/{contact.id}/workflows/resume", {})[1] == {"count": 2}
    until_quiet()
    assert Message.objects.count() == 2


def test_numbers_open_to_people_and_held_messages_go_one_by_one_or_together(api: Any, house: House) -> None:
    hello = ASK["steps"][0] | {"held": True}
    workflow = house.workflow(steps=[hello, *ASK["steps"][1:]])
    ids = people(house, 4)
    with clock.at(NOON):
        api("POST", f"workflows/{workflow.id}/intakes", who(ids))
        until_quiet()
        assert not Item.objects.exists()
        _, held = api("GET", f"workflows/{workflow.id}/held")
        assert [row["contact_id"] for row in held] == ids
        assert api("POST", f"workflows/{workflow.id}/held", {"ids": [held[0]["id"]], "did": "drop"})[1] == {"count": 1}
        assert api("POST", f"workflows/{workflow.id}/held", {"did": "let_go"})[1] == {"count": 3}
        say_out = house.sailing.contacts.get(id=ids[3])
        until_quiet()
        say(say_out, "text", "STOP")
        until_quiet()
    assert Item.objects.filter(channel="text", inbound=False, text__startswith="Hi").count() == 3
    _, watch = api("GET", f"workflows/{workflow.id}/watch")
    numbers = {one["step"]: (one["here"], one["passed"], one["left"]) for one in watch["lines"]}
    assert numbers == {"hello": (0, 4, 0), "answer": (2, 1, 0), "bye": (0, 0, 1), "pause": (1, 0, 0)}
    assert (watch["held"], watch["ended"]) == (0, 1)
    _, left = api("GET", f"workflows/{workflow.id}/watch?step=bye&number=left")
    assert [row["contact_id"] for row in left["enrolments"]] == [ids[3]]


def test_who_is_stuck_is_found(api: Any, house: House) -> None:
    workflow = house.workflow()
    api("POST", f"workflows/{workflow.id}/intakes", who(people(house, 3)))
    until_quiet()
    first, second, _ = Enrolment.objects.order_by("id")
    Enrolment.objects.filter(id=first.id).update(fault="something broke", due_at=None)
    Enrolment.objects.filter(id=second.id).update(due_at=clock.now() - timedelta(hours=1))
    _, watch = api("GET", f"workflows/{workflow.id}/watch?only=stuck")
    assert watch["stuck"] == 2 and {row["id"] for row in watch["enrolments"]} == {first.id, second.id}


# ---- why, and why not


def why_not(api: Any, contact: int, workflow: Any, step: str = "") -> list[str]:
    _, found = api("GET", f"contacts/{contact}/why-not?workflow_id={workflow.id}&step={step}")
    return [one["sentence"] for one in found]


def test_why_somebody_did_not_get_it_is_answered_from_what_was_written_down(api: Any, house: House) -> None:
    workflow = house.workflow(entry={"who": {"test": "tag", "tag": "adult"}})
    never, waits, went, silent = people(house, 4)
    api("POST", "contacts/tag", {"who": {"ids": [waits, went, silent]}, "tag": "adult"})
    with clock.at(NOON) as move_to:
        api("POST", f"workflows/{workflow.id}/intakes", who([never, waits, went, silent]))
        until_quiet()
        out = why_not(api, never, workflow)
        assert out[0] == "P1 never came into “Ask about the taster day”."
        assert "The entry rules keep them out now: only who has the tag “adult”." in out
        assert any("It starts when someone is tagged" in one and "That is not so" in one for one in out)
        still = why_not(api, waits, workflow, "ring")
        assert still[0] == "It has not been the turn of this line yet."
        assert (
            still[1].startswith("They are inside: Has 72 hours to answer., until Thu 5 Mar") or "72 hours" in still[1]
        )
        say(house.sailing.contacts.get(id=went), "text", "no")
        until_quiet()
        moving_the_clock.run_through(clock.now() + SECOND_THOUGHTS, move_to)
        left = why_not(api, went, workflow, "ring")
        assert left[0].startswith("They left before this line:")
        assert any("Takes the lane" in one and "no" in one for one in left)
        moving_the_clock.run_through(NOON + 4 * DAY, move_to)
        other_lane = why_not(api, silent, workflow, "ring")
        assert other_lane[0] == "This line does not come for them any more."
        assert any("Said nothing" in one for one in other_lane)
        got = why_not(api, silent, workflow, "mail")
        assert got[0].startswith("Email “Ways”")
        house.sailing.contacts.filter(id=silent).update(mobile="")
    writing.set_open(workflow, False, house.consultant)
    assert "It is closed to newcomers." in why_not(api, never, workflow)
    _, [mine] = api("GET", f"contacts/{silent}/enrolments")
    _, story = api("GET", f"contacts/{silent}/story")
    message = next(item for item in story if item["kind"] == "message")
    assert (message["enrolment"], message["step"]) == (mine["id"], "mail")  # one step from it to its reasons


def test_why_somebody_who_had_no_number_was_passed_over(api: Any, house: House) -> None:
    contact, workflow = house.contact(), house.workflow()
    house.sailing.contacts.update(mobile="")
    api("POST", f"workflows/{workflow.id}/intakes", who([contact.id]))
    until_quiet()
    assert "no mobile number" in " ".join(why_not(api, contact.id, workflow, "hello"))
