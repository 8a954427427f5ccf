"""./bluffside bench engine: steps a second, as ratios in one run on the same people and the same tables.

(a) PostgreSQL alone     writes the very rows that the engine wrote, from tables beside them, set-based, with a durable
                         commit every 1,000 enrolments: what nobody can do faster here without writing less
(b) this engine          two workers, woken as in life: claiming, facts, the core, states, reasons, outbox with links,
                         tags, tasks, events
(c) a job a step         the same steps as one procrastinate job each, two workers: read the enrolment, note its step,
                         its reason and its message, ask for the next; it decides nothing, so it is flattered

A step is a line that acts: here a text, a tag, a call and the wait below them, and after the wait an email and a tag.
"""

import os
import subprocess
import sys
import time
from datetime import timedelta

import psycopg

from bench.ground import ROOT, fresh_database, make_people, table, timed, wait_for, workers

PEOPLE = int(os.environ.get("BENCH_PEOPLE", "20000"))
JOBS = 1_500  # enrolments that a job a step is tried on; it is slow
BATCH = 1_000
STEPS = [
    {"kind": "text", "id": "one", "message": {"name": "One", "body": 'Hi {{ contact.first_name | default: "there" }}'}},
    {"kind": "tag", "id": "mark", "tag": "seen"},
    {"kind": "call", "id": "ring", "about": "the course"},
    {"kind": "wait", "id": "day", "duration": "1 day"},
    {
        "kind": "email",
        "id": "two",
        "message": {
            "name": "Two",
            "subject": "S",
            "body": "See https://example.com/courses, {{ contact.first_name }}.",
        },
    },
    {"kind": "tag", "id": "more", "tag": "told"},
]
BEFORE, AFTER = 4, 2  # steps up to the wait, and after it
# What a step writes, table by table; the floor writes the same rows.
TABLES = ("workflows_turn", "messaging_message", "messaging_link", "people_contacttag", "diary_task", "events_event")
OF = {"messaging_link": "m.enrolment_id", "people_contacttag": "e.id"}
JOIN = {
    "messaging_link": "JOIN messaging_message m ON m.id = t.message_id",
    "people_contacttag": "JOIN workflows_enrolment e ON e.contact_id = t.contact_id",
}


def engine(url: str) -> tuple[float, float]:
    """Seconds of the steps before the wait, and of those after it, by two workers that only decide."""
    from tests.server.conftest import make_house

    from bluffside.server.events.stream import Cause
    from bluffside.server.practice import clock
    from bluffside.server.workflows import enrolling

    house = make_house()
    make_people(house.sailing.id, PEOPLE)
    workflow = house.workflow(steps=STEPS, leaves_on=[])
    people = list(house.sailing.contacts.order_by("id").values_list("id", flat=True))
    with psycopg.connect(url, autocommit=True) as connection, workers(url, 2, "--only", "deciding"):
        wait_for(connection, "SELECT count(*) FROM practice_workerseen", 2)
        began = time.perf_counter()
        enrolling.enrol(workflow, people, "bench", Cause())
        enrolled = time.perf_counter() - began
        began = time.perf_counter()
        at_wait = "SELECT count(*) FROM workflows_enrolment WHERE place = 'day' AND due_at > now()"
        wait_for(connection, at_wait, PEOPLE)
        first = time.perf_counter() - began
        connection.execute("CHECKPOINT")
        began = time.perf_counter()
        clock.move_to(clock.now() + timedelta(days=2))
        wait_for(connection, "SELECT count(*) FROM workflows_enrolment WHERE ended <> ''", PEOPLE)
        second = time.perf_counter() - began
    print(f"  enrolling {PEOPLE:,} took {enrolled:.1f} s, {first:.1f} s to the wait, {second:.1f} s after it")
    return first + min(enrolled, 0.5 * first), second


