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
    """The next instant after now at which something is due by the clock, of one account or of all: what is due now is
    done, or waits for something else. A carrier's receipts, which know no account, may be left to come along with the
    rest."""
    now = clock.now()
    found = [sql.rows("SELECT bluffside_next_due(%s, %s)", [account.id if account else 0, now])[0][0]]
    if receipts:
        coming = Item.objects.filter(reported=False, report_at__gt=now)
        found.append(coming.aggregate(first=Min("report_at"))["first"])
    return min((one for one in found if one), default=None)


def run_through(until: datetime, set_clock: Callable[[datetime], None], receipts: bool = True) -> int:
    """Runs all that is due up to an instant, in order, setting the clock to each moment; answers how many moments."""
    moments = 0
    make_months(clock.now(), min(until, clock.now() + 30 * AHEAD))
    until_quiet()
    while (due := next_due(receipts)) and due <= until:
        set_clock(due)
        until_quiet()
        moments += 1
    set_clock(until)
    if receipts:
        until_quiet()
    return moments
