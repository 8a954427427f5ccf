"""./bluffside soak: kill workers at random moments, pull the database down, have the carrier answer late, twice or never,
and at the end count every message by the carrier's own log.

A database cluster of its own is made for it, so that nothing else suffers. Three workers run; one after another is
killed with SIGKILL and another takes its place; the database is stopped with `-m immediate`, which is as a power cut
to it. Meanwhile people come in, are tagged, answer. When the time is over, what is left is let run to its end.

    each message once    (number or mailbox, words) held once by the carrier, none missing, none too many
    nothing stuck        every enrolment at its end, nothing in the outbox, no event waiting, nothing set aside
    each thing once      one tag, one task, one reason a step for each enrolment
"""

import argparse
import os
import random
import shutil
import signal
import subprocess
import sys
import tempfile
import time
from collections import Counter
from collections.abc import Callable
from pathlib import Path
from typing import Any

from launcher.database import Cluster, app_url

ROOT = Path(__file__).resolve().parents[1]
STEPS: list[dict[str, Any]] = [
    {"kind": "text", "id": "one", "message": {"name": "One", "body": "First, {{ contact.first_name }}. Coming?"}},
    {"kind": "tag", "id": "mark", "tag": "seen"},
    {"kind": "call", "id": "ring", "about": "it"},
    {"kind": "wait_for_reply", "id": "answer", "limit": "20 seconds", "lanes": [
        {"id": "yes", "answer": "yes", "words": ["yes"], "steps": [{"kind": "tag", "id": "keen", "tag": "keen"}]},
        {"id": "none", "answer": "none", "steps": []},
    ]},
    {"kind": "email", "id": "two", "message": {"name": "Two", "subject": "S", "body": "Second: https://example.com/a"}},
    {"kind": "wait", "id": "moment", "duration": "3 seconds"},
    {"kind": "text", "id": "three", "message": {"name": "Three", "body": "Third"}},
]  # fmt: skip
ONCE = ("mark", "ring", "one", "two", "three")
TEMPER = {"away": 0.05, "broken": 0.1, "doubled": 0.2, "silent": 0.1, "backward": True, "slow": 30}


class Trouble:
    """The cluster and the workers, and the one who makes trouble for them."""

    def __init__(self, cluster: Cluster, env: dict[str, str], chance: random.Random) -> None:
        self.cluster, self.env, self.chance = cluster, env, chance
        self.workers: list[subprocess.Popen[bytes]] = []
        self.kills = self.restarts = 0

    def start_worker(self) -> None:
        command = [sys.executable, "-m", "django", "work"]
        with open(os.devnull, "wb") as nowhere:
            self.workers.append(subprocess.Popen(command, env=self.env, stderr=nowhere))

    def kill_one(self) -> None:
        one = self.workers.pop(self.chance.randrange(len(self.workers)))
        one.send_signal(signal.SIGKILL)
        one.wait()
        self.kills += 1
        self.start_worker()

    def pull_the_plug(self) -> None:
        self.cluster.stop("immediate")
        time.sleep(self.chance.uniform(0.2, 1.5))
        self.cluster.start()
        self.restarts += 1

    def end(self) -> None:
        for one in self.workers:
            one.kill()
            one.wait()


def insist(what: Callable[[], Any]) -> Any:
    """Does it, again and again while the database is away. What it does is known to be done once or not at all."""
    from django.db import InterfaceError, OperationalError, connection

    while True:
        try:
            return what()
        except (OperationalError, InterfaceError):
            connection.close()
            time.sleep(0.2)


def run(seconds: float, kills: int, restarts: int, people: int, seed: int) -> int:
    """Answers how many faults were found."""
    folder = Path(tempfile.mkdtemp(prefix="bluffside-soak-"))
    folder.chmod(0o755)
    cluster = Cluster(folder / "pg", port=0)
    cluster.make()
    cluster.start()
    try:
        return _run(cluster, seconds, kills, restarts, people, random.Random(seed))
    finally:
        cluster.stop("immediate")
        shutil.rmtree(folder, ignore_errors=True)


