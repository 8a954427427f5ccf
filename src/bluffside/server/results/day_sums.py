"""What the rows of some days come to, as sums are kept. A statement a sort: a day of a large account is ten thousand messages, each looked
up with what came of it, which as objects would take a hundred times as long (bench/results.py).
"""

from collections.abc import Sequence
from datetime import date, datetime, time, timedelta
from typing import NamedTuple

from bluffside.core.engine.state import FINISHED
from bluffside.core.timing.local import at_time
from bluffside.server import sql
from bluffside.server.practice.models import Account

RIPE = timedelta(days=30)  # so long after a message what its reader does still counts as coming of it
KINDS_OF_BOOKING = "appointment.booked"
# Sums outlive those they are of, and whoever may look sees them: of a reason, addresses, numbers and what somebody typed are left out; of
# how a person became known, what they wrote.
NOBODYS_REASON = "left(regexp_replace(m.reason, '[^[:space:]]+@[^[:space:]]+|[+]?[0-9][0-9 ()-]{6,}', '…', 'g'), 120)"
NOBODYS_LEAVING = """CASE WHEN EXISTS (SELECT FROM events_event x WHERE x.contact_id = e.contact_id AND x.enrolment_id = e.id
                      AND x.kind = 'enrolment.taken_out') THEN 'taken out by hand' ELSE left(ended, 120) END"""
NOBODYS_SOURCE = "left(regexp_replace(a.data->>'how', '^(by texting|by writing).*$', '\\1'), 80)"


class Days(NamedTuple):
    """From the first instant of the first to the first after the last, in the account's zone."""

    days: Sequence[date]
    begin: datetime
    end: datetime

    @classmethod
    def of(cls, days: Sequence[date], zone: str) -> "Days":
        first, last = min(days), max(days)
        return cls(days, at_time(first, time(0), zone), at_time(last + timedelta(days=1), time(0), zone))


