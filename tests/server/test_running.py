"""Running it: health, figures, the doctor's sentences, back-up and restore into an empty installation."""

import os
import stat
import subprocess
import sys
from collections.abc import Iterator
from datetime import timedelta
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit, urlunsplit

import psycopg
import pytest
from django.conf import settings
from django.core.management import call_command
from django.core.management.base import CommandError
from django.test import Client
from django.utils import timezone
from launcher.database import app_url

from bluffside.server.commands import archive
from bluffside.server.events.stream import Cause
from bluffside.server.health import examine
from bluffside.server.messaging.models import Message
from bluffside.server.messaging.services import opt_out
from bluffside.server.outside.models import Item
from bluffside.server.people.erasing import erase
from bluffside.server.people.models import Consent
from bluffside.server.people.services import add_contact
from bluffside.server.people.signed import BadToken, preferences_link, read_preferences
from bluffside.server.practice import clock, installation
from bluffside.server.practice.models import Installation, Person, Practice, WorkerSeen
from bluffside.server.worker import until_quiet
from bluffside.server.workflows import enrolling
from bluffside.server.workflows.models import Enrolment
from tests import databases
from tests.server.conftest import House


def findings() -> dict[str, str]:
    return {one.says: one.how for one in examine()}


def test_health_and_figures_tell_how_it_is_and_nothing_of_an_account(house: House) -> None:
    enrolling.enrol(house.workflow(), [house.contact().id], "test", Cause())
    assert Client().get("/health").json() == {"well": True, "worker": False}
    shown = Client().get("/metrics").content.decode()
    assert 'bluffside_queue_length{work="advance"} 1.0' in shown
    until_quiet()
    shown = Client().get("/metrics").content.decode()
    assert 'bluffside_queue_length{work="advance"} 0.0' in shown
    assert 'bluffside_messages_day{state="sent"} 1.0' in shown
    assert "sailing" not in shown.lower()
    assert Client().get("/metrics", headers={"X-Forwarded-For": "203.0.113.9"}).status_code == 403
    os.environ["BLUFFSIDE_METRICS_TOKEN"] = "a-token"
    try:
        assert Client().get("/metrics").status_code == 403
        assert Client().get("/metrics", headers={"Authorization": "Bearer a-token"}).status_code == 200
    finally:
        del os.environ["BLUFFSIDE_METRICS_TOKEN"]


def test_the_doctor_says_what_is_wrong_and_what_to_do(house: House) -> None:
    assert any(says.startswith("No worker was seen") and how == "wrong" for says, how in findings().items())
    now = timezone.now()
    WorkerSeen.objects.create(name="here 1", began_at=now, seen_at=now)
    enrolling.enrol(house.workflow(), [house.contact().id], "test", Cause())
    Enrolment.objects.update(due_at=now - timedelta(minutes=10))
    told = findings()
    assert told["One worker is at work."] == "well"
    assert "wrong" not in told.values()
    assert any("things to advance are due" in says and how == "look" for says, how in told.items())
    Enrolment.objects.update(due_at=None, fault="ValueError: odd")
    assert any("1 enrolments are set aside" in says for says in findings())


@pytest.fixture
def empty_installation(worker_id: str) -> Iterator[str]:
    """The URL, for its owner, of a database that was migrated and holds nothing."""
    with databases.copy(databases.blank(), f"bluffside_restored_{worker_id}") as url:
        yield url


@pytest.fixture
def plain_installation(owner_url: str, worker_id: str, monkeypatch: pytest.MonkeyPatch) -> Iterator[str]:
    """The same, set up from nothing by an owner who may make neither roles nor databases."""
    role, name = f"plain_{worker_id}", f"bluffside_plain_{worker_id}"
    with psycopg.connect(databases.url_of("postgres"), autocommit=True) as server:
        server.execute(f"DROP DATABASE IF EXISTS {name} WITH (FORCE)")
        server.execute(f"DROP ROLE IF EXISTS {role}")
        server.execute(f"CREATE ROLE {role} LOGIN PASSWORD 'plain' NOSUPERUSER NOCREATEDB NOCREATEROLE")
        server.execute(f"CREATE DATABASE {name} OWNER {role}")
        here = urlsplit(databases.url_of(name))
        url = urlunsplit(here._replace(netloc=f"{role}:plain@{here.netloc.rpartition('@')[2]}", query="sslmode=prefer"))
        env = os.environ | {"DATABASE_URL": url}
        made = [sys.executable, "-c", "from launcher.create_database import create; create()"]
        refused = subprocess.run(made, env=env, capture_output=True, text=True, cwd=settings.ROOT)
        assert "BLUFFSIDE_APP_URL" in refused.stderr  # says what to do, instead of a role with a password anybody knows
        monkeypatch.setenv("BLUFFSIDE_APP_URL", urlunsplit(urlsplit(app_url(owner_url))._replace(path=f"/{name}")))
        subprocess.run(made, env=env | os.environ | {"DATABASE_URL": url}, check=True, cwd=settings.ROOT)
        assert manage(url, "migrate", "-v", "0").returncode == 0
        yield url
        monkeypatch.delenv("BLUFFSIDE_APP_URL")
        server.execute(f"DROP DATABASE {name} WITH (FORCE)")
        server.execute(f"DROP ROLE {role}")


