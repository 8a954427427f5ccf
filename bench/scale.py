"""./bluffside bench scale: the size the house is built for, and how every hot query finds its rows there.

1,000,000 contacts, 2,000,000 enrolments (a tenth of them running), 20,000,000 events of the last twelve months,
3,000,000 turns with their reasons, 1,000,000 messages, over 50 accounts; made inside PostgreSQL by INSERT … SELECT,
which is what COPY does without the way through a client. Then the application's own functions and pages run as the
application's role, their statements are caught, and PostgreSQL explains each: which indexes it takes, and whether it
ever reads a large table from end to end.

    BENCH_SCALE=0.01 makes a hundredth, to try it; BENCH_REUSE=1 takes what was made before
"""

import json
import os
import re
import time
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from typing import Any

from bench.ground import fresh_database

SCALE = float(os.environ.get("BENCH_SCALE", "1"))
ACCOUNTS = 50
PEOPLE = int(20_000 * SCALE)  # of each account
ENROLMENTS = 2 * PEOPLE
EVENTS = 20 * PEOPLE
LARGE = (
    "people_contact", "people_contacttag", "people_consent", "workflows_enrolment", "workflows_turn", "events_event",
    "messaging_message", "workflows_expected",
)  # fmt: skip


def fill() -> None:
    """The rows. What is random is so by a hash, the same each time."""
    from tests.server.conftest import make_house

    from bluffside.server import sql
    from bluffside.server.events.partitions import make_months
    from bluffside.server.practice import walls
    from bluffside.server.practice.models import Account

    house = make_house()
    now = datetime.now(UTC)
    make_months(now - timedelta(days=370), now)
    for number in range(ACCOUNTS - 2):
        Account.objects.create(
            practice=house.practice, slug=f"a{number}", name=f"Account {number}", zone="Europe/London", region="GB",
            text_number="+447700900111", sender_name="A", sender_email=f"a{number}@example.com", postal_address="1 Quay",
        )  # fmt: skip
    accounts = list(Account.objects.order_by("id"))
    walls.enter(*accounts)
    of_account = {a.id: [house.workflow(a, name=f"W{n}") for n in range(4)] for a in accounts}
    sql.execute("SET session_replication_role = replica")  # the keys are right by the way the rows are made
    sql.execute("SET synchronous_commit = off")
    sql.execute("SET maintenance_work_mem = '1GB'")
    indexes = _without_indexes()
    for account in accounts:
        began = time.perf_counter()
        workflows = of_account[account.id]
        ids, versions = [one.id for one in workflows], [one.published_id for one in workflows]
        first = sql.rows("SELECT coalesce(max(id), 0) FROM people_contact")[0][0]
        a = account.id
        sql.execute(
            "INSERT INTO people_contact (account_id, first_name, last_name, email, mobile, zone, added_at, fields)"
            " SELECT %s, 'N' || n, 'V' || n %% 997, 'n' || n || '@example.com', '+4477' || lpad(n::text, 8, '0'), '',"
            " now() - n * interval '20 seconds', jsonb_build_object('boat', n %% 7) FROM generate_series(1, %s) n",
            [a, PEOPLE],
        )
        sql.execute(
            "INSERT INTO people_tag (account_id, name) SELECT %s, 'tag ' || n FROM generate_series(1, 20) n", [a]
        )
        sql.execute(
            "INSERT INTO people_contacttag (account_id, contact_id, tag_id) SELECT %s, c.id, t.id FROM people_contact c"
            " JOIN people_tag t ON t.account_id = c.account_id AND (c.id + t.id) %% 10 = 0 WHERE c.account_id = %s",
            [a, a],
        )
        sql.execute(
            "INSERT INTO people_consent (account_id, contact_id, channel, purpose, state, at, how, wording, evidence)"
            " SELECT %s, id, 'email', p, 'given', now(), '', '', 'form' FROM people_contact,"
            " unnest(ARRAY['marketing', 'service']) p WHERE account_id = %s",
            [a, a],
        )
        sql.execute(
            """
            INSERT INTO workflows_enrolment (account_id, workflow_id, version_id, contact_id, why, joined_at, begun,
                   place, arrived_at, until, listens, ended, ended_at, due_at)
            SELECT %s, (%s::bigint[])[1 + n %% 4], (%s::bigint[])[1 + n %% 4], %s + 1 + n %% %s, 'made', at, true,
                   CASE WHEN inside THEN 'answer' ELSE '' END, at, CASE WHEN inside THEN at + interval '90 days' END,
                   inside, CASE WHEN inside THEN '' ELSE 'came to the end' END,
                   CASE WHEN NOT inside THEN at + interval '9 days' END,
                   CASE WHEN inside THEN CASE WHEN n %% 100 = 0 THEN now() - interval '1 minute'
                                              ELSE now() + n * interval '1 minute' END END
              FROM (SELECT n, now() - (n %% 8000) * interval '1 hour' AS at, n < %s / 10 AS inside
                      FROM generate_series(0, %s - 1) n) AS x
            """,
            [a, ids, versions, first, PEOPLE, ENROLMENTS, ENROLMENTS],
        )
        sql.execute(
            """
            INSERT INTO events_event (account_id, kind, contact_id, at, data)
            SELECT %s, (ARRAY['message.sent', 'message.delivered', 'link.clicked', 'tag.added', 'reply.received'])[1 + n %% 5],
                   %s + 1 + (n::bigint * 7919) %% %s, now() - (n::float / %s * 360) * interval '1 day',
                   '{"message": "Hello", "channel": "text", "purpose": "marketing", "tag": "a", "text": "yes"}'
              FROM generate_series(0, %s - 1) n
            """,
            [a, first, PEOPLE, EVENTS, EVENTS],
        )
        sql.execute(
            """
            INSERT INTO workflows_turn (account_id, enrolment_id, at, steps, reasons)
            SELECT account_id, id, joined_at + n * interval '1 hour', ARRAY['hello'],
                   '[{"step": "hello", "sentence": "Sends “Hello” by text.", "values": {"to": "+447700900123"}}]'
              FROM workflows_enrolment, generate_series(0, 1) n WHERE account_id = %s AND (n = 0 OR id %% 2 = 0)
            """,
            [a],
        )
        sql.execute(
            """
            INSERT INTO messaging_message (account_id, contact_id, key, channel, purpose, sender, address, name, subject,
                   body, step, enrolment_id, state, next_try_at, queued_at, sent_at, settled_at)
            SELECT account_id, contact_id, 'e' || id || ':hello:1', 'text', 'marketing', '', '+447700900123', 'Hello', '',
                   'Hi there', 'hello', id, CASE WHEN id %% 500 = 0 THEN 'queued' ELSE 'delivered' END, joined_at,
                   joined_at, CASE WHEN id %% 500 <> 0 THEN joined_at END, joined_at
              FROM workflows_enrolment WHERE account_id = %s AND id %% 2 = 0
            """,
            [a],
        )
        print(f"  account {account.slug}: {time.perf_counter() - began:.1f} s", flush=True)
    began = time.perf_counter()
    for index in indexes:
        sql.execute(index)
    print(f"  indexes: {time.perf_counter() - began:.1f} s", flush=True)
    sql.execute("SET session_replication_role = origin")
    sql.execute("VACUUM ANALYZE")


