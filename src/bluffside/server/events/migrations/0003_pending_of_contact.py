"""Whom a waiting event is about stands beside it, so that nobody is decided about before they are heard."""

from django.db import migrations, models

KNOWN = """
UPDATE events_pending p SET contact_id = e.contact_id FROM events_event e WHERE e.id = p.event_id AND e.at = p.at
"""


class Migration(migrations.Migration):
    dependencies = [("events", "0002_events_cut_by_month")]

    operations = [
        migrations.AddField(
            "pending",
            "contact_id",
            models.BigIntegerField(help_text="nothing is decided about them before it is handed on", null=True),
        ),
        migrations.RunSQL(KNOWN, migrations.RunSQL.noop),
        migrations.AddIndex(
            "pending",
            models.Index(condition=models.Q(("fault", "")), fields=["contact_id"], name="pending_of_contact"),
        ),
    ]
