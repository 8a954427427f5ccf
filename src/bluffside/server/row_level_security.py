"""Raising the walls between accounts in the database: row-level security, and the role that cannot pass it.

Run by the owner of the database after every migration (commands/apps.py), over every table that carries an account,
so that none is forgotten. The application connects as APP_ROLE, which owns nothing and bypasses nothing: it sees the
rows of the accounts it has entered (practice/walls.py) and no others. What it must know across accounts it asks
functions that belong to the owner and give away no more than numbers and ids: where work is due, whose an address is.
"""

from django.db import connection, transaction
from psycopg import sql as pg

from bluffside.server import sql
from bluffside.server.segments.functions import functions

APP_ROLE = "bluffside_app"

FUNCTIONS = """
CREATE OR REPLACE FUNCTION bluffside_accounts() RETURNS bigint[] LANGUAGE sql STABLE PARALLEL SAFE AS $$
    SELECT string_to_array(nullif(current_setting('bluffside.accounts', true), ''), ',')::bigint[]
$$;

CREATE OR REPLACE FUNCTION bluffside_person() RETURNS bigint LANGUAGE sql STABLE PARALLEL SAFE AS $$
    SELECT nullif(current_setting('bluffside.person', true), '')::bigint
$$;

-- Accounts with work of a kind due: a look into one index for each account.
CREATE OR REPLACE FUNCTION bluffside_due(work text, job_now timestamptz, real_now timestamptz)
RETURNS SETOF bigint LANGUAGE plpgsql STABLE SECURITY DEFINER SET search_path = public, pg_temp AS $$
BEGIN
    CASE work
    WHEN 'dispatch' THEN RETURN QUERY
        SELECT a.id FROM practice_account a
         WHERE EXISTS (SELECT FROM events_pending p WHERE p.account_id = a.id AND p.fault = ''
                          AND coalesce(p.not_before, job_now) <= job_now);
    WHEN 'advance' THEN RETURN QUERY
        SELECT a.id FROM practice_account a
         WHERE EXISTS (SELECT FROM workflows_enrolment e WHERE e.account_id = a.id AND e.due_at <= job_now);
    WHEN 'expect' THEN RETURN QUERY
        SELECT a.id FROM practice_account a
         WHERE EXISTS (SELECT FROM workflows_expected e WHERE e.account_id = a.id AND e.at <= job_now)
            OR EXISTS (SELECT FROM workflows_dailypass p WHERE p.account_id = a.id AND p.next_at <= job_now);
    WHEN 'deliver' THEN RETURN QUERY
        SELECT a.id FROM practice_account a
         WHERE EXISTS (SELECT FROM messaging_message m WHERE m.account_id = a.id
                          AND m.state IN ('queued', 'sending') AND m.next_try_at <= job_now
                          AND (m.state = 'queued' OR m.leased_until < real_now));
    WHEN 'calls' THEN RETURN QUERY
        SELECT a.id FROM practice_account a
         WHERE EXISTS (SELECT FROM hooks_call c WHERE c.account_id = a.id
                          AND c.state IN ('queued', 'sending') AND c.next_try_at <= job_now
                          AND (c.state = 'queued' OR c.leased_until < real_now));
    WHEN 'notices' THEN RETURN QUERY
        SELECT a.id FROM practice_account a
         WHERE EXISTS (SELECT FROM diary_notice n WHERE n.account_id = a.id AND n.mail
                          AND coalesce(n.mail_at, job_now) <= job_now);
    WHEN 'import' THEN RETURN QUERY
        SELECT DISTINCT i.account_id FROM people_contactimport i WHERE i.state IN ('running', 'taking_back');
    WHEN 'intake' THEN RETURN QUERY
        SELECT a.id FROM practice_account a
         WHERE EXISTS (SELECT FROM workflows_intake i WHERE i.account_id = a.id AND i.next_at <= job_now);
    WHEN 'copies' THEN RETURN QUERY
        SELECT a.id FROM practice_account a
         WHERE EXISTS (SELECT FROM messaging_owncopy c WHERE c.account_id = a.id AND c.due_at <= job_now);
    WHEN 'export' THEN RETURN QUERY
        SELECT e.account_id FROM practice_accountexport e WHERE e.state = 'running';
    WHEN 'delete' THEN RETURN QUERY
        SELECT a.id FROM practice_account a WHERE a.deleting_at IS NOT NULL;
    WHEN 'waiting' THEN RETURN QUERY
        SELECT a.id FROM practice_account a
         WHERE EXISTS (SELECT FROM appointments_waiting w WHERE w.account_id = a.id AND w.until <= job_now);
    WHEN 'standing' THEN RETURN QUERY
        SELECT a.id FROM practice_account a
         WHERE EXISTS (SELECT FROM workflows_scoreturn t WHERE t.account_id = a.id AND t.at <= job_now);
    WHEN 'recount' THEN RETURN QUERY
        SELECT DISTINCT r.account_id FROM scores_scorerecount r WHERE r.state = 'running';
    WHEN 'resting' THEN RETURN QUERY
        SELECT DISTINCT s.account_id FROM pipeline_dealstay s WHERE s.rests_until <= job_now;
    WHEN 'busy' THEN RETURN QUERY
        SELECT DISTINCT b.account_id FROM appointments_busycalendar b WHERE b.next_at <= job_now;
    WHEN 'count' THEN RETURN QUERY
        SELECT a.id FROM practice_account a
         WHERE EXISTS (SELECT FROM events_uncounted u WHERE u.account_id = a.id)
            OR EXISTS (SELECT FROM results_uncountedday d WHERE d.account_id = a.id)
            OR NOT EXISTS (SELECT FROM results_counted c WHERE c.account_id = a.id AND c.zone = a.zone);
    WHEN 'aims' THEN RETURN QUERY
        SELECT DISTINCT w.account_id FROM workflows_workflow w
         WHERE w.published_id IS NOT NULL AND w.aim_of IS DISTINCT FROM w.published_id;
    WHEN 'keep' THEN RETURN QUERY
        SELECT a.id FROM practice_account a WHERE a.kept_until_month IS NULL OR a.kept_until_month <= job_now;
    END CASE;
END $$;

-- The next instant after another at which something is due by the clock, of one account or (0) of all.
DROP FUNCTION IF EXISTS bluffside_next_due(bigint);
CREATE OR REPLACE FUNCTION bluffside_next_due(one bigint, since timestamptz) RETURNS timestamptz
LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public, pg_temp AS $$
    SELECT min(due) FROM practice_account a CROSS JOIN LATERAL (
        (SELECT due_at FROM workflows_enrolment WHERE account_id = a.id AND due_at > since ORDER BY due_at LIMIT 1)
        UNION ALL
        (SELECT next_try_at FROM messaging_message WHERE account_id = a.id AND state IN ('queued', 'sending')
            AND state = 'queued' AND next_try_at > since ORDER BY next_try_at LIMIT 1)
        UNION ALL
        (SELECT next_try_at FROM hooks_call WHERE account_id = a.id AND state IN ('queued', 'sending')
            AND state = 'queued' AND next_try_at > since ORDER BY next_try_at LIMIT 1)
        UNION ALL
        (SELECT at FROM workflows_expected WHERE account_id = a.id AND at > since ORDER BY at LIMIT 1)
        UNION ALL
        (SELECT next_at FROM workflows_dailypass WHERE account_id = a.id AND next_at > since)
        UNION ALL
        (SELECT min(next_at) FROM workflows_intake WHERE account_id = a.id AND next_at > since)
        UNION ALL
        (SELECT min(due_at) FROM messaging_owncopy WHERE account_id = a.id AND due_at > since)
        UNION ALL
        (SELECT min(until) FROM appointments_waiting WHERE account_id = a.id AND until > since)
        UNION ALL
        (SELECT min(rests_until) FROM pipeline_dealstay WHERE account_id = a.id AND rests_until > since)
        UNION ALL
        (SELECT at FROM workflows_scoreturn WHERE account_id = a.id AND at > since ORDER BY at LIMIT 1)
    ) AS d (due) WHERE one IN (0, a.id)
$$;

-- What open pages ask each second: a number that grows with each write of the account, and whether a worker lives.
CREATE OR REPLACE FUNCTION bluffside_pulse(one bigint) RETURNS TABLE (number bigint, working boolean)
LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public, pg_temp AS $$
    SELECT coalesce((SELECT b.number FROM practice_beat b WHERE b.account_id = one), 0),
           EXISTS (SELECT FROM practice_workerseen WHERE seen_at > now() - interval '30 seconds')
$$;

-- Whose mail an address takes.
CREATE OR REPLACE FUNCTION bluffside_accounts_at(addresses text[]) RETURNS TABLE (address text, account_id bigint)
LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public, pg_temp AS $$
    SELECT lower(a.sender_email), a.id FROM practice_account a WHERE lower(a.sender_email) = ANY(addresses)
    UNION
    SELECT lower(s.address), s.account_id FROM messaging_sender s
     WHERE s.channel = 'email' AND lower(s.address) = ANY(addresses)
$$;

-- A picture of an account's brand, by a token that nobody can guess.
CREATE OR REPLACE FUNCTION bluffside_picture(token text) RETURNS bytea
LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public, pg_temp AS $$
    SELECT p.content FROM practice_picture p WHERE p.token = bluffside_picture.token
$$;

-- Whose form, booking page, calendar or lead source a token is that nobody can guess.
CREATE OR REPLACE FUNCTION bluffside_account_of(kind text, token text) RETURNS bigint
LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public, pg_temp AS $$
    SELECT f.account_id FROM capture_form f WHERE kind = 'form' AND f.token = bluffside_account_of.token
    UNION ALL
    SELECT t.account_id FROM appointments_appointmenttype t WHERE kind = 'book' AND t.token = bluffside_account_of.token
    UNION ALL
    SELECT c.account_id FROM appointments_calendarfeed c WHERE kind = 'calendar'
       AND c.digest = encode(sha256(convert_to(bluffside_account_of.token, 'UTF8')), 'hex')
    UNION ALL
    SELECT s.account_id FROM capture_leadsource s WHERE kind = 'lead' 
       AND s.digest = encode(sha256(convert_to(bluffside_account_of.token, 'UTF8')), 'hex')
$$;

-- How the whole installation is: lengths and ages of queues, messages by state. Numbers only.
CREATE OR REPLACE FUNCTION bluffside_figures(job_now timestamptz, real_now timestamptz)
RETURNS TABLE (name text, label text, value double precision)
LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public, pg_temp AS $$
    SELECT 'queue_length', 'advance', count(*)::float8 FROM workflows_enrolment WHERE due_at <= job_now
    UNION ALL SELECT 'queue_age', 'advance', coalesce(extract(epoch FROM job_now - min(due_at)), 0)
      FROM workflows_enrolment WHERE due_at <= job_now
    UNION ALL SELECT 'queue_length', 'dispatch', count(*) FROM events_pending WHERE fault = ''
    UNION ALL SELECT 'queue_age', 'dispatch', coalesce(extract(epoch FROM job_now - min(at)), 0)
      FROM events_pending WHERE fault = ''
    UNION ALL SELECT 'queue_length', 'deliver', count(*) FROM messaging_message
     WHERE state IN ('queued', 'sending') AND next_try_at <= job_now
    UNION ALL SELECT 'queue_age', 'deliver', coalesce(extract(epoch FROM job_now - min(next_try_at)), 0)
      FROM messaging_message WHERE state IN ('queued', 'sending') AND next_try_at <= job_now
    UNION ALL SELECT 'queue_length', 'calls', count(*) FROM hooks_call
     WHERE state IN ('queued', 'sending') AND next_try_at <= job_now
    UNION ALL SELECT 'queue_age', 'calls', coalesce(extract(epoch FROM job_now - min(next_try_at)), 0)
      FROM hooks_call WHERE state IN ('queued', 'sending') AND next_try_at <= job_now
    UNION ALL SELECT 'set_aside', 'enrolments', count(*) FROM workflows_enrolment WHERE fault <> ''
    UNION ALL SELECT 'set_aside', 'events', count(*) FROM events_pending WHERE fault <> ''
    UNION ALL SELECT 'messages', 'held', count(*) FROM messaging_message WHERE state = 'held'
    UNION ALL SELECT 'messages', 'uncertain', count(*) FROM messaging_message WHERE state = 'uncertain'
    UNION ALL SELECT 'messages_sent_day', s.state, count(*) FROM messaging_message s
     WHERE s.account_id IN (SELECT id FROM practice_account) AND s.sent_at > job_now - interval '1 day' GROUP BY s.state
    UNION ALL SELECT 'workers', '', count(*) FROM practice_workerseen WHERE seen_at > real_now - interval '30 seconds'
    UNION ALL SELECT 'rest_rows', 'events', count(*) FROM (SELECT FROM events_event_rest LIMIT 1000) AS r
    UNION ALL SELECT 'rest_rows', 'turns', count(*) FROM (SELECT FROM workflows_turn_rest LIMIT 1000) AS r
$$;
"""

