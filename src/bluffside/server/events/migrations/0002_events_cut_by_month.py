"""Cuts the stream by month, and gives the database the means to make months. What was recorded comes along: it lands in the
rest, from where each month takes it."""

from django.db import migrations

MONTHS = """
CREATE FUNCTION bluffside_months(parent text, first date, last date) RETURNS integer
LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
DECLARE
    month date := date_trunc('month', first);
    part text;
    made integer := 0;
BEGIN
    IF parent NOT IN ('events_event', 'workflows_turn') THEN
        RAISE EXCEPTION '% is not cut by month', parent;
    END IF;
    IF last > first + 3700 THEN
        RAISE EXCEPTION 'more than ten years of months at once';
    END IF;
    WHILE month <= last LOOP
        part := format('%s_%s', parent, to_char(month, 'YYYY_MM'));
        IF to_regclass(part) IS NULL THEN
            PERFORM pg_advisory_xact_lock(hashtext(parent));
            IF to_regclass(part) IS NULL THEN
                EXECUTE format('CREATE TABLE %I (LIKE %I INCLUDING DEFAULTS INCLUDING CONSTRAINTS)', part, parent);
                EXECUTE format('WITH gone AS (DELETE FROM %I WHERE at >= %L AND at < %L RETURNING *)
                                INSERT INTO %I SELECT * FROM gone',
                               parent || '_rest', month, month + interval '1 month', part);
                EXECUTE format('ALTER TABLE %I ATTACH PARTITION %I FOR VALUES FROM (%L) TO (%L)',
                               parent, part, month, month + interval '1 month');
                EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', part);
                made := made + 1;
            END IF;
        END IF;
        month := month + interval '1 month';
    END LOOP;
    RETURN made;
END $$
"""

TABLE = """
CREATE TABLE events_event_whole AS TABLE events_event;
DROP TABLE events_event;
CREATE SEQUENCE events_event_id_seq;
CREATE TABLE events_event (
    id bigint NOT NULL DEFAULT nextval('events_event_id_seq'),
    account_id bigint NOT NULL REFERENCES practice_account (id) DEFERRABLE INITIALLY DEFERRED,
    kind varchar(40) NOT NULL,
    contact_id bigint,
    at timestamptz NOT NULL,
    data jsonb NOT NULL DEFAULT '{}',
    actor_id bigint,
    enrolment_id bigint,
    depth smallint NOT NULL DEFAULT 0 CHECK (depth >= 0),
    PRIMARY KEY (id, at)
) PARTITION BY RANGE (at);
ALTER SEQUENCE events_event_id_seq OWNED BY events_event.id;
CREATE TABLE events_event_rest PARTITION OF events_event DEFAULT;
CREATE INDEX event_timeline ON events_event (contact_id, at DESC, id DESC);
INSERT INTO events_event (id, account_id, kind, contact_id, at, data, actor_id, enrolment_id, depth)
SELECT id, account_id, kind, contact_id, at, data, actor_id, enrolment_id, depth FROM events_event_whole ORDER BY id;
SELECT setval('events_event_id_seq', coalesce(max(id), 0) + 1, false) FROM events_event_whole;
DROP TABLE events_event_whole;
"""


class Migration(migrations.Migration):
    replaces = [("events", "0002_months")]  # what it was called
    dependencies = [("events", "0001_initial")]
    operations = [
        migrations.RunSQL(TABLE, migrations.RunSQL.noop),
        migrations.RunSQL(MONTHS, "DROP FUNCTION bluffside_months"),
    ]
