"""A filled database is always taken along: what earlier versions wrote is there after migrating, and the application goes on
with it.

`filled/` holds small dumps (pg_dump --inserts), each named for the day of the version that wrote it: the demo of a week, and in
it an import half done, one not begun, an intake by trickle, a held and a waiting message, replies nobody has heard yet, deals,
appointments, somebody erased. A version that changes tables adds a dump of the one before it.
"""

import gzip
import os
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import LiteralString, cast

import psycopg
import pytest
from django.conf import settings
from launcher.database import app_url

from tests import databases

FILLED = sorted((Path(__file__).parent / "filled").glob("*.sql.gz"))
COUNTS = """
SELECT table_name, (xpath('/row/n/text()',
       query_to_xml(format('SELECT count(*) AS n FROM %I', table_name), false, true, '')))[1]::text::int
  FROM information_schema.tables
 WHERE table_schema = 'public' AND table_type = 'BASE TABLE' AND table_name !~ '_([0-9]{4}_[0-9]{2}|rest)$'
"""
BY_DJANGO = ("auth_", "django_")  # what Django keeps of itself: it follows from the models
GOES_ON = """
from datetime import timedelta
from bluffside.server import moving_the_clock
from bluffside.server.events.models import Pending
from bluffside.server.people.models import Contact, ContactImport
from bluffside.server.practice import clock, walls
from bluffside.server.practice.models import Account
from bluffside.server.workflows.models import Enrolment, Intake
walls.enter(*Account.objects.all())
with clock.at(clock.now()) as move_to:
    moving_the_clock.run_through(clock.now() + timedelta(days=40), move_to)
    assert not Enrolment.objects.exclude(fault="").exists(), Enrolment.objects.exclude(fault="").first().fault
    assert not Pending.objects.exists()
    assert not Enrolment.objects.filter(due_at__lt=clock.now()).exists()
    assert not Intake.objects.filter(state="running").exists()
    assert set(ContactImport.objects.values_list("state", "row_count", "rows_done")) >= {("done", 1200, 1200)}
    assert Contact.objects.filter(email="n1199@example.com").exists()
"""
# Deals stand in the stages that their pipelines named, in that order.
STAGES = """
from bluffside.server.practice import walls
from bluffside.server.practice.models import Account
from bluffside.server.pipeline.models import Deal, Pipeline
walls.enter(*Account.objects.all())
assert [stage.name for stage in Pipeline.objects.get(name="Courses").stages.all()] == ["New", "Talking", "Booked"]
assert {deal.stage for deal in Deal.objects.all()} == {"New", "Talking"}
assert not Deal.objects.filter(state="open", closed_at__isnull=False).exists()
"""
# What the first version of each table held, in the shape it had then.
EARLIEST = """
from django.db.migrations.executor import MigrationExecutor
from django.utils import timezone
first = [(app, "0001_initial") for app in ("events", "people", "workflows")]
executor = MigrationExecutor(connection)
executor.migrate(first)
then = executor.loader.project_state(first).apps
now = timezone.now()
practice = then.get_model("practice", "Practice").objects.create(name="Lantern")
account = then.get_model("practice", "Account").objects.create(practice=practice, slug="sailing", name="Sailing")
then.get_model("people", "ContactImport").objects.create(
    account=account, file_name="old.csv", columns=["email"], row_count=1201, state="running", rows_done=500,
    rows=[[f"{n}@example.com"] for n in range(1201)])
for n in (1, 2):
    then.get_model("events", "Event").objects.create(account=account, kind="note.added", at=now, data={"n": n})
    then.get_model("workflows", "Turn").objects.create(
        account=account, enrolment_id=7, at=now, steps=["a"], reasons=[{"step": "a", "sentence": str(n), "values": {}}])
"""
IS_THERE = """
from django.utils import timezone
from bluffside.server.events.models import Event
from bluffside.server.people.imports import rows_of_part
from bluffside.server.people.models import ContactImport
from bluffside.server.practice.models import Account
from bluffside.server.workflows.models import EnrolmentReasons
assert [event.data for event in Event.objects.order_by("id")] == [{"n": 1}, {"n": 2}]
assert [turn.reasons[0]["sentence"] for turn in EnrolmentReasons.objects.order_by("id")] == ["1", "2"]
assert Event.objects.create(account=Account.objects.get(), kind="note.added", at=timezone.now()).id > 2
old = ContactImport.objects.get()
assert rows_of_part(old, 500)[0] == ["500@example.com"] and rows_of_part(old, 1000)[-1] == ["1200@example.com"]
"""


@pytest.fixture
def database(worker_id: str) -> Iterator[str]:
    with databases.empty(f"bluffside_migrated_{worker_id}") as url:
        yield url


def run(url: str, code: str) -> None:
    env = os.environ | {"DATABASE_URL": url, "PYTHONPATH": str(settings.ROOT / "src")}
    code = f"import django; django.setup(); from django.db import connection\n{code}"
    done = subprocess.run([sys.executable, "-c", code], env=env, cwd=settings.ROOT, capture_output=True, text=True)
    assert done.returncode == 0, done.stderr


def migrate(url: str) -> None:
    run(url, "from django.core.management import call_command; call_command('migrate', verbosity=0)")


def counts(url: str) -> dict[str, int]:
    with psycopg.connect(url) as there:
        found: list[tuple[str, int]] = there.execute(COUNTS).fetchall()
        return {table: count for table, count in found if not table.startswith(BY_DJANGO)}


@pytest.mark.parametrize("dump", FILLED, ids=lambda path: path.name.split(".")[0])
def test_a_filled_database_is_taken_along_and_goes_on(database: str, dump: Path) -> None:
    with psycopg.connect(database, autocommit=True) as there:
        there.execute(cast(LiteralString, gzip.decompress(dump.read_bytes()).decode()))
    before = counts(database)
    assert sum(count > 0 for count in before.values()) > 40, "the dump is filled"
    migrate(database)
    after = counts(database)
    before["practice_installation"] = 1  # a filled one is the demo, and says so from now on
    # An address and a number, which stood in the account alone.
    before["messaging_sender"] = max(before.get("messaging_sender", 0), 2 * before["practice_account"])
    assert {table: after.get(table, 0) for table in before} == before
    run(app_url(database), STAGES + GOES_ON)


def test_what_the_first_version_kept_is_kept(database: str) -> None:
    run(database, EARLIEST)
    migrate(database)
    run(database, IS_THERE)
