"""./bluffside bench: the engine's speed as ratios to floors measured in the same run, in a database of its own.

Floor of the database: PostgreSQL alone moving an enrolment on, with one history row and one outbox row, in batches of
500 with a durable commit each. The core by itself is measured in bench/core.py, which `./bluffside bench core` runs alone.
"""

import os
import time
from collections.abc import Callable
from datetime import UTC, datetime
from urllib.parse import urlsplit, urlunsplit

import psycopg

from bench.core import report as report_core

PEOPLE = 3_000
BATCH = 500
START = datetime(2026, 3, 2, 12, tzinfo=UTC)
STEPS = [
    {"kind": "text", "id": "one", "message": {"name": "One", "body": 'Hi {{ contact.first_name | default: "there" }}'}},
    {"kind": "tag", "id": "mark", "tag": "seen"},
    {"kind": "wait", "id": "day", "duration": "1 day"},
    {"kind": "email", "id": "two", "message": {"name": "Two", "subject": "S", "body": "Second"}},
]


def timed(what: Callable[[], object]) -> float:
    began = time.perf_counter()
    what()
    return time.perf_counter() - began


def floor_of_database(connection: psycopg.Connection[object]) -> float:
    """Enrolment moves a second that PostgreSQL alone manages."""
    connection.execute("CREATE TABLE e (id bigint PRIMARY KEY, place text, until timestamptz)")
    connection.execute("CREATE TABLE h (e bigint, sentence text)")
    connection.execute("CREATE TABLE o (key text UNIQUE, body text)")
    connection.execute("INSERT INTO e SELECT n, 'a', now() FROM generate_series(1, %s) n", [PEOPLE])
    connection.commit()

    def batches() -> None:
        for low in range(1, PEOPLE, BATCH):
            span = [low, low + BATCH - 1]
            connection.execute("SELECT id FROM e WHERE id BETWEEN %s AND %s FOR UPDATE SKIP LOCKED", span)
            connection.execute("UPDATE e SET place = 'b', until = now() WHERE id BETWEEN %s AND %s", span)
            connection.execute("INSERT INTO h SELECT id, 'Sends One by text.' FROM e WHERE id BETWEEN %s AND %s", span)
            connection.execute("INSERT INTO o SELECT 'e' || id, 'Hi' FROM e WHERE id BETWEEN %s AND %s", span)
            connection.commit()

    return PEOPLE / timed(batches)


def engine() -> tuple[float, float]:
    """Steps a second of the engine's batches, and messages a second of delivery, on the real tables."""
    from tests.server.conftest import make_house

    from bluffside.server.events.stream import Cause
    from bluffside.server.messaging.delivery import deliver_batch
    from bluffside.server.people.models import Contact
    from bluffside.server.practice import clock
    from bluffside.server.workflows import enrolling
    from bluffside.server.workflows.engine import advance_batch

    with clock.at(START):
        house = make_house()
        Contact.objects.bulk_create(
            Contact(
                account=house.sailing,
                first_name="N",
                email=f"n{n}@example.com",
                mobile=f"+4477008{n:05}",
                added_at=START,
            )
            for n in range(PEOPLE)
        )
        workflow = house.workflow(steps=STEPS)
        enrolling.enrol(workflow, list(house.sailing.contacts.values_list("id", flat=True)), "bench", Cause())

        def until_done(batch: Callable[[], int]) -> Callable[[], None]:
            def run() -> None:
                while batch():
                    pass

            return run

        steps = 3 * PEOPLE / timed(until_done(advance_batch))  # up to the wait
        messages = PEOPLE / timed(until_done(deliver_batch))
    return steps, messages


def main() -> None:
    server = urlsplit(os.environ["DATABASE_URL"])
    with psycopg.connect(os.environ["DATABASE_URL"], autocommit=True) as admin:
        admin.execute("DROP DATABASE IF EXISTS bluffside_bench WITH (FORCE)")
        admin.execute("CREATE DATABASE bluffside_bench")
    url = urlunsplit(server._replace(path="/bluffside_bench"))
    with psycopg.connect(url) as connection:
        database = floor_of_database(connection)
    os.environ["DATABASE_URL"] = url
    import django
    from django.core.management import call_command

    django.setup()
    call_command("migrate", verbosity=0)
    steps, messages = engine()
    rows = [
        ("floor: PostgreSQL alone, enrolments moved on", database, 1.0),
        ("engine: steps carried out in batches", steps, steps / database),
        ("delivery: messages handed over, one commit each", messages, messages / database),
    ]
    for words, rate, ratio in rows:
        print(f"{words:<52} {rate:>12,.0f}/s   {ratio:.3f} of its floor")
    report_core()


if __name__ == "__main__":
    main()
