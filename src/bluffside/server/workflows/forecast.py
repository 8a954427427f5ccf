"""What will go out by itself in the days ahead: as things stand, if nobody answers and nothing else happens.

People who stand at the same line of the same version until the same hour are played once, as one of them, and
counted: so a thousand people in one series cost one rehearsal. Where something decides by who they are, the
others of such a group may differ; the figures are a forecast, and say so.
"""

from collections import Counter, defaultdict
from dataclasses import dataclass
from datetime import date, datetime

from bluffside.core.engine.effects import MakeTask, SendMessage
from bluffside.core.messages.merge import BadTemplate
from bluffside.core.rehearsal.ahead import ahead
from bluffside.core.timing.local import to_local
from bluffside.server import sql
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account
from bluffside.server.workflows.facts import load_facts
from bluffside.server.workflows.models import Enrolment
from bluffside.server.workflows.versions import program_of

MOST_GROUPS = 600  # played; beyond that the smallest are left out, and told of


@dataclass(frozen=True, slots=True)
class Outlook:
    """So many messages of a name by a channel, or tasks (channel empty), from one workflow on a local day; `first` is
    the earliest of them."""

    day: date
    workflow_id: int
    channel: str
    name: str
    count: int
    first: datetime


@dataclass(frozen=True, slots=True)
class Forecast:
    """`left_out`: how many people were not looked at, since there are too many different places."""

    rows: list[Outlook]
    left_out: int


GROUPS = """
SELECT workflow_id, version_id, min(id), count(*)
  FROM workflows_enrolment
 WHERE account_id = %s AND ended_at IS NULL AND fault = '' AND paused_at IS NULL
   AND (until IS NULL OR until <= %s) {narrow}
 GROUP BY workflow_id, version_id, place, date_trunc('hour', until)
 ORDER BY count(*) DESC
"""


def forecast(account: Account, until: datetime, workflow: int | None = None) -> Forecast:
    """By local day of the account, in order of time; of one workflow, or of all."""
    now = clock.now()
    narrow, more = ("AND workflow_id = %s", [workflow]) if workflow else ("", [])
    groups = sql.rows(GROUPS.format(narrow=narrow), [account.id, until, *more])
    played = groups[:MOST_GROUPS]
    rows = Enrolment.objects.filter(id__in=[group[2] for group in played]).in_bulk()
    needs = frozenset().union(*(program_of(group[1]).needs for group in played)) if played else frozenset()
    facts = load_facts(account, [row.contact_id for row in rows.values()], needs, now)
    counts, first = Counter[tuple[date, int, str, str]](), defaultdict[tuple[date, int, str, str], list[datetime]](list)
    for workflow_id, version_id, id, count in played:
        row = rows.get(id)
        if row is None or row.contact_id not in facts:
            continue
        try:
            for at, effect in ahead(program_of(version_id), row.state, facts[row.contact_id], now, until):
                if isinstance(effect, SendMessage | MakeTask):
                    says = (effect.channel, effect.name) if isinstance(effect, SendMessage) else ("", effect.title)
                    key = (to_local(at, account.zone).date(), workflow_id, *says)
                    counts[key] += count
                    first[key].append(at)
        except BadTemplate:  # the engine will set it aside and say so
            continue
    found = [Outlook(*key, count, min(first[key])) for key, count in counts.items()]
    left_out = sum(group[3] for group in groups[MOST_GROUPS:])
    return Forecast(sorted(found, key=lambda one: (one.first, one.name)), left_out)