def write_messages(account: Account, days: Days) -> None:
    # Many messages, each with a look into its links, its answers, and what its contact did until the next of the series.
    sql.execute(
        """
        WITH sent AS (
            SELECT m.*, coalesce(m.sent_at, m.settled_at) AS went
              FROM messaging_message m
             WHERE m.account_id = %(account)s AND m.sent_at >= %(begin)s AND m.sent_at < %(end)s
            UNION ALL
            SELECT m.*, m.settled_at FROM messaging_message m
             WHERE m.account_id = %(account)s AND m.state = 'failed' AND m.sent_at IS NULL
               AND m.settled_at >= %(begin)s AND m.settled_at < %(end)s
        ), m AS (
            SELECT s.*, (s.went AT TIME ZONE %(zone)s)::date AS day, coalesce(e.workflow_id, 0) AS workflow_id,
                   s.state IN ('sent', 'delivered') AS arrived,
                   least(s.went + %(ripe)s, (
                       SELECT min(n.sent_at) FROM messaging_message n
                        WHERE n.contact_id = s.contact_id AND n.sent_at > s.went
                          AND n.enrolment_id IS NOT DISTINCT FROM s.enrolment_id)) AS until
              FROM sent s LEFT JOIN workflows_enrolment e ON e.id = s.enrolment_id
        ), told AS (
            SELECT m.*,
                   EXISTS (SELECT FROM messaging_link l WHERE l.message_id = m.id) AS linked,
                   EXISTS (SELECT FROM messaging_link l WHERE l.message_id = m.id AND l.clicks > 0) AS clicked,
                   EXISTS (SELECT FROM messaging_reply r WHERE r.message_id = m.id AND NOT r.automatic) AS replied,
                   EXISTS (SELECT FROM events_event b WHERE b.contact_id = m.contact_id AND b.account_id = %(account)s
                              AND b.kind = %(booked)s AND b.at > m.went AND b.at <= m.until) AS booked,
                   EXISTS (SELECT FROM events_event o WHERE o.contact_id = m.contact_id AND o.account_id = %(account)s
                              AND o.kind = 'consent.withdrawn' AND o.data->>'channel' = m.channel
                              AND o.at > m.went AND o.at <= m.until) AS out,
                   r.count AS reached, r.worth
              FROM m CROSS JOIN LATERAL (
                   SELECT count(*) AS count, coalesce(sum(e.reached_worth), 0) AS worth
                     FROM workflows_enrolment e WHERE e.reached_message_id = m.id) AS r
             WHERE m.day = ANY(%(days)s)
        )
        INSERT INTO results_messagesum (account_id, day, workflow_id, step, message, wording, channel, sender, tried, delivered,
               failed, why, with_link, clicked, replied, booked, reached, worth, opted_out, complained)
        SELECT %(account)s, day, workflow_id, step, name, wording, channel, sender, count(*), count(*) FILTER (WHERE arrived),
               count(*) FILTER (WHERE state = 'failed'), '{}', count(*) FILTER (WHERE linked AND arrived),
               count(*) FILTER (WHERE clicked AND arrived), count(*) FILTER (WHERE replied AND arrived),
               count(*) FILTER (WHERE booked AND arrived), sum(reached), sum(worth),
               count(*) FILTER (WHERE out AND arrived), count(*) FILTER (WHERE complained_at IS NOT NULL)
          FROM told GROUP BY day, workflow_id, step, name, wording, channel, sender
        """,
        {
            "account": account.pk, "begin": days.begin, "end": days.end, "zone": account.zone, "ripe": RIPE,
            "booked": KINDS_OF_BOOKING, "days": list(days.days),
        },
    )  # fmt: skip
    sql.execute(
        f"""
        UPDATE results_messagesum AS s SET why = w.why FROM (
            SELECT day, workflow_id, step, name, wording, channel, sender, jsonb_object_agg(reason, n) AS why FROM (
                SELECT (coalesce(m.sent_at, m.settled_at) AT TIME ZONE %(zone)s)::date AS day, coalesce(e.workflow_id, 0) AS workflow_id,
                       m.step, m.name, m.wording, m.channel, m.sender, {NOBODYS_REASON} AS reason, count(*) AS n
                  FROM messaging_message m LEFT JOIN workflows_enrolment e ON e.id = m.enrolment_id
                 WHERE m.account_id = %(account)s AND m.state = 'failed'
                   AND (m.sent_at >= %(begin)s AND m.sent_at < %(end)s
                        OR m.sent_at IS NULL AND m.settled_at >= %(begin)s AND m.settled_at < %(end)s)
                 GROUP BY 1, 2, 3, 4, 5, 6, 7, 8) AS r
             GROUP BY 1, 2, 3, 4, 5, 6, 7) AS w
         WHERE s.account_id = %(account)s AND s.day = w.day AND s.day = ANY(%(days)s) AND s.workflow_id = w.workflow_id
           AND s.step = w.step AND s.message = w.name AND s.wording = w.wording AND s.channel = w.channel AND s.sender = w.sender
        """,  # noqa: S608  # no words but ours
        {"account": account.pk, "begin": days.begin, "end": days.end, "zone": account.zone, "days": list(days.days)},
    )