def _without_indexes() -> list[str]:
    """Takes the indexes off the large tables while they are filled; answers what puts them back."""
    from bluffside.server import sql

    free = sql.rows(
        """
        SELECT i.indexname, i.indexdef FROM pg_indexes i JOIN pg_class c ON c.relname = i.indexname
         WHERE i.tablename = ANY(%s) AND NOT EXISTS (SELECT FROM pg_constraint k WHERE k.conindid = c.oid)
        """,
        [list(LARGE)],
    )
    kept = sql.rows(
        """
        SELECT k.conrelid::regclass::text, k.conname, pg_get_constraintdef(k.oid) FROM pg_constraint k
         WHERE k.conrelid::regclass::text = ANY(%s) AND k.contype = 'u'
            OR k.conrelid::regclass::text IN ('events_event', 'workflows_turn') AND k.contype = 'p'
        """,
        [list(LARGE)],
    )
    for name, _ in free:
        sql.execute(f"DROP INDEX {name}")
    for table, name, _ in kept:
        sql.execute(f"ALTER TABLE {table} DROP CONSTRAINT {name}")
    # Of a table that is cut by month the whole is meant, months included.
    return [definition.replace(" ON ONLY ", " ON ") for _, definition in free] + [
        f"ALTER TABLE {table} ADD CONSTRAINT {name} {definition}" for table, name, definition in kept
    ]