def manage(url: str, *command: str, **more: str) -> "subprocess.CompletedProcess[str]":
    env = os.environ | {"DATABASE_URL": url, "PYTHONPATH": str(settings.ROOT / "src")} | more
    return subprocess.run(
        [sys.executable, "-m", "django", *command], env=env, capture_output=True, text=True, cwd=settings.ROOT
    )


@pytest.mark.parametrize("account", ["", "sailing"])
def test_a_back_up_comes_into_an_empty_installation_the_same_and_runs_there(
    committed_house: House, owner_url: str, request: pytest.FixtureRequest, tmp_path: Path, account: str
) -> None:
    there_url = request.getfixturevalue("empty_installation" if account else "plain_installation")
    house, file = committed_house, tmp_path / "kept.tar.gz"
    for place in (house.sailing, house.pottery):
        contact = house.contact(1, place)
        enrolling.enrol(house.workflow(place), [contact.id], "test", Cause())
    until_quiet()
    made = manage(owner_url, "backup", str(file), *(["--account", account] if account else []))
    assert made.returncode == 0, made.stderr
    assert stat.S_IMODE(file.stat().st_mode) == 0o600
    if account:  # once is enough
        again = manage(owner_url, "backup", str(file))
        assert "left as it is" in again.stderr and again.returncode
    elsewhere = {"BLUFFSIDE_SECRET_KEY": "of another installation", "BLUFFSIDE_OLD_KEYS": str(tmp_path / "old")}
    restored = manage(there_url, "restore", str(file), **elsewhere)
    assert restored.returncode == 0, restored.stderr
    assert "the same as in the back-up" in restored.stdout
    if account:
        refused = manage(there_url, "restore", str(file), **elsewhere)
        assert "not empty" in refused.stderr and refused.returncode

    with psycopg.connect(there_url, autocommit=True) as there:
        slugs = [row[0] for row in there.execute("SELECT slug FROM practice_account ORDER BY slug")]
        assert slugs == ([account] if account else ["pottery", "sailing"])
        assert there.execute("SELECT count(DISTINCT account_id) FROM people_contact").fetchone() == (len(slugs),)
        # It runs there, and no id is given out that was given out before the loss: the one who waits for an answer is due.
        there.execute("UPDATE workflows_enrolment SET due_at = now(), until = now()")
        code = "import django; django.setup(); from bluffside.server.worker import until_quiet; until_quiet()"
        env = os.environ | {"DATABASE_URL": app_url(there_url), "PYTHONPATH": str(settings.ROOT / "src")} | elsewhere
        subprocess.run([sys.executable, "-c", code], env=env, check=True, cwd=settings.ROOT)
        moved = there.execute("SELECT count(*) FROM workflows_enrolment WHERE place <> 'answer'").fetchone()
        assert moved == (len(slugs),)
        [(first, last)] = there.execute("SELECT min(id), max(id) FROM events_event")
        assert last - first >= archive.AHEAD
    # The whole has the keys with it: links that were sent open there. Those of one account are the keys of all others.
    token = preferences_link(contact.account_id, contact.id).rpartition("/")[2]
    code = f"import django; django.setup(); from bluffside.server.people.signed import *; read_preferences({token!r})"
    opened = subprocess.run([sys.executable, "-c", code], env=env, capture_output=True, text=True, cwd=settings.ROOT)
    assert ("BadToken" in opened.stderr) == bool(account) and (tmp_path / "old").exists() == (not account)


