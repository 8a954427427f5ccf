"""./bluffside bench results: the pages of Results over a year of one account: 20,000,000 events, 2,000,000 messages in 20 workflows.

Server time of each page, the median of several runs in turn, beside a floor: one row read by its key. Asked for: below 300 ms. And what it
takes to count one day anew, beside the rows of that day read once.

BENCH_SCALE=0.1 makes a tenth; BENCH_REUSE=1 takes what was made before
"""

import os
from collections.abc import Callable
from datetime import timedelta
from statistics import median

from bench.ground import fresh_database, make_people, timed

SCALE = float(os.environ.get("BENCH_SCALE", "1"))
PEOPLE, MESSAGES, EVENTS = int(100_000 * SCALE), int(2_000_000 * SCALE), int(20_000_000 * SCALE)
ENROLMENTS, WORKFLOWS, DAYS, RUNS = MESSAGES // 5, 20, 364, 5
LINE = [{"kind": "text", "id": f"t{n}", "message": {"name": f"Text {n}", "body": "Hello"}} for n in range(5)]
AIM = {"happens": [{"kind": "appointment", "what": "booked"}], "within": "30 days"}


def fill() -> None:
    from django.utils import timezone
    from tests.server.conftest import make_house

    from bluffside.server import sql
    from bluffside.server.events.partitions import make_months
    from bluffside.server.practice import walls
    from bluffside.server.workflows.models import Workflow

    house = make_house()
    walls.enter(house.sailing)
    account = house.sailing.id
    for number in range(WORKFLOWS):
        house.workflow(name=f"Follow-up {number}", steps=LINE, leaves_on=[], starts=[{"kind": "by_hand"}], aim=AIM)
    Workflow.objects.update(aim_of=None)
    first = Workflow.objects.order_by("id").values_list("id", "published_id")[0]
    make_months(timezone.now() - timedelta(days=DAYS + 1), timezone.now())
    sql.execute("SET session_replication_role = replica")  # the keys are right by the way the rows are made
    sql.execute("SET synchronous_commit = off")
    make_people(account, PEOPLE)
    who = f"(SELECT min(id) FROM people_contact) + n %% {PEOPLE}"
    when = f"now() - (n::float8 / %s) * interval '{DAYS} days'"
    sql.execute(
        "INSERT INTO workflows_enrolment (id, account_id, workflow_id, version_id, contact_id, why, joined_at, begun, ended, ended_at, reached_at,"
        " reached_worth, reached_message_id)"
        f" SELECT n, %s, %s + n %% {WORKFLOWS}, %s + n %% {WORKFLOWS}, {who}, '', at, true, 'came to the end', at + interval '5 days',"
        " CASE WHEN n %% 4 = 0 THEN at + interval '3 days' END, CASE WHEN n %% 4 = 0 THEN 100 END, CASE WHEN n %% 4 = 0 THEN n * 5 END"
        f" FROM (SELECT n, {when} AS at FROM generate_series(1, {ENROLMENTS}) n) x",
        [account, *first, ENROLMENTS],
    )
    sql.execute(
        "INSERT INTO workflows_turn (account_id, enrolment_id, at, steps, reasons)"
        " SELECT account_id, id, joined_at, '{t0,t1,t2,t3,t4}', '[]' FROM workflows_enrolment"
    )
    sql.execute(
        "INSERT INTO messaging_message (id, account_id, contact_id, key, channel, purpose, sender, address, name, subject, body, enrolment_id,"
        " step, state, reason, next_try_at, queued_at, sent_at)"
        f" SELECT n, %s, (SELECT min(id) FROM people_contact) + (n / 5) %% {PEOPLE}, 'm' || n, 'text', 'marketing', '', '', 'Text ' || n %% 5, '',"
        " 'Hello', n / 5, 't' || n %% 5, CASE WHEN n %% 50 = 0 THEN 'failed' ELSE 'delivered' END, CASE WHEN n %% 50 = 0 THEN 'wrong number' ELSE '' END,"
        f" at, at, at FROM (SELECT n, {when} AS at FROM generate_series(1, {MESSAGES}) n) x",
        [account, MESSAGES],
    )
    kinds = "(ARRAY['message.sent','message.delivered','link.clicked','reply.received','appointment.booked','contact.added'])[1 + n %% 6]"
    sql.execute(
        f"INSERT INTO events_event (account_id, kind, contact_id, at, data, depth) SELECT %s, {kinds}, {who}, {when},"
        f' \'{{"how": "by hand"}}\', 0 FROM generate_series(1, {EVENTS}) n',
        [account, EVENTS],
    )
    sql.execute("VACUUM ANALYZE")


def count() -> None:
    """All days, by the worker's own batches."""
    from bluffside.server.practice import walls
    from bluffside.server.practice.models import Account
    from bluffside.server.results.counting import count_batch

    account = Account.objects.select_related("practice").get(slug="sailing")
    walls.enter(account)
    while count_batch(account):
        pass


def main() -> None:
    url = fresh_database(reuse=bool(os.environ.get("BENCH_REUSE")))
    if not os.environ.get("BENCH_REUSE"):
        fill()
        print(f"  every day counted for the first time in {timed(count):.0f} s")
    from django.db import connection
    from django.test import Client
    from launcher.database import app_url
    from tests.server.conftest import connect_to

    from bluffside.server.messaging.models import Message
    from bluffside.server.people.models import Contact
    from bluffside.server.practice import walls
    from bluffside.server.practice.models import Account, Person
    from bluffside.server.results.counting import count_days
    from bluffside.server.results.periods import today
    from bluffside.server.workflows.models import Workflow

    connect_to(app_url(url))  # behind the walls, as the application is
    account = Account.objects.select_related("practice").get(slug="sailing")
    walls.enter(account)
    client = Client(headers={"host": "localhost"})
    client.force_login(Person.objects.get(email="imogen@example.com"), "bluffside.server.signing_in.adapters.Backend")
    now = today(account)
    year = f"since={now - timedelta(days=DAYS - 1)}&until={now}"
    contact, workflow, some_day = Contact.objects.first(), Workflow.objects.first(), now - timedelta(days=40)
    assert contact and workflow

    def reads(path: str) -> Callable[[], object]:
        def read() -> None:
            answer = client.get(f"/api/accounts/{account.slug}/{path}")
            assert answer.status_code == 200, answer.content

        return read

    ways: dict[str, Callable[[], object]] = {
        "floor: one row by its key": lambda: Contact.objects.get(pk=contact.pk),
        "all workflows, a year": reads(f"results?{year}"),
        "one workflow, a year": reads(f"results/workflows/{workflow.pk}?{year}"),
        "messages, a year": reads(f"results/messages?{year}"),
        "by week, a year": reads(f"results/messages?{year}&by=week"),
        "where people came from, a year": reads(f"results/sources?{year}"),
        "floor: the messages of a day read": lambda: list(
            Message.objects.filter(sent_at__date=some_day).values_list("id", "state")
        ),
        "that day counted anew": lambda: count_days(account, [some_day]),
    }
    taken: dict[str, list[float]] = {name: [] for name in ways}
    for _ in range(RUNS):
        for name, way in ways.items():
            taken[name].append(timed(way))
    connection.close()
    print(
        f"\nResults: {EVENTS:,} events, {MESSAGES:,} messages, {ENROLMENTS:,} who came in, {WORKFLOWS} workflows, {DAYS} days"
    )
    floor = median(taken["floor: one row by its key"])
    for name, times in taken.items():
        print(f"  {name:<34}{median(times) * 1000:>8.1f} ms {median(times) / floor:>8.0f} floors")


if __name__ == "__main__":
    main()