# practice_membership may also be read by the person it is about: signing in comes before entering an account. An invitation
# without an account is to the practice.
OWN = {
    "practice_membership": "OR person_id = (SELECT bluffside_person())",
    "signing_in_invitation": "OR account_id IS NULL",
}


@transaction.atomic
def raise_walls() -> None:
    """Puts every table with an account under row-level security, and grants the application what it needs. Run by
    the owner of the tables. All of it or nothing is seen by those who read meanwhile, and a wall that stands as it should is
    left alone: without its policy a table looks empty."""
    _run(FUNCTIONS, functions())
    if not sql.rows("SELECT 1 FROM pg_roles WHERE rolname = %s", [APP_ROLE]):
        _run(f"CREATE ROLE {APP_ROLE} NOLOGIN")
    standing = _standing()
    for table in account_tables():
        inside = f"account_id = ANY((SELECT bluffside_accounts())::bigint[]) {OWN.get(table, '')}"
        if standing.get(table) == inside:
            continue
        _run(
            f"ALTER TABLE {table} ENABLE ROW LEVEL SECURITY",
            f"DROP POLICY IF EXISTS wall ON {table}",
            f"CREATE POLICY wall ON {table} TO {APP_ROLE} USING ({inside}) WITH CHECK ({inside})",
            pg.SQL("COMMENT ON POLICY wall ON {} IS {}").format(pg.Identifier(table), pg.Literal(inside)),
        )
    _run(
        f"GRANT USAGE ON SCHEMA public TO {APP_ROLE}",
        f"GRANT SELECT, INSERT, UPDATE, DELETE ON ALL TABLES IN SCHEMA public TO {APP_ROLE}",
        # Months are reached by way of their table alone, which has the wall.
        *(f"REVOKE ALL ON {month} FROM {APP_ROLE}" for month in _months()),
        f"GRANT USAGE, SELECT ON ALL SEQUENCES IN SCHEMA public TO {APP_ROLE}",
        f"GRANT EXECUTE ON ALL FUNCTIONS IN SCHEMA public TO {APP_ROLE}",
    )


