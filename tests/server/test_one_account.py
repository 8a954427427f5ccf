"""One account's trouble is its own: while it fails at all it can fail at, another's text goes out."""

import threading
import time
from typing import Any

import pytest
from django.db import connection

from bluffside.server import worker
from bluffside.server.events.models import Event
from bluffside.server.events.stream import Cause
from bluffside.server.messaging.models import Message
from bluffside.server.people import imports
from bluffside.server.people.import_columns import Settings
from bluffside.server.people.models import Contact, ContactImport, Field
from bluffside.server.people.services import add_contact, change_contact, set_fields
from bluffside.server.people.spreadsheet import BadSpreadsheet
from bluffside.server.people.tables import read_text
from bluffside.server.practice.models import Account
from bluffside.server.practice.walls import within
from bluffside.server.workflows import enrolling
from tests.server.conftest import House

DECIDING = ("import", "dispatch", "expect", "intake", "advance")


@pytest.fixture
def troubled(house: House, monkeypatch: pytest.MonkeyPatch) -> worker.Worker:
    """A worker for whom everything is always due at pottery, and fails."""
    tried: list[str] = []

    def failing(kind: worker.Kind) -> worker.Kind:
        def batch(account: Account) -> int:
            if account.slug == "pottery":
                tried.append(kind.name)
                raise ValueError("as bad as can be")
            assert kind.batch
            return kind.batch(account)

        return worker.Kind(kind.name, batch if kind.batch else None, kind.outside)

    due = worker.due_accounts
    monkeypatch.setattr(worker, "due_accounts", lambda kind: [house.pottery, *due(kind)])
    monkeypatch.setattr(worker, "HANDS", {name: tuple(map(failing, kinds)) for name, kinds in worker.HANDS.items()})
    one = worker.Worker()
    one.tried = tried  # type: ignore[attr-defined]
    return one


def test_what_fails_for_one_account_holds_up_no_other(house: House, troubled: worker.Worker) -> None:
    contact = house.contact()
    enrolling.enrol(house.workflow(), [contact.id], "test", Cause())
    began = time.monotonic()
    for _ in range(4):
        for kinds in troubled.hands.values():
            troubled._round(kinds)
    assert Message.objects.get(contact=contact).state == "sent"
    assert time.monotonic() - began < 2.0  # of which nothing was slept away
    tried: list[Any] = troubled.tried  # type: ignore[attr-defined]
    assert set(DECIDING) <= set(tried) and len(tried) == len(set(tried))  # what has failed rests


def test_webhooks_are_asked_by_a_hand_of_their_own() -> None:
    by_hand = {kind.name: hand for hand, kinds in worker.HANDS.items() for kind in kinds}
    assert [hand for name, hand in by_hand.items() if name == "calls"] == ["asking"]
    assert by_hand["deliver"] == "speaking" and len(by_hand) == 21


def test_an_import_that_fails_is_stopped_with_why_and_the_next_goes_on(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    add_contact(house.sailing, {"first_name": "Ada"})
    started = []
    for email in ("a@example.com", "b@example.com"):
        one = imports.keep(house.sailing, house.consultant, "f.csv", read_text(f"Email\n{email}"))
        imports.start(one, Settings(mapping={"0": "email"}))
        started.append(one.pk)
    take = imports.Chunk.take

    def breaks(self: Any, rows: Any) -> None:
        if self.imported.pk == started[0]:
            raise ValueError("a row that nobody thought of")
        take(self, rows)

    monkeypatch.setattr(imports.Chunk, "take", breaks)
    while imports.import_chunk(house.sailing):
        pass
    states = ContactImport.objects.order_by("id").values_list("state", "found__trouble")
    assert list(states) == [("stopped", "stopped: ValueError: a row that nobody thought of"), ("done", None)]


def test_a_file_that_is_none_is_refused_in_words() -> None:
    with pytest.raises(BadSpreadsheet):
        read_text("Email")


def test_stopped_in_the_middle_of_a_part_and_taken_back_leaves_nobody(
    committed_house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    account = committed_house.sailing
    rows = "\n".join(f"N{n},n{n}@example.com" for n in range(400))
    imported = imports.keep(account, committed_house.consultant, "f.csv", read_text(f"Name,Email\n{rows}"))
    imports.start(imported, Settings(mapping={"0": "first_name", "1": "email"}, tags=["come"]))
    writing = threading.Event()
    sort_in = imports.Chunk._sorted

    def slowly(self: Any, everyone: Any) -> None:
        writing.set()
        time.sleep(0.6)
        sort_in(self, everyone)

    monkeypatch.setattr(imports.Chunk, "_sorted", slowly)

    def work() -> None:
        try:
            with within(account):
                imports.import_chunk(account)
        finally:
            connection.close()

    worker_thread = threading.Thread(target=work)
    worker_thread.start()
    assert writing.wait(10)
    imports.stop(imported)  # while the part still runs
    worker_thread.join()
    imported.refresh_from_db()
    imports.take_back(imported)
    while imports.import_chunk(account):
        pass
    imported.refresh_from_db()
    assert (imported.state, imported.kept, Contact.objects.count()) == ("taken_back", 0, 0)


def test_taking_a_file_back_puts_back_only_what_still_stands_as_it_left_it(house: House) -> None:
    account = house.sailing
    ada = add_contact(account, {"first_name": "Ada", "email": "ada@example.com", "mobile": "+447700900001"})
    Contact.objects.filter(id=ada.id).update(fields={"city": "Tern", "boat": "none"})
    heads, row = "First name,Email,Mobile,city,boat", "Adeline,ada@example.com,07700900002,Quay,Kayak"
    for name in ("city", "boat"):
        Field.objects.create(account=account, name=name, kind="text")
    imported = imports.keep(account, house.consultant, "f.csv", read_text(f"{heads}\n{row}"))
    targets = ("first_name", "email", "mobile", "field:city", "field:boat")
    mapping = {str(number): target for number, target in enumerate(targets)}
    imports.start(imported, Settings(mapping=mapping, duplicates="overwrite"))
    while imports.import_chunk(account):
        pass
    ada.refresh_from_db()
    assert (ada.first_name, ada.mobile, ada.fields) == ("Adeline", "+447700900002", {"city": "Quay", "boat": "Kayak"})
    change_contact(ada, {"first_name": "Addie"})
    set_fields(ada, {"city": "Ness"})
    add_contact(account, {"first_name": "Bo", "mobile": "+447700900001"})  # the number she had is somebody's
    imported.refresh_from_db()
    imports.take_back(imported)
    while imports.import_chunk(account):
        pass
    ada.refresh_from_db()
    imported.refresh_from_db()
    assert (ada.first_name, ada.mobile, ada.fields) == ("Addie", "+447700900002", {"city": "Ness", "boat": "none"})
    assert (imported.state, imported.kept) == ("taken_back", 1)
    how = Event.objects.filter(contact_id=ada.id, kind="contact.changed").latest("id").data["how"]
    assert how == "f.csv was taken back, but for what has changed since: city, first name, mobile"
