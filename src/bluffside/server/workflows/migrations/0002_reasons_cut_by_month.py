"""Cuts the reasons by month; those that are there come along."""

from django.db import migrations

TABLE = """
CREATE TABLE workflows_turn_whole AS TABLE workflows_turn;
DROP TABLE workflows_turn;
CREATE SEQUENCE workflows_turn_id_seq;
CREATE TABLE workflows_turn (
    id bigint NOT NULL DEFAULT nextval('workflows_turn_id_seq'),
    account_id bigint NOT NULL,
    enrolment_id bigint NOT NULL,
    at timestamptz NOT NULL,
    steps varchar(40)[] NOT NULL,
    reasons jsonb NOT NULL,
    PRIMARY KEY (id, at)
) PARTITION BY RANGE (at);
ALTER SEQUENCE workflows_turn_id_seq OWNED BY workflows_turn.id;
CREATE TABLE workflows_turn_rest PARTITION OF workflows_turn DEFAULT;
CREATE INDEX turn_of_enrolment ON workflows_turn (enrolment_id, at, id);
INSERT INTO workflows_turn (id, account_id, enrolment_id, at, steps, reasons)
SELECT id, account_id, enrolment_id, at, steps, reasons FROM workflows_turn_whole ORDER BY id;
SELECT setval('workflows_turn_id_seq', coalesce(max(id), 0) + 1, false) FROM workflows_turn_whole;
DROP TABLE workflows_turn_whole;
"""


class Migration(migrations.Migration):
    replaces = [("workflows", "0002_months")]  # what it was called
    dependencies = [("workflows", "0001_initial"), ("events", "0002_events_cut_by_month")]
    operations = [migrations.RunSQL(TABLE, migrations.RunSQL.noop)]