def operations() -> dict[str, Callable[[], Any]]:
    """What the house does most, by its own functions and pages."""
    from django.test import Client

    from bluffside.server import metrics, worker
    from bluffside.server.events.stream import Cause, dispatch_batch
    from bluffside.server.messaging import delivery
    from bluffside.server.people.models import Contact
    from bluffside.server.people.queries import account_facts
    from bluffside.server.people.services import add_tags
    from bluffside.server.practice import walls
    from bluffside.server.practice.models import Account, Person
    from bluffside.server.workflows.dated import expect_batch
    from bluffside.server.workflows.engine import advance_batch
    from bluffside.server.workflows.facts import load_facts
    from bluffside.server.workflows.models import Workflow

    account = Account.objects.select_related("responsible").get(slug="a7")
    walls.enter(account)
    ids = list(Contact.objects.filter(account=account).order_by("id").values_list("id", flat=True)[:1_000])
    workflow = Workflow.objects.filter(account=account).order_by("id").first()
    assert workflow
    client = Client()
    client.force_login(Person.objects.get(email="imogen@example.com"), "bluffside.server.signing_in.adapters.Backend")
    base = f"/api/accounts/{account.slug}"

    def page(path: str) -> Callable[[], None]:
        def get() -> None:
            assert client.get(f"{base}/{path}").status_code == 200

        return get

    def find(**wanted: Any) -> Callable[[], None]:
        def post() -> None:
            body = {"who": {}, **wanted}
            assert client.post(f"{base}/contacts/find", body, content_type="application/json").status_code == 200

        return post

    page("tags")()  # the first request of a process reads the whole API
    return {
        "where is work due (all kinds)": lambda: [
            worker.due_accounts(k) for k in (*worker.DECIDING, *worker.SPEAKING[:2])
        ],
        "a thousand contacts tagged": lambda: add_tags(account, [(id, "taster", Cause()) for id in ids]),
        "500 events handed on, starting a workflow": lambda: dispatch_batch(account),
        "a batch of due enrolments": lambda: advance_batch(account),
        "facts of 1,000 with all that happened": lambda: load_facts(account, ids),
        "dates that came": lambda: expect_batch(account),
        "200 messages leased": lambda: delivery._lease(account, account_facts(account).care),
        "page: contacts, newest": find(order="-added"),
        "page: contacts, by name, page 100": find(order="name", page=100),
        "page: one contact": page(f"contacts/{ids[len(ids) // 2]}"),
        "page: one contact's story": page(f"contacts/{ids[len(ids) // 2]}/story"),
        "page: one contact's enrolments": page(f"contacts/{ids[len(ids) // 2]}/enrolments"),
        "page: today": page("today"),
        "page: workflows": page("workflows"),
        "page: watching a workflow": page(f"workflows/{workflow.id}/watch"),
        "page: why somebody is not inside": page(f"contacts/{ids[0]}/why-not?workflow_id={workflow.id}"),
        "page: the diary, six weeks": page("diary?days=42"),
        "figures for Prometheus": metrics.figures,
    }


def explain(statements: list[str]) -> tuple[set[str], set[str]]:
    """The indexes that statements take, and the large tables that they read from end to end."""
    from django.db import connection

    indexes, read_through = set[str](), set[str]()

    def walk(plan: dict[str, Any]) -> None:
        if "Index Name" in plan:
            indexes.add(re.sub(r"_\d{4}_\d{2}_", "_(months)_", plan["Index Name"]))
        relation = plan.get("Relation Name", "")
        if plan["Node Type"] == "Seq Scan" and relation.startswith(LARGE) and plan["Plan Rows"] > 5_000 * SCALE:
            read_through.add(relation)
        for inner in plan.get("Plans", ()):
            walk(inner)

    with connection.cursor() as cursor:
        for statement in statements:
            if statement.split(None, 1)[0].upper() in ("SELECT", "INSERT", "UPDATE", "DELETE", "WITH"):
                cursor.execute("EXPLAIN (FORMAT JSON) " + statement.replace("%", "%%"), [])
                found = cursor.fetchone()[0]
                walk((json.loads(found) if isinstance(found, str) else found)[0]["Plan"])
    return indexes, read_through


def main() -> None:
    reuse = bool(os.environ.get("BENCH_REUSE"))
    url = fresh_database("bluffside_scale", reuse)
    if not reuse:
        began = time.perf_counter()
        fill()
        print(f"made in {time.perf_counter() - began:.0f} s")
    from django.db import connection
    from django.test.utils import CaptureQueriesContext, override_settings
    from launcher.database import app_url
    from tests.server.conftest import connect_to

    from bluffside.server import sql

    names = ("people_contact", "workflows_enrolment", "events_event", "workflows_turn", "messaging_message")
    sizes = {name: sql.rows(f"SELECT count(*) FROM {name}")[0][0] for name in names}
    size = sql.rows("SELECT pg_size_pretty(pg_database_size(current_database()))")[0][0]
    print(f"{', '.join(f'{count:,} {name}' for name, count in sizes.items())}; {size}\n")
    connect_to(app_url(url))
    with override_settings(ALLOWED_HOSTS=["testserver"]):
        for words, do in operations().items():
            with CaptureQueriesContext(connection) as caught:
                started = time.perf_counter()
                do()
                spent = time.perf_counter() - started
            from bluffside.server.practice import walls
            from bluffside.server.practice.models import Account

            walls.enter(Account.objects.get(slug="a7"))
            indexes, read_through = explain([one["sql"] for one in caught.captured_queries if one["sql"]])
            mine = sorted(one for one in indexes if not one.startswith(("auth_", "django_", "practice_")))
            print(f"{words:<44} {1_000 * spent:8.0f} ms  {len(caught.captured_queries):3} statements")
            print(f"    by {', '.join(mine) or 'no index'}")
            if read_through:
                print(f"    READ FROM END TO END: {', '.join(sorted(read_through))}")


if __name__ == "__main__":
    main()
