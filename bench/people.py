"""./bluffside bench people: 1,000,000 contacts in one account.

segments     the count of a three-part segment, and of one by lead score, as the application compiles it, as a ratio to the best
             SQL written by hand for the same question, each the median of several runs in turn; and that both count the same
by score     the first page of people sorted by their lead score, as a ratio to the same by hand
a contact    the pages of one contact, server time
go to        what Ctrl+K answers, server time (asked for: the first answer below 100 ms)

BENCH_SCALE=0.1 makes a tenth; BENCH_REUSE=1 takes what was made before
"""

import os
import time
from collections.abc import Callable
from statistics import median
from typing import Any

from bench.ground import fresh_database

PEOPLE = int(1_000_000 * float(os.environ.get("BENCH_SCALE", "1")))
RUNS = 7


def fill() -> None:
    from tests.server.conftest import make_house

    from bluffside.server import sql
    from bluffside.server.practice import walls

    house = make_house()
    walls.enter(house.sailing)
    account = house.sailing.id
    sql.execute("SET session_replication_role = replica")
    sql.execute("SET synchronous_commit = off")
    sql.execute(
        "INSERT INTO people_contact (account_id, first_name, last_name, email, mobile, zone, added_at, fields, lists, score)"
        " SELECT %s, 'Name ' || n %% 4001, 'Vane' || n %% 997, CASE WHEN n %% 9 > 0 THEN 'n' || n || '@example.com' ELSE '' END,"
        " '+4477' || lpad(n::text, 8, '0'), '', now() - n * interval '20 seconds',"
        " jsonb_build_object('town', (ARRAY['Bristol', 'Port Alder', 'Ferny Bay', 'Tern', 'Dry Gulch'])[1 + n %% 5],"
        " 'spent', n %% 1000), CASE WHEN n %% 3 = 0 THEN ARRAY['races'] ELSE ARRAY[]::varchar[] END,"
        " CASE WHEN n %% 4 = 0 THEN '[]'::jsonb ELSE jsonb_build_array(jsonb_build_array('a', n %% 40, now() - n * interval '3 s', NULL),"
        " jsonb_build_array('b', n %% 30, now() - n * interval '3 s', 2592000)) END FROM generate_series(1, %s) n",
        [account, PEOPLE],
    )
    sql.execute(
        "INSERT INTO people_tag (account_id, name) SELECT %s, 'tag ' || n FROM generate_series(1, 20) n", [account]
    )
    sql.execute(
        "INSERT INTO people_contacttag (account_id, contact_id, tag_id) SELECT c.account_id, c.id, t.id FROM people_contact c"
        " JOIN people_tag t ON t.account_id = c.account_id AND (c.id / 7 + t.id) %% 10 = 0",
    )
    sql.execute(
        "INSERT INTO people_consent (account_id, contact_id, channel, purpose, state, at, how, wording, evidence)"
        " SELECT account_id, id, 'email', 'marketing', CASE WHEN id %% 12 = 0 THEN 'withdrawn' ELSE 'given' END, now(),"
        " '', '', 'form' FROM people_contact",
    )
    sql.execute(
        "INSERT INTO events_event (account_id, kind, contact_id, at, data) SELECT account_id, 'message.sent', id,"
        ' now() - (id %% 60) * interval \'1 day\', \'{"message": "Hello", "channel": "text"}\' FROM people_contact,'
        " generate_series(1, 2)",
    )
    sql.execute("VACUUM ANALYZE")


