"""How long things are kept: each sort as long as the practice says, and what must outlive it, outlives it."""

from datetime import UTC, datetime
from typing import Any

import pytest
from django.apps import apps
from django.contrib.sessions.models import Session
from django.db.models import DateTimeField
from django.utils import timezone

from bluffside.server.appointments.models import Busy, Sitting, Waiting
from bluffside.server.capture.models import FormAnswer, Lead
from bluffside.server.events.keeping import OUTLIVING
from bluffside.server.events.models import Event
from bluffside.server.events.stream import Cause
from bluffside.server.hooks.models import Call
from bluffside.server.messaging.models import Link, Message, Reply, StrangerMail
from bluffside.server.people import proof
from bluffside.server.people.models import ContactImport
from bluffside.server.people.services import add_contact, add_note, add_tags, set_consent
from bluffside.server.practice import clock
from bluffside.server.practice.keeping import SORTS, session_days
from bluffside.server.practice.models import Account, AccountExport
from bluffside.server.worker import until_quiet
from bluffside.server.workflows import enrolling
from bluffside.server.workflows.models import EnrolmentReasons
from tests.server.conftest import House

OLD, NOW = datetime(2020, 3, 10, 9, tzinfo=UTC), datetime(2026, 3, 10, 9, tzinfo=UTC)
SINCE, LATER = datetime(2021, 1, 1, tzinfo=UTC), NOW.replace(month=8)

# Rows of an account that carry an instant and are kept as long as what they belong to: people, what stands between them
# and the account, what is still to come, and what the
# stand-ins of other systems know. Whoever adds a table decides: here, or in a keeping.py.
STAYS = {
    "Account", "Appointment", "AppointmentType", "Sitting", "BusyCalendar", "CalendarFeed", "Asked", "AuditEntry", "Bucket", "Connection", "Consent", "Contact", "Correspondence", "ContactList", "ContactTag", "DailyPass", "Deal", "DealMove", "DealNote", "DealStay", "ScoreDraft", "ScoreRecount", "ScoreTurn", "ScoreVersion", "Enrolment",
    "Erased", "Expected", "Invitation", "Form", "FurtherAddress", "IncomingRule", "Intake", "LeadSource", "MailFile", "MergedContact", "Notice", "OwnCopy", "Purchase", "Counted", "Uncounted", "Pending", "Proposal", "Remark", "Segment", "Sender", "Showing", "Signal", "Task", "Version", "Workflow",
}  # fmt: skip


def live(house: House, account: Account) -> None:
    """A little of everything."""
    contact = add_contact(account, {"first_name": "Ada", "mobile": "+447700900001", "email": "ada@example.com"})
    set_consent(account, [contact.id], "text", True, "signed")
    add_note(contact, "Likes knots", Cause())
    add_tags(account, [(contact.id, "keen", Cause())])
    enrolling.enrol(house.workflow(account), [contact.id], "test", Cause())
    until_quiet()
    at = {"account": account, "at": clock.now()}
    message = Message.objects.get(account=account)
    Message.objects.filter(id=message.id).update(state="delivered")
    Link.objects.create(account=account, message=message, number=1, url="https://example.com/")
    Reply.objects.create(
        account=account, contact=contact, key="r", channel="text", text="Hm", received_at=at["at"], settled_at=at["at"]
    )
    StrangerMail.objects.create(account=account, key="s", address="s@example.com", text="?", received_at=at["at"])
    form = account.forms.create(name="Open day", token=f"t{account.id}", design={}, made_at=at["at"])
    FormAnswer.objects.create(form=form, key="a", state="taken", answers={}, **at)
    FormAnswer.objects.create(form=form, key="b", state="spam", answers={}, **at)
    AccountExport.objects.create(account=account, state="done", asked_at=at["at"])
    kind = account.appointment_types.create(name="Taster", token=f"k{account.id}", offer={}, made_at=at["at"])
    sitting = Sitting.objects.create(account=account, type=kind, start=at["at"], end=at["at"], places=1)
    Waiting.objects.create(account=account, sitting=sitting, contact=contact, since=at["at"])
    Busy.objects.create(account=account, member=house.member, start=at["at"], end=at["at"])
    source = account.lead_sources.create(name="Fair", digest=f"s{account.id}", made_at=at["at"], address_at=at["at"])
    Lead.objects.create(source=source, key="l", body={}, state="taken", **at)
    Call.objects.create(
        account=account,
        key="c",
        method="GET",
        url="https://example.com",
        state="answered",
        next_try_at=at["at"],
        made_at=at["at"],
    )
    for state in ("read", "done"):
        ContactImport.objects.create(
            account=account, file_name="f", columns=[], row_count=0, state=state, read_at=at["at"], ended_at=at["at"]
        )