def _run(*statements: "str | pg.Composable") -> None:
    """Roles, policies and functions are no models."""
    with connection.cursor() as cursor:
        for statement in statements:
            cursor.execute(statement)


def _standing() -> dict[str, str]:
    """What the wall of each table says, as it was written: PostgreSQL itself keeps the expression in words of its own."""
    query = (
        "SELECT c.relname, obj_description(p.oid, 'pg_policy') FROM pg_policy p JOIN pg_class c ON c.oid = p.polrelid"
        " WHERE p.polname = 'wall' AND c.relrowsecurity AND c.relnamespace = 'public'::regnamespace"
    )
    return {table: said for table, said in sql.rows(query) if said}


def _months() -> list[str]:
    query = (
        "SELECT relname FROM pg_class WHERE relnamespace = 'public'::regnamespace AND relispartition AND relkind = 'r'"
    )
    return [row[0] for row in sql.rows(query)]


def account_tables() -> list[str]:
    """Every table (not the months of one) that has a column account_id."""
    return [
        row[0]
        for row in sql.rows(
            """
            SELECT c.relname FROM pg_class c JOIN pg_attribute a ON a.attrelid = c.oid
             WHERE c.relnamespace = 'public'::regnamespace AND c.relkind IN ('r', 'p') AND NOT c.relispartition
               AND a.attname = 'account_id' AND NOT a.attisdropped
             ORDER BY c.relname
            """
        )
    ]


def is_owner() -> bool:
    """Whether the role of this connection may make tables here."""
    return bool(sql.rows("SELECT has_schema_privilege('public', 'CREATE')")[0][0])


def may_pass() -> bool:
    """Whether the role of this connection could see past the walls."""
    passes = (
        "SELECT rolsuper OR rolbypassrls OR EXISTS (SELECT FROM pg_class WHERE relname = 'people_contact'"
        " AND relowner = pg_roles.oid) FROM pg_roles WHERE rolname = current_user"
    )
    return bool(sql.rows(passes)[0][0])


def without_wall() -> list[str]:
    """Tables with an account that row-level security does not guard, or that have no policy."""
    return [
        row[0]
        for row in sql.rows(
            """
            SELECT c.relname FROM unnest(%s::text[]) AS t (name) JOIN pg_class c ON c.oid = t.name::regclass
             WHERE NOT c.relrowsecurity OR NOT EXISTS (SELECT FROM pg_policy p WHERE p.polrelid = c.oid)
            """,
            [account_tables()],
        )
    ]
