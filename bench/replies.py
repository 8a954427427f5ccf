"""./bluffside bench replies: the page Replies over 1,000,000 messages and 250,000 replies of 100,000 people, in one account.

Server time of each, the median of several runs in turn, beside a floor: one row read by its key. Asked for: the first page below 150 ms.

BENCH_SCALE=0.1 makes a tenth; BENCH_REUSE=1 takes what was made before
"""

import os
from collections.abc import Callable
from statistics import median

from bench.ground import fresh_database, make_people, timed

SCALE = float(os.environ.get("BENCH_SCALE", "1"))
PEOPLE, MESSAGES, REPLIES, WAITING = int(100_000 * SCALE), int(1_000_000 * SCALE), int(250_000 * SCALE), 400
RUNS = 7
WORDS = "what does a weekend cost for two of us in may|yes please count us in|can my son come too he is eleven|running late|thanks"


def fill() -> None:
    from tests.server.conftest import make_house

    from bluffside.server import sql
    from bluffside.server.practice import walls

    house = make_house()
    walls.enter(house.sailing)
    account = house.sailing.id
    sql.execute("SET session_replication_role = replica")  # the keys are right by the way the rows are made
    sql.execute("SET synchronous_commit = off")
    make_people(account, PEOPLE)
    who = f"(SELECT min(id) FROM people_contact) + n %% {PEOPLE}"
    said = f"(string_to_array('{WORDS}', '|'))[1 + n %% 5] || ' ' || n"
    sql.execute(
        "INSERT INTO messaging_message (account_id, contact_id, key, channel, purpose, sender, address, name, subject, body, step, state,"
        " reason, next_try_at, queued_at, sent_at, by_id)"
        f" SELECT %s, {who}, 'm' || n, 'text', 'marketing', '', '', 'Hello', '', {said}, '', 'delivered', '', at, at, at,"
        " CASE WHEN n %% 20 = 0 THEN %s END"
        f" FROM (SELECT n, now() - n * interval '20 seconds' AS at FROM generate_series(1, {MESSAGES}) n) x",
        [account, house.member.pk],
    )
    sql.execute(
        "INSERT INTO messaging_reply (account_id, contact_id, key, channel, text, received_at, opted_out, automatic, settled_at)"
        f" SELECT %s, {who}, 'r' || n, 'text', {said}, at, false, false, CASE WHEN n > {WAITING} THEN at END"
        f" FROM (SELECT n, now() - n * interval '80 seconds' AS at FROM generate_series(1, {REPLIES}) n) x",
        [account],
    )
    sql.execute(
        "INSERT INTO messaging_correspondence (account_id, contact_id, turn, heard_at, waiting_since, to_decide)"
        " SELECT account_id, contact_id, count(*), max(received_at), min(received_at) FILTER (WHERE settled_at IS NULL), false"
        " FROM messaging_reply GROUP BY account_id, contact_id"
    )
    sql.execute("VACUUM ANALYZE")


def main() -> None:
    url = fresh_database(reuse=bool(os.environ.get("BENCH_REUSE")))
    if not os.environ.get("BENCH_REUSE"):
        fill()
    from django.db import connection
    from django.test import Client
    from launcher.database import app_url
    from tests.server.conftest import connect_to

    from bluffside.server.messaging.models import Correspondence
    from bluffside.server.people.models import Contact
    from bluffside.server.practice import walls
    from bluffside.server.practice.models import Account, Person

    connect_to(app_url(url))  # behind the walls, as the application is
    account = Account.objects.get(slug="sailing")
    walls.enter(account)
    first = Correspondence.objects.order_by("id").first()
    assert first
    client = Client(headers={"host": "localhost"})
    client.force_login(Person.objects.get(email="imogen@example.com"), "bluffside.server.signing_in.adapters.Backend")
    base = f"/api/accounts/{account.slug}"

    def reads(path: str) -> Callable[[], object]:
        def read() -> None:
            answer = client.get(f"{base}/{path}")
            assert answer.status_code == 200, answer.content

        return read

    ways: dict[str, Callable[[], object]] = {
        "floor: one row by its key": lambda: Contact.objects.get(pk=first.contact_id),
        "the first page": reads("replies"),
        "all, the first page": reads("replies?show=all"),
        "all, the fiftieth page": reads("replies?show=all&page=50"),
        "what was said with one": reads(f"replies/{first.contact_id}"),
        "words that were said": reads("replies?show=all&words=weekend+cost"),
        "words that nobody said": reads("replies?show=all&words=barnacle"),
        "the number in the strip": reads("waiting"),
    }
    taken: dict[str, list[float]] = {name: [] for name in ways}
    for _ in range(RUNS):
        for name, way in ways.items():
            taken[name].append(timed(way))
    connection.close()
    print(f"\nReplies: {MESSAGES:,} messages, {REPLIES:,} replies, {PEOPLE:,} people, {WAITING} waiting")
    floor = median(taken["floor: one row by its key"])
    for name, times in taken.items():
        print(f"  {name:<32}{median(times) * 1000:>8.1f} ms {median(times) / floor:>8.0f} floors")


if __name__ == "__main__":
    main()