def rows(account: Account, before: datetime) -> dict[str, int]:
    return {name: sort.old(account, before).count() for name, sort in SORTS.items()}


def test_what_is_older_than_the_practice_says_goes_and_what_must_outlive_it_stays(house: House) -> None:
    with clock.at(OLD) as move_to:
        live(house, house.sailing)
        assert all(rows(house.sailing, SINCE).values()), rows(house.sailing, SINCE)
        move_to(NOW.replace(day=8))
        live(house, house.pottery)
        before = rows(house.pottery, NOW)
        until_quiet()
        assert rows(house.pottery, NOW) == before  # it is new
        left = rows(house.sailing, SINCE)
        assert left.pop("links") == 1 and not any(left.values())
    gone = Message.objects.get(account=house.sailing, queued_at__lt=SINCE)
    assert (gone.body, gone.address, gone.state, gone.links.count()) == ("", "", "delivered", 1)
    kinds = set(Event.objects.filter(account=house.sailing, at__lt=SINCE).values_list("kind", flat=True))
    assert kinds == {"contact.added", "consent.given", "note.added"}
    assert set(proof.SAID) <= set(OUTLIVING)
    assert not EnrolmentReasons.objects.filter(account=house.sailing, at__lt=SINCE).exists()


def test_it_is_set_for_the_practice_by_the_consultant_and_counts_at_once(house: House, signed_in: Any) -> None:
    with clock.at(NOW):
        live(house, house.sailing)
        until_quiet()
    with clock.at(LATER):
        client = signed_in(house.consultant)
        until_quiet()
        assert rows(house.sailing, LATER)["leads"] == 1

        def put(**months: int) -> Any:
            given = {"months": months, "session_days": 3}
            return client.put("/api/practice/keeping", given, content_type="application/json")

        assert "13 to" in put(events=2).json()["detail"]
        assert put(nothing=2).status_code == 422
        said = {one["name"]: one["months"] for one in put(leads=4).json()["sorts"]}
        assert (said["leads"], said["events"]) == (4, 36)
        until_quiet()
        assert rows(house.sailing, LATER)["leads"] == 0
    house.consultant.practice.refresh_from_db()
    assert session_days(house.consultant.practice) == 3
    assert signed_in(house.member).get("/api/practice/keeping").status_code == 403


def test_who_signs_in_stays_so_for_as_long_as_the_practice_says(house: House) -> None:
    from django.test import Client

    house.consultant.practice.keeping = {"session_days": 3}
    house.consultant.practice.save()
    house.consultant.set_password("long-enough-7")
    house.consultant.save()
    given = {"email": house.consultant.email, "password": "long-enough-7"}
    assert Client().post("/_allauth/browser/v1/auth/login", given, content_type="application/json").status_code == 200
    assert 2.9 < (Session.objects.get().expire_date - timezone.now()).total_seconds() / 86_400 < 3.1


@pytest.mark.parametrize(
    "model", [one for one in apps.get_models() if one.__module__.startswith("bluffside")], ids=lambda one: one.__name__
)
def test_of_every_table_with_instants_somebody_has_said_how_long_it_is_kept(model: Any) -> None:
    fields = {field.name for field in model._meta.get_fields()}
    if "account" not in fields or not any(isinstance(field, DateTimeField) for field in model._meta.get_fields()):
        return
    nobody = Account(id=0)
    swept = {sort.old(nobody, NOW).model for sort in SORTS.values()}
    assert (model in swept) != (model.__name__ in STAYS), (
        "say in a keeping.py how long it is kept, or here that it stays"
    )