def write_joined(account: Account, days: Days) -> None:
    known = {"account": account.pk, "begin": days.begin, "end": days.end, "zone": account.zone, "days": list(days.days)}
    # With how each had become known: one look into the stream a person.
    sql.execute(
        f"""
        WITH came AS (
            SELECT e.*, (e.joined_at AT TIME ZONE %(zone)s)::date AS day,
                   coalesce((SELECT {NOBODYS_SOURCE} FROM events_event a WHERE a.contact_id = e.contact_id
                           AND a.account_id = %(account)s AND a.kind = 'contact.added' LIMIT 1), '') AS source,
                   CASE WHEN NOT e.held_back THEN (e.reached_at AT TIME ZONE %(zone)s)::date - (e.joined_at AT TIME ZONE %(zone)s)::date
                        END AS after
              FROM workflows_enrolment e
             WHERE e.account_id = %(account)s AND e.joined_at >= %(begin)s AND e.joined_at < %(end)s
        ), days AS (
            SELECT day, workflow_id, source, jsonb_object_agg(after, n) AS days FROM (
                SELECT day, workflow_id, source, after, count(*) AS n FROM came WHERE after IS NOT NULL GROUP BY 1, 2, 3, 4) AS d
             GROUP BY 1, 2, 3
        )
        INSERT INTO results_joinedsum (account_id, day, workflow_id, source, joined, reached, worth, held, held_reached, held_worth,
                                       "left", days)
        SELECT %(account)s, c.day, c.workflow_id, c.source, count(*) FILTER (WHERE NOT c.held_back),
               count(c.reached_at) FILTER (WHERE NOT c.held_back), coalesce(sum(c.reached_worth) FILTER (WHERE NOT c.held_back), 0),
               count(*) FILTER (WHERE c.held_back), count(c.reached_at) FILTER (WHERE c.held_back),
               coalesce(sum(c.reached_worth) FILTER (WHERE c.held_back), 0),
               count(*) FILTER (WHERE NOT c.held_back AND c.ended_at IS NOT NULL AND c.ended <> %(finished)s),
               coalesce((SELECT d.days FROM days d WHERE d.day = c.day AND d.workflow_id = c.workflow_id AND d.source = c.source), '{{}}')
          FROM came c WHERE c.day = ANY(%(days)s) GROUP BY c.day, c.workflow_id, c.source
        """,  # noqa: S608  # no words but ours
        known | {"finished": FINISHED},
    )  # fmt: skip
    sql.execute(
        f"""
        WITH e AS (
            SELECT e.id, e.contact_id, e.workflow_id, e.ended, e.ended_at, (e.joined_at AT TIME ZONE %(zone)s)::date AS day, t.at, t.id AS turn, t.steps
              FROM workflows_enrolment e JOIN workflows_turn t ON t.enrolment_id = e.id AND t.at >= e.joined_at
             WHERE e.account_id = %(account)s AND e.joined_at >= %(begin)s AND e.joined_at < %(end)s AND NOT e.held_back
               AND cardinality(t.steps) > 0
        ), came AS (
            SELECT e.day, e.workflow_id, s.step, count(DISTINCT e.id) AS came
              FROM e CROSS JOIN LATERAL unnest(e.steps) AS s (step) WHERE s.step <> '' GROUP BY 1, 2, 3
        ), gone AS (
            SELECT DISTINCT ON (id) day, workflow_id, steps[cardinality(steps)] AS step, {NOBODYS_LEAVING} AS ended FROM e
             WHERE ended_at IS NOT NULL AND ended <> %(finished)s ORDER BY id, at DESC, turn DESC
        ), why AS (
            SELECT day, workflow_id, step, sum(n) AS n, jsonb_object_agg(ended, n) AS why FROM (
                SELECT day, workflow_id, step, ended, count(*) AS n FROM gone GROUP BY 1, 2, 3, 4) AS g
             GROUP BY 1, 2, 3
        )
        INSERT INTO results_linesum (account_id, day, workflow_id, step, came, "left", why)
        SELECT %(account)s, c.day, c.workflow_id, c.step, c.came, coalesce(w.n, 0), coalesce(w.why, '{{}}')
          FROM came c LEFT JOIN why w USING (day, workflow_id, step) WHERE c.day = ANY(%(days)s)
        """,  # noqa: S608  # no words but ours
        known | {"finished": FINISHED},
    )


def write_tasks(account: Account, days: Days) -> None:
    sql.execute(
        """
        INSERT INTO results_tasksum (account_id, day, workflow_id, step, member, kind, made, done, reached, dropped, hours)
        SELECT %(account)s, d.day, coalesce(e.workflow_id, 0), t.step, coalesce(p.name, ''), t.kind, count(*),
               count(t.done_at) FILTER (WHERE t.outcome NOT IN ('dropped', '')), count(*) FILTER (WHERE t.outcome = 'reached'),
               count(*) FILTER (WHERE t.outcome = 'dropped'),
               coalesce(sum(extract(epoch FROM greatest(t.done_at - t.due_at, interval '0')) / 3600)
                        FILTER (WHERE t.outcome NOT IN ('dropped', '')), 0)
          FROM diary_task t
          CROSS JOIN LATERAL (SELECT (t.made_at AT TIME ZONE %(zone)s)::date AS day) AS d
          LEFT JOIN workflows_enrolment e ON e.id = t.enrolment_id
          LEFT JOIN practice_person p ON p.id = t.assigned_id
         WHERE t.account_id = %(account)s AND t.made_at >= %(begin)s AND t.made_at < %(end)s AND d.day = ANY(%(days)s)
         GROUP BY d.day, coalesce(e.workflow_id, 0), t.step, coalesce(p.name, ''), t.kind
        """,
        {"account": account.pk, "begin": days.begin, "end": days.end, "zone": account.zone, "days": list(days.days)},
    )