def _run(cluster: Cluster, seconds: float, kills: int, restarts: int, people: int, chance: random.Random) -> int:
    os.environ["DATABASE_URL"] = cluster.url("soak")
    os.environ["BLUFFSIDE_LEASE"] = "10"
    from launcher.create_database import create

    create()
    import django
    from django.core.management import call_command

    django.setup()
    call_command("migrate", verbosity=0)
    from tests.server.conftest import make_house

    from bench.ground import make_people
    from bluffside.server.outside.models import Temper

    house = make_house()
    places = dict.fromkeys((house.sailing, house.pottery), people // 2)
    waves: list[tuple[Any, list[int]]] = []
    for number, (account, count) in enumerate(places.items()):
        make_people(account.id, count, first=number * 1_000_000)
        house.workflow(account, steps=STEPS, leaves_on=[])
        ids = list(account.contacts.exclude(mobile__endswith="99").values_list("id", flat=True))
        waves += [(account, ids[at : at + 50]) for at in range(0, len(ids), 50)]
    expected = sum(len(ids) for _, ids in waves)
    chance.shuffle(waves)
    Temper.objects.create(**TEMPER)

    env = os.environ | {"DATABASE_URL": app_url(cluster.url("soak")), "PYTHONPATH": str(ROOT / "src")}
    trouble = Trouble(cluster, env, chance)
    try:
        for _ in range(3):
            trouble.start_worker()
        answered = _make_trouble(trouble, waves, seconds, kills, restarts)
        insist(lambda: Temper.objects.update(away=0, broken=0, slow=0))
        settled = _let_run(expected)
        return _report(trouble, expected, answered, settled)
    finally:
        trouble.end()


def _make_trouble(
    trouble: Trouble, waves: list[tuple[Any, list[int]]], seconds: float, kills: int, restarts: int
) -> int:
    """People come in, answer; workers die; the database goes. Answers how many answered."""
    chance, answered = trouble.chance, set[int]()
    plan = [(chance.uniform(0.05, 1) * seconds, trouble.kill_one) for _ in range(kills)]
    plan += [((number + 1) / (restarts + 1) * seconds, trouble.pull_the_plug) for number in range(restarts)]
    plan += [(number / len(waves) * 0.85 * seconds, lambda wave=wave: insist(lambda: _come(*wave)))
             for number, wave in enumerate(waves)]  # fmt: skip
    plan += [(number * seconds / 60, lambda: _answer(chance, answered)) for number in range(60)]
    began = time.monotonic()
    for at, what in sorted(plan, key=lambda one: one[0]):
        time.sleep(max(0.0, began + at - time.monotonic()))
        what()
    return len(answered)


def _come(account: Any, ids: list[int]) -> None:
    """Tagged, which starts the workflow; whom the database has as tagged already is not tagged again."""
    from bluffside.server.events.stream import Cause
    from bluffside.server.people.services import add_tags

    add_tags(account, [(id, "taster", Cause()) for id in ids])


def _answer(chance: random.Random, answered: set[int]) -> None:
    """Some who have their first text answer it."""
    from bluffside.server.people.models import Contact
    from bluffside.server.workflows.models import Enrolment

    def some() -> None:
        from bluffside.server.outside.services import say

        here = list(Enrolment.objects.filter(place="answer").values_list("contact_id", flat=True)[:400])
        for contact in Contact.objects.filter(id__in=chance.sample(here, min(3, len(here)))).select_related("account"):
            say(contact, "text", "yes")
            answered.add(contact.id)

    insist(some)


def _let_run(expected: int) -> bool:
    """Until nothing is left to do; False when that does not come within four minutes."""
    from bluffside.server.messaging.models import Message
    from bluffside.server.workflows.models import Enrolment

    until = time.monotonic() + 240
    while time.monotonic() < until:
        ended = Enrolment.objects.exclude(ended="").count()
        left = Message.objects.filter(state__in=["queued", "sending"]).count()
        if ended == expected and not left:
            return True
        time.sleep(0.5)
    return False


def _report(trouble: Trouble, expected: int, answered: int, settled: bool) -> int:
    from bluffside.server import sql
    from bluffside.server.diary.models import Task
    from bluffside.server.events.models import Event, Pending
    from bluffside.server.messaging.models import Message
    from bluffside.server.outside.models import Item
    from bluffside.server.workflows.models import Enrolment

    sent = Item.objects.filter(inbound=False)
    held = Counter(sent.values_list("theirs", "text"))
    again = sum(sent.values_list("times_handed_over", flat=True)) - sent.count()
    steps = Counter(dict(sql.rows("SELECT step, count(*) FROM workflows_turn, unnest(steps) AS step GROUP BY step")))
    faults = {
        "messages missing": 3 * expected - len(held),
        "messages twice": sum(count - 1 for count in held.values()),
        "messages given up": Message.objects.filter(state__in=["failed", "uncertain", "cancelled"]).count(),
        "messages not gone": Message.objects.filter(state__in=["queued", "sending"]).count(),
        "enrolments missing": expected - Enrolment.objects.count(),
        "enrolments not at their end": Enrolment.objects.filter(ended="").count(),
        "set aside": Enrolment.objects.exclude(fault="").count() + Pending.objects.exclude(fault="").count(),
        "events not handed on": Pending.objects.count(),
        "tasks missing or twice": abs(expected - Task.objects.count()),
        "tags told of missing or twice": abs(
            expected - Event.objects.filter(kind="tag.added", data__tag="seen").count()
        ),
        "steps not taken once": sum(abs(expected - steps[step]) for step in ONCE),
        "did not settle": int(not settled),
    }
    print(
        f"{expected:,} people, {answered} answered; {trouble.kills} workers killed, database pulled down {trouble.restarts} times"
    )
    print(
        f"{sent.count():,} messages held by the carrier; {again} were handed over again with the same key, and kept once"
    )
    for words, count in faults.items():
        print(f"  {words:<34} {count}")
    return sum(abs(count) for count in faults.values())


def main() -> int:
    parser = argparse.ArgumentParser(prog="bluffside soak")
    parser.add_argument("--seconds", type=float, default=300)
    parser.add_argument("--kills", type=int, default=60)
    parser.add_argument("--restarts", type=int, default=2)
    parser.add_argument("--people", type=int, default=4_000)
    parser.add_argument("--seed", type=int, default=random.SystemRandom().randrange(10**6))
    options = parser.parse_args()
    print(f"seed {options.seed}", flush=True)
    faults = run(options.seconds, options.kills, options.restarts, options.people, options.seed)
    print("Everything once, nothing lost." if not faults else f"{faults} faults.")
    return 1 if faults else 0


if __name__ == "__main__":
    sys.exit(main())
