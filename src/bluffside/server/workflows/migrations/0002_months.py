"""Cuts the reasons by month."""

from django.db import migrations

TABLE = """
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
"""


class Migration(migrations.Migration):
    dependencies = [("workflows", "0001_initial"), ("events", "0002_months")]
    operations = [migrations.RunSQL(TABLE, migrations.RunSQL.noop)]
