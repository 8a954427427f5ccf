"""What runs in the background. Any number of workers, on any machines, share it through the database.

Each kind of work takes one batch of one account in one transaction and answers how much it found. A worker goes round:
for each kind of work, one batch for each account where some is due, then round again until nothing is left. So an
account with a hundred thousand due enrolments gets its turn like every other, and makes nobody wait for more than one
batch of each. Then the worker waits for a notification (wake.py), for a second at most: what came due by the clock,
what a lost notification or a killed worker left behind, is found by looking.

A worker has four hands, each a thread with its own connection: one decides, one speaks with carriers, one asks other
systems (webhooks), one counts, so that a slow carrier holds up no decision, a slow system no message, and sums nobody.

Work of an account that fails rests for a while, twice as long each time; nobody else waits for it.
"""

import logging
import os
import random
import signal
import socket
import threading
import time
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from datetime import timedelta
from types import FrameType

import psycopg
from django.db import connection, connections
from django.utils import timezone

from bluffside.server import metrics, sql
from bluffside.server.appointments.busy import busy_batch
from bluffside.server.appointments.waiting import waiting_batch
from bluffside.server.diary.mailing import notice_batch
from bluffside.server.events.partitions import AHEAD, make_months
from bluffside.server.events.stream import dispatch_batch
from bluffside.server.hooks.sending import call_batch
from bluffside.server.messaging.delivery import deliver_batch
from bluffside.server.messaging.staff_mailing import staff_mail_batch
from bluffside.server.messaging.testing import copies_batch
from bluffside.server.outside.carrier import receipt_batch
from bluffside.server.people.imports import import_chunk
from bluffside.server.pipeline.stays import resting_batch
from bluffside.server.practice import clock
from bluffside.server.practice.keeping import keep_batch
from bluffside.server.practice.models import Account, WorkerSeen
from bluffside.server.practice.walls import within
from bluffside.server.results.counting import count_batch
from bluffside.server.scores.recounting import recount_batch
from bluffside.server.set_up.deleting import delete_batch
from bluffside.server.set_up.whole_export import export_batch
from bluffside.server.signing_in.sessions import forget_old
from bluffside.server.wake import CHANNEL, Work
from bluffside.server.workflows.aims import follow_batch
from bluffside.server.workflows.dated import expect_batch
from bluffside.server.workflows.engine import advance_batch
from bluffside.server.workflows.intakes import intake_batch
from bluffside.server.workflows.scoring import stand_batch

SWEEP = 1.0  # seconds between looks when no notification comes
SEEN = 5.0  # seconds between signs of life
LONGEST_REST = 300.0  # seconds
SLOW = 2.0  # seconds; a batch that takes longer is told of
MOST_ROUNDS = 10_000
log = logging.getLogger("bluffside.worker")


@dataclass(frozen=True, slots=True)
class Kind:
    """A kind of work. `batch` is done for an account, `outside` for what knows no accounts. `share`: of a worker's time it takes no more
    for one account: what it is about may be a little old."""

    name: Work
    batch: Callable[[Account], int] | None = None
    outside: Callable[[], int] | None = None
    share: float = 1.0


DECIDING = (
    Kind("import", import_chunk),
    Kind("dispatch", dispatch_batch),
    Kind("expect", expect_batch),
    Kind("intake", intake_batch),
    Kind("advance", advance_batch),
    Kind("waiting", waiting_batch),
    Kind("resting", resting_batch),
    Kind("recount", recount_batch),
    Kind("standing", stand_batch),
    Kind("keep", keep_batch),
    Kind("export", export_batch),
    Kind("delete", delete_batch),
)
SPEAKING = (
    Kind("deliver", deliver_batch),
    Kind("notices", notice_batch),
    Kind("copies", copies_batch),
    Kind("staff mail", outside=staff_mail_batch),
    Kind("receipts", outside=receipt_batch),
)
ASKING = (Kind("calls", call_batch), Kind("busy", busy_batch))
COUNTING = (Kind("aims", follow_batch), Kind("count", count_batch, share=0.2))
HANDS = {"deciding": DECIDING, "speaking": SPEAKING, "asking": ASKING, "counting": COUNTING}


def due_accounts(kind: Kind) -> list[Account]:
    """Where such work is due, in no order, so that workers do not crowd at one account. For an account that is being deleted
    nothing else is done any more."""
    query = "SELECT bluffside_due(%s, %s, %s)"
    ids = [row[0] for row in sql.rows(query, [kind.name, clock.now(), timezone.now()])]
    random.shuffle(ids)
    found = Account.objects.select_related("responsible").in_bulk(ids)
    return [found[id] for id in ids if id in found and (found[id].deleting_at is None or kind.name == "delete")]


def go_round(kinds: Iterable[Kind]) -> int:
    """One batch of each kind of work for each account where some is due; answers how much there was."""
    total = 0
    for kind in kinds:
        if kind.outside:
            total += _timed(kind, kind.outside)
        elif kind.batch:
            for account in due_accounts(kind):
                with within(account):
                    total += _timed(kind, kind.batch, account)
    return total


def _timed(kind: Kind, batch: Callable[..., int], *account: Account) -> int:
    began = time.perf_counter()
    found = batch(*account)
    spent = time.perf_counter() - began
    if found:
        metrics.batch_done(kind.name, found, spent)
    if spent > SLOW:
        about = {"work": kind.name, "account": account[0].slug if account else "", "rows": found}
        log.info("a batch took %.1f s", spent, extra=about)
    return found


