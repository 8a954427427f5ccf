"""Moving the clock of a demo or a test: all that falls due on the way is run, in order."""

from collections.abc import Callable
from datetime import datetime

from django.db.models import Min

from bluffside.server import sql
from bluffside.server.events.partitions import AHEAD, make_months
from bluffside.server.outside.models import Item
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account
from bluffside.server.worker import until_quiet


def next_due(receipts: bool = True, account: Account | None = None) -> datetime | None:
    """The next instant at which something is due by the clock, of one account or of all. A carrier's receipts,
    which know no account, may be left to come along with the rest."""
    found = [sql.rows("SELECT bluffside_next_due(%s)", [account.id if account else 0])[0][0]]
    if receipts:
        found.append(Item.objects.filter(reported=False).aggregate(first=Min("report_at"))["first"])
    return min((one for one in found if one), default=None)


def run_through(until: datetime, set_clock: Callable[[datetime], None], receipts: bool = True) -> int:
    """Runs all that is due up to an instant, in order, setting the clock to each moment; answers how many moments."""
    moments = 0
    make_months(clock.now(), min(until, clock.now() + 30 * AHEAD))
    until_quiet()
    while (due := next_due(receipts)) and due <= until:
        set_clock(max(due, clock.now()))
        until_quiet()
        moments += 1
    set_clock(until)
    if receipts:
        until_quiet()
    return moments