# What a lead score is worth now: of each rule its points, halved by the time since (core.scoring.sheet).
SCORE = """
    (SELECT coalesce(sum(CASE WHEN e ->> 3 IS NULL THEN (e ->> 1)::float8
       ELSE (e ->> 1)::float8 * power(2::float8, -extract(epoch FROM %(now)s - (e ->> 2)::timestamptz)::float8 / (e ->> 3)::float8) END), 0)
       FROM jsonb_array_elements(c.score) AS e)
"""
# A segment, and the best that was found by hand for the same question.
SEGMENTS: dict[str, tuple[dict[str, Any], str]] = {
    "a tag, a town, can be emailed": (
        {"test": "all", "of": [
            {"test": "tag", "tag": "tag 3"},
            {"test": "field", "field": "town", "compare": "is", "value": "Bristol"},
            {"test": "reach", "channel": "email"},
        ]},
        """
        SELECT count(*) FROM people_contact c WHERE c.account_id = %(a)s AND lower(c.fields ->> 'town') = 'bristol'
           AND NOT c.do_not_contact AND c.email <> '' AND NOT 'email' = ANY(c.exhausted)
           AND EXISTS (SELECT FROM people_contacttag t WHERE t.contact_id = c.id
                        AND t.tag_id = (SELECT id FROM people_tag WHERE account_id = %(a)s AND name = 'tag 3'))
           AND NOT EXISTS (SELECT FROM people_consent k WHERE k.contact_id = c.id AND k.channel = 'email'
                            AND k.purpose = 'marketing' AND k.state = 'withdrawn')
        """,
    ),
    "a lead score of 40": (
        {"test": "score", "compare": "at_least", "points": 40},
        f"SELECT count(*) FROM people_contact c WHERE c.account_id = %(a)s AND c.score <> '[]' AND {SCORE} >= 40",
    ),
    "no tag, a number, on a list": (
        {"test": "all", "of": [
            {"test": "tag", "tag": "tag 3", "has": False},
            {"test": "field", "field": "spent", "compare": "more_than", "value": "500"},
            {"test": "list", "list": "races"},
        ]},
        """
        SELECT count(*) FROM people_contact c WHERE c.account_id = %(a)s AND (c.fields ->> 'spent')::numeric > 500
           AND c.lists @> ARRAY['races']::varchar[]
           AND NOT EXISTS (SELECT FROM people_contacttag t WHERE t.contact_id = c.id
                            AND t.tag_id = (SELECT id FROM people_tag WHERE account_id = %(a)s AND name = 'tag 3'))
        """,
    ),
    "a tag or a town, and no text in 30 days": (
        {"test": "all", "of": [
            {"test": "any", "of": [{"test": "tag", "tag": "tag 5"},
                                   {"test": "field", "field": "town", "compare": "is", "value": "Tern"}]},
            {"test": "message", "message": "Hello", "did": "was_sent", "yes": False, "within": "30 days"},
        ]},
        """
        SELECT count(*) FROM people_contact c WHERE c.account_id = %(a)s
           AND (lower(c.fields ->> 'town') = 'tern' OR c.id IN (SELECT t.contact_id FROM people_contacttag t
                 WHERE t.tag_id = (SELECT id FROM people_tag WHERE account_id = %(a)s AND name = 'tag 5')))
           AND NOT EXISTS (SELECT FROM events_event e WHERE e.contact_id = c.id AND e.account_id = %(a)s
                            AND e.kind = 'message.sent' AND e.at > %(begin)s AND e.at <= %(now)s AND e.data ->> 'message' = 'Hello')
        """,
    ),
}  # fmt: skip


def compare() -> None:
    from django.db import connection
    from pydantic import TypeAdapter

    from bluffside.core.conditions import Condition
    from bluffside.core.timing.durations import Duration
    from bluffside.server.practice import clock, walls
    from bluffside.server.practice.models import Account
    from bluffside.server.segments.compiling import people_for

    account = Account.objects.get(slug="sailing")
    walls.enter(account)
    now = clock.now()
    given = {"a": account.id, "now": now, "begin": Duration.parse("30 days").before(now, account.zone)}
    for words, (written, by_hand) in SEGMENTS.items():
        condition = TypeAdapter(Condition).validate_python(written)

        def ours(condition: Any = condition) -> int:
            return people_for(account, condition, now).count()

        def theirs(by_hand: str = by_hand) -> int:
            with connection.cursor() as cursor:
                cursor.execute(by_hand, given)
                return int(cursor.fetchone()[0])

        assert ours() == theirs(), words
        times: dict[str, list[float]] = {"ours": [], "theirs": []}
        for _ in range(RUNS):
            for name, count in (("ours", ours), ("theirs", theirs)):
                began = time.perf_counter()
                found = count()
                times[name].append(time.perf_counter() - began)
        one, other = median(times["ours"]), median(times["theirs"])
        print(
            f"  {words:<44} {1_000 * one:7.0f} ms  by hand {1_000 * other:7.0f} ms  ratio {one / other:.2f}   {found:,} people"
        )


