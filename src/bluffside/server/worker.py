"""What runs in the background. Any number of workers, on any machines, share it through the database.

Each kind of work takes one batch in one transaction and answers how much it found; a job repeats that
until nothing is left. Jobs are wake-ups from transactions that made work due (see wake.py); a sweep every
few seconds finds what came due by the clock, and what a lost wake-up or a killed worker left behind.
"""

from collections.abc import Callable

from procrastinate.contrib.django import app

from bluffside.server.events.stream import dispatch_batch
from bluffside.server.messaging.delivery import deliver_batch
from bluffside.server.outside.carrier import receipt_batch
from bluffside.server.people.imports import import_chunk
from bluffside.server.wake import TASK, Work
from bluffside.server.workflows.engine import advance_batch

WORK: dict[Work, Callable[[], int]] = {
    "import": import_chunk,
    "dispatch": dispatch_batch,
    "advance": advance_batch,
    "deliver": deliver_batch,
    "receipts": receipt_batch,
}
SWEEP = "* * * * * */3"  # every three seconds; the sixth field is seconds
MOST_BATCHES = 200  # then other jobs get a turn; the sweep comes back


@app.task(name=TASK)
def work(work: Work) -> None:
    for _ in range(MOST_BATCHES):
        if not WORK[work]():
            return


@app.periodic(cron=SWEEP)
@app.task(name="bluffside.sweep", queueing_lock="bluffside.sweep")
def sweep(timestamp: int) -> None:
    until_quiet()


def until_quiet(rounds: int = MOST_BATCHES) -> int:
    """Does all work that is due, kind after kind, until a whole round finds nothing; answers how much there was."""
    total = 0
    for _ in range(rounds):
        found = sum(batch() for batch in WORK.values())
        total += found
        if not found:
            break
    return total