def test_what_was_signed_before_the_key_changed_still_holds(house: House, monkeypatch: pytest.MonkeyPatch) -> None:
    contact = house.contact()
    link, gone = preferences_link(house.sailing.id, contact.id), contact.mobile
    opt_out(contact, "text", "said so")
    erase(contact, house.consultant)
    monkeypatch.setattr(settings, "SECRET_KEY_FALLBACKS", [settings.SECRET_KEY])
    monkeypatch.setattr(settings, "SECRET_KEY", "the next")
    token = link.rpartition("/")[2]
    assert read_preferences(token) == (house.sailing.id, contact.id)
    assert preferences_link(house.sailing.id, contact.id) != link
    again = add_contact(house.sailing, {"first_name": "Ada", "mobile": gone})
    assert Consent.objects.filter(contact=again, channel="text", state="withdrawn").exists()
    monkeypatch.setattr(settings, "SECRET_KEY_FALLBACKS", [])
    with pytest.raises(BadToken):
        read_preferences(token)


@pytest.fixture
def real(house: House) -> Iterator[House]:
    installation.take_into_use(installation.Use.REAL)
    yield house
    installation.forget()


def test_in_real_use_there_is_no_clock_to_move_no_demo_and_no_simulated_phone(
    real: House, api: Any, django_assert_num_queries: Any, monkeypatch: pytest.MonkeyPatch
) -> None:
    with pytest.raises(CommandError, match="real use"):
        call_command("load_demo", reset=True)
    _, account = api("GET", "")
    assert not account["outside"] and "clock" not in account["rights"]
    for method, path, given in (("GET", "outside", None), ("POST", "clock", {"hours": 1})):
        assert api(method, path, given)[0] == 404
    assert Client().post("/outside/lists", "{}", content_type="application/json").status_code == 404
    with django_assert_num_queries(0):
        assert abs((clock.now() - timezone.now()).total_seconds()) < 1
    # What nobody has connected waits, and the account is told; what is simulated on purpose goes.
    enrolling.enrol(real.workflow(), [real.contact().id], "test", Cause())
    until_quiet()
    waits = Message.objects.get()
    assert (waits.state, waits.reason) == ("queued", "no connection is set for texts") and not Item.objects.exists()
    monkeypatch.setattr(settings, "BLUFFSIDE_SIMULATED", frozenset({"text"}))
    Message.objects.update(next_try_at=timezone.now())
    until_quiet()
    assert Item.objects.get().channel == "text" and api("GET", "")[1]["outside"]


def test_the_demo_is_not_taken_into_real_use_by_a_slip(house: House) -> None:
    Installation.objects.update_or_create(defaults={"use": "demo", "clock_ahead": timedelta()})
    with pytest.raises(CommandError, match="holds the demo"):
        call_command("take_into_use")


def test_the_first_person_is_made_from_the_command_line_and_only_the_first(
    db: None, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    said = iter(["short", "a-long-one-by-far"])
    monkeypatch.setattr("bluffside.server.commands.management.commands.first_person.getpass", lambda _: next(said))
    with pytest.raises(CommandError, match="too short"):
        call_command("first_person", "Wren@Example.com", "Wren Hale")
    assert not Practice.objects.exists()
    call_command("take_into_use")
    assert "/begin#first:" in capsys.readouterr().out
    call_command("first_person", "Wren@Example.com", "Wren Hale", practice="Hale Follow-up")
    person = Person.objects.get()
    assert (person.email, person.is_consultant, person.practice.name) == ("wren@example.com", True, "Hale Follow-up")
    with pytest.raises(CommandError, match="already"):
        call_command("first_person", "b@example.com", "B")
    installation.forget()


def test_what_is_no_back_up_is_refused_and_changes_nothing(empty_installation: str, tmp_path: Path) -> None:
    (tmp_path / "odd").write_bytes(b"not a tar")
    refused = manage(empty_installation, "restore", str(tmp_path / "odd"))
    assert refused.returncode and "Nothing was changed" in refused.stderr


def test_what_is_set_aside_is_shown_and_tried_again_from_the_command_line(house: House, capsys) -> None:  # type: ignore[no-untyped-def]
    enrolling.enrol(house.workflow(), [house.contact().id], "test", Cause())
    Enrolment.objects.update(fault="ValueError: odd", due_at=None)
    call_command("aside")
    assert "ValueError: odd" in capsys.readouterr().out
    call_command("aside", retry=True)
    assert Enrolment.objects.get().fault == ""
    capsys.readouterr()
    call_command("aside")
    assert capsys.readouterr().out.strip() == "Nothing is set aside."
