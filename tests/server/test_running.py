"""Running it: health, figures, the doctor's sentences, back-up and restore into an empty installation."""

import os
import subprocess
import sys
from collections.abc import Iterator
from datetime import timedelta
from pathlib import Path

import psycopg
import pytest
from django.conf import settings
from django.core.management import call_command
from django.test import Client
from django.utils import timezone
from launcher.database import app_url

from bluffside.server.events.stream import Cause
from bluffside.server.health import examine
from bluffside.server.practice.models import WorkerSeen
from bluffside.server.worker import until_quiet
from bluffside.server.workflows import enrolling
from bluffside.server.workflows.models import Enrolment
from tests import databases
from tests.server.conftest import House


def findings() -> dict[str, str]:
    return {one.says: one.how for one in examine()}


def test_health_and_figures_tell_how_it_is_and_nothing_of_an_account(house: House) -> None:
    enrolling.enrol(house.workflow(), [house.contact().id], "test", Cause())
    assert Client().get("/health").json()["workers"] == 0
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


def manage(url: str, *command: str) -> "subprocess.CompletedProcess[str]":
    env = os.environ | {"DATABASE_URL": url, "PYTHONPATH": str(settings.ROOT / "src")}
    return subprocess.run(
        [sys.executable, "-m", "django", *command], env=env, capture_output=True, text=True, cwd=settings.ROOT
    )


@pytest.mark.parametrize("account", ["", "sailing"])
def test_a_back_up_comes_into_an_empty_installation_the_same_and_runs_there(
    committed_house: House, owner_url: str, empty_installation: str, tmp_path: Path, account: str
) -> None:
    house, file = committed_house, tmp_path / "kept.tar.gz"
    for place in (house.sailing, house.pottery):
        contact = house.contact(1, place)
        enrolling.enrol(house.workflow(place), [contact.id], "test", Cause())
    until_quiet()
    made = manage(owner_url, "backup", str(file), *(["--account", account] if account else []))
    assert made.returncode == 0, made.stderr
    again = manage(owner_url, "backup", str(file))
    assert "left as it is" in again.stderr and again.returncode
    restored = manage(empty_installation, "restore", str(file))
    assert restored.returncode == 0, restored.stderr
    assert "the same as in the back-up" in restored.stdout
    refused = manage(empty_installation, "restore", str(file))
    assert "not empty" in refused.stderr and refused.returncode

    with psycopg.connect(empty_installation, autocommit=True) as there:
        slugs = [row[0] for row in there.execute("SELECT slug FROM practice_account ORDER BY slug")]
        assert slugs == ([account] if account else ["pottery", "sailing"])
        assert there.execute("SELECT count(DISTINCT account_id) FROM people_contact").fetchone() == (len(slugs),)
        # It runs there: a new contact takes the next id, and the one who waits for an answer is due at its end.
        there.execute("UPDATE workflows_enrolment SET due_at = now(), until = now()")
        worked = "from bluffside.server.worker import until_quiet; import django; django.setup(); until_quiet()"
        code = f"import django; django.setup(); {worked}"
        env = os.environ | {"DATABASE_URL": app_url(empty_installation), "PYTHONPATH": str(settings.ROOT / "src")}
        subprocess.run([sys.executable, "-c", code], env=env, check=True, cwd=settings.ROOT)
        moved = there.execute("SELECT count(*) FROM workflows_enrolment WHERE place <> 'answer'").fetchone()
        assert moved == (len(slugs),)


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