def by_score() -> None:
    """The ids of the first page, the highest first."""
    from django.db import connection

    from bluffside.server.practice import clock, walls
    from bluffside.server.practice.models import Account
    from bluffside.server.segments.pieces import score_at

    account = Account.objects.get(slug="sailing")
    walls.enter(account)
    now = clock.now()
    by_hand = f"SELECT c.id FROM people_contact c WHERE c.account_id = %(a)s ORDER BY {SCORE} DESC, c.id LIMIT 50"

    def ours() -> list[int]:
        return list(account.contacts.order_by(score_at(now).desc(), "id").values_list("id", flat=True)[:50])

    def theirs() -> list[int]:
        with connection.cursor() as cursor:
            cursor.execute(by_hand, {"a": account.id, "now": now})
            return [row[0] for row in cursor.fetchall()]

    assert ours() == theirs()
    one, other = (median(_spent(do) for _ in range(RUNS)) for do in (ours, theirs))
    print(f"  sorted by lead score: {1_000 * one:.0f} ms  by hand {1_000 * other:.0f} ms  ratio {one / other:.2f}")


def _spent(do: Callable[[], Any]) -> float:
    began = time.perf_counter()
    do()
    return time.perf_counter() - began


def pages() -> None:
    from django.test import Client

    from bluffside.server import sql
    from bluffside.server.practice.models import Person

    client = Client()
    client.force_login(Person.objects.get(email="imogen@example.com"), "bluffside.server.signing_in.adapters.Backend")
    id = sql.rows("SELECT min(id) + %s FROM people_contact", [PEOPLE // 2])[0][0]
    base = f"/api/accounts/sailing/contacts/{id}"

    def spent(do: Callable[[], Any]) -> float:
        took = []
        for _ in range(RUNS):
            began = time.perf_counter()
            assert do().status_code == 200
            took.append(time.perf_counter() - began)
        return 1_000 * median(took)

    client.get(base)
    paths = ("", "/details", "/enrolments", "/story", "/score", "/outside-lists")
    each = {path: spent(lambda path=path: client.get(f"{base}{path}")) for path in paths}
    each["forms"] = spent(lambda: client.get("/api/accounts/sailing/forms"))
    said = ", ".join(f"{path or 'row'} {took:.0f}" for path, took in each.items())
    print(f"  a contact's page: {sum(each.values()):.0f} ms of server time in all ({said})")

    def find() -> Any:
        return client.post(
            "/api/accounts/sailing/contacts/find", {"who": {"q": "vane42"}}, content_type="application/json"
        )

    print(f"  people found by a word: {spent(find):.0f} ms")
    # The first words, few of many, none at all, and a number as it is being typed.
    for typed in ("name 40", "v", "vane42 name", "nobody", "07700 5"):
        took = spent(lambda typed=typed: client.get("/api/accounts/sailing/find", {"q": typed}))
        print(f"  gone to by “{typed}”: {took:.0f} ms")


def main() -> None:
    reuse = bool(os.environ.get("BENCH_REUSE"))
    url = fresh_database("bluffside_people", reuse)
    if not reuse:
        began = time.perf_counter()
        fill()
        print(f"{PEOPLE:,} contacts made in {time.perf_counter() - began:.0f} s")
    from django.test.utils import override_settings
    from launcher.database import app_url
    from tests.server.conftest import connect_to

    connect_to(app_url(url))
    with override_settings(ALLOWED_HOSTS=["testserver"]):
        compare()
        by_score()
        pages()


if __name__ == "__main__":
    main()