def until_quiet(rounds: int = MOST_ROUNDS) -> int:
    """Does all work that is due, round after round, until a whole one finds nothing; answers how much there was.
    Raises what a batch raises: for tests, the demo and moving the clock."""
    total = 0
    for _ in range(rounds):
        found = go_round((*DECIDING, *SPEAKING, *ASKING, *COUNTING))
        total += found
        if not found:
            break
    return total


@dataclass(frozen=True, slots=True)
class Resting:
    """Work of an account that has failed so many times in a row, and until when (time.monotonic) it is left alone."""

    until: float
    times: int


def _work_of(kind: Kind, account: Account | None) -> tuple[str, int]:
    return kind.name, account.id if account else 0


class Worker:
    """Runs until it is told to stop; then finishes the batches at hand."""

    def __init__(self, only: str | None = None) -> None:
        self.hands = {name: kinds for name, kinds in HANDS.items() if only in (None, name)}
        self.name = f"{socket.gethostname()} {os.getpid()}"
        self.began = timezone.now()
        self.stopping = threading.Event()
        self.woken = {name: threading.Event() for name in self.hands}
        self.resting: dict[tuple[str, int], Resting] = {}

    def run(self) -> None:
        for number in (signal.SIGTERM, signal.SIGINT):
            signal.signal(number, self._stop)
        hands = [
            threading.Thread(target=self._work, args=(name, kinds), name=name) for name, kinds in self.hands.items()
        ]
        for hand in hands:
            hand.start()
        self._listen()
        for hand in hands:
            hand.join()
        WorkerSeen.objects.filter(name=self.name).delete()

    def _stop(self, number: int, frame: FrameType | None) -> None:
        self.stopping.set()
        for woken in self.woken.values():
            woken.set()

    def _work(self, name: str, kinds: tuple[Kind, ...]) -> None:
        while not self.stopping.is_set():
            woken = self.woken[name]
            woken.clear()
            if not self._round(kinds):
                woken.wait(SWEEP)
        connections.close_all()

    def _round(self, kinds: tuple[Kind, ...]) -> int:
        """A round in which one account's trouble is not another's."""
        total = 0
        for kind in kinds:
            if self.stopping.is_set():
                return 0
            try:
                accounts = due_accounts(kind) if kind.batch else [None]
            except Exception as error:  # noqa: BLE001  # told of, and tried again
                self._recover(kind, error)
                return 0
            for account in accounts:
                if self.stopping.is_set():
                    return 0
                if self._rests(kind, account):
                    continue
                try:
                    if account is None:
                        assert kind.outside
                        total += _timed(kind, kind.outside)
                    else:
                        assert kind.batch
                        began = time.monotonic()
                        with within(account):
                            found = _timed(kind, kind.batch, account)
                        total += found
                        self._let_rest(kind, account, time.monotonic() - began if found else 0)
                except Exception as error:  # noqa: BLE001  # told of, and tried again
                    self._recover(kind, error, account)
        return total

    def _let_rest(self, kind: Kind, account: Account, spent: float) -> None:
        """After what went well: until the work has its share of the time."""
        self.resting.pop(_work_of(kind, account), None)
        if rest := spent * (1 / kind.share - 1):
            self.resting[_work_of(kind, account)] = Resting(time.monotonic() + rest, 0)

    def _rests(self, kind: Kind, account: Account | None) -> bool:
        resting = self.resting.get(_work_of(kind, account))
        return resting is not None and time.monotonic() < resting.until

    def _recover(self, kind: Kind, error: Exception, account: Account | None = None) -> None:
        """A batch failed: nothing of it was kept, and it comes again. Where the database is away, wait for it; else let that
        work of that account rest."""
        metrics.batch_failed(kind.name)
        more = {"work": kind.name, "account": account.slug if account else ""}
        if isinstance(error, psycopg.OperationalError) or isinstance(error.__cause__, psycopg.OperationalError):
            log.warning("the database is away: %s", str(error).strip().split("\n")[0], extra=more)
            connection.close()
            self.stopping.wait(random.uniform(0.2, 0.8))  # noqa: S311  # so that workers do not come all at once
            return
        key = _work_of(kind, account)
        times = self.resting[key].times + 1 if key in self.resting else 1
        rest = min(LONGEST_REST, 2.0**times) * random.uniform(0.5, 1.0)  # noqa: S311  # jitter, not a secret
        self.resting[key] = Resting(time.monotonic() + rest, times)
        log.error("a batch failed; it rests for %.0f s", rest, exc_info=error, extra=more)

    def _listen(self) -> None:
        """Waits for notifications, and gives signs of life."""
        while not self.stopping.is_set():
            try:
                with psycopg.connect(**connection.get_connection_params(), autocommit=True) as line:
                    line.execute(f"LISTEN {CHANNEL}")
                    while not self.stopping.is_set():
                        self._seen()
                        until = time.monotonic() + SEEN
                        while (left := until - time.monotonic()) > 0 and not self.stopping.is_set():
                            for notice in line.notifies(timeout=min(left, 0.5), stop_after=1):
                                self._wake(notice.payload)
            except Exception as error:  # noqa: BLE001  # told of, and tried again
                log.warning("no notifications: %s", str(error).strip().split("\n")[0])
                connection.close()
                self.stopping.wait(0.5)
        connection.close()

    def _wake(self, work: str) -> None:
        for name, kinds in self.hands.items():
            if any(kind.name == work for kind in kinds):
                self.woken[name].set()

    def _seen(self) -> None:
        now = timezone.now()
        WorkerSeen.objects.update_or_create(name=self.name, defaults={"began_at": self.began, "seen_at": now})
        WorkerSeen.objects.filter(seen_at__lt=now - timedelta(hours=1)).delete()
        forget_old(now)
        make_months(clock.now(), clock.now() + AHEAD)