def floor(url: str, connections: int) -> float:
    """Seconds in which PostgreSQL alone writes the rows that the engine wrote, all enrolments twice."""
    with psycopg.connect(url, autocommit=True) as connection:
        connection.execute("DROP SCHEMA IF EXISTS beside CASCADE")
        connection.execute("CREATE SCHEMA beside")
        for name in TABLES:
            connection.execute(
                # Every second of an enrolment's rows in each of the two turns.
                f"CREATE TABLE beside.{name} AS SELECT *, (row_number() OVER mine * 2 > count(*) OVER all_of)::int AS turn"
                f" FROM (SELECT t.*, {OF.get(name, 't.enrolment_id')} AS of FROM {name} t {JOIN.get(name, '')}) AS b"
                " WINDOW mine AS (PARTITION BY of ORDER BY id), all_of AS (PARTITION BY of)"
            )
            connection.execute(f"CREATE INDEX ON beside.{name} (of, turn)")
        connection.execute("CREATE TABLE beside.enrolment AS SELECT * FROM workflows_enrolment")
        connection.execute("ALTER TABLE beside.enrolment ADD PRIMARY KEY (id)")
        connection.execute("TRUNCATE messaging_message, messaging_link, people_contacttag, diary_task CASCADE")
        connection.execute("TRUNCATE workflows_turn, events_event")
        connection.execute(
            "UPDATE workflows_enrolment SET place = '', due_at = now(), until = now(), ended = '', ended_at = NULL"
        )
        connection.execute("VACUUM ANALYZE")
        columns = {
            name: ", ".join(
                str(row[0])
                for row in connection.execute(
                    "SELECT attname FROM pg_attribute WHERE attrelid = %s::regclass AND attnum > 0 AND NOT attisdropped"
                    " ORDER BY attnum",
                    [name],
                )
            )
            for name in TABLES
        }
        ids = [row[0] for row in connection.execute("SELECT id FROM workflows_enrolment ORDER BY id")]
        connection.execute("CHECKPOINT")

    def half(number: int) -> None:
        mine = ids[number::connections]
        with psycopg.connect(url) as line:
            for turn in (0, 1):
                for at in range(0, len(mine), BATCH):
                    some = mine[at : at + BATCH]
                    line.execute("SELECT id FROM workflows_enrolment WHERE id = ANY(%s) FOR UPDATE SKIP LOCKED", [some])
                    line.execute(
                        "UPDATE workflows_enrolment e SET place = CASE WHEN %s = 0 THEN 'day' ELSE b.place END,"
                        " arrived_at = b.arrived_at, until = b.until, due_at = now() + interval '1 day',"
                        " rest = b.rest, begun = true, ended = CASE WHEN %s = 0 THEN '' ELSE b.ended END,"
                        " ended_at = CASE WHEN %s = 0 THEN NULL ELSE b.ended_at END"
                        " FROM beside.enrolment b WHERE b.id = e.id AND e.id = ANY(%s)",
                        [turn, turn, turn, some],
                    )
                    for name in TABLES:
                        line.execute(
                            f"INSERT INTO {name} ({columns[name]}) SELECT {columns[name]} FROM beside.{name}"
                            " WHERE of = ANY(%s) AND turn = %s",
                            [some, turn],
                        )
                    line.commit()

    if connections == 1:
        return timed(lambda: half(0))
    from concurrent.futures import ThreadPoolExecutor

    with ThreadPoolExecutor(connections) as pool:
        return timed(lambda: list(pool.map(half, range(connections))))


def job_a_step(url: str) -> float:
    """Steps a second as one procrastinate job each, by two workers."""
    env = os.environ | {"DATABASE_URL": url, "PYTHONPATH": f"{ROOT / 'src'}:{ROOT}"}
    with psycopg.connect(url, autocommit=True) as connection:
        subprocess.run([sys.executable, "-m", "bench.job_a_step", "prepare", str(JOBS)], env=env, check=True)
        command = [sys.executable, "-m", "bench.job_a_step", "work"]
        running = [subprocess.Popen(command, env=env) for _ in range(2)]
        try:
            wait_for(connection, "SELECT count(*) FROM jobs_turn", 1)
            before = connection.execute("SELECT count(*) FROM jobs_turn").fetchone()
            began = time.perf_counter()
            wait_for(connection, "SELECT count(*) FROM jobs_turn", JOBS * (BEFORE + AFTER))
            spent = time.perf_counter() - began
        finally:
            for process in running:
                process.terminate()
            for process in running:
                process.wait()
    assert before
    return (JOBS * (BEFORE + AFTER) - int(before[0])) / spent


def main() -> None:
    url = fresh_database()
    steps = PEOPLE * (BEFORE + AFTER)
    first, second = engine(url)
    ours = steps / (first + second)
    alone = steps / floor(url, 1)
    twice = steps / floor(url, 2)
    jobs = job_a_step(url)
    print(f"\nSteps of {PEOPLE:,} enrolments, {BEFORE + AFTER} each, two workers on {os.cpu_count()} cores")
    table(
        [
            ("(a) PostgreSQL alone, the same rows, one connection", alone, "1.00"),
            ("    PostgreSQL alone, the same rows, two connections", twice, f"{twice / alone:.2f} of (a)"),
            ("(b) this engine, two workers", ours, f"{ours / alone:.2f} of (a); asked: 0.33"),
            ("(c) a procrastinate job a step, two workers", jobs, f"(b) is {ours / jobs:.0f} times that; asked: 20"),
        ],
        "steps/s",
    )


if __name__ == "__main__":
    main()
