from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("capture", "0002_addresses_are_known_by_digest")]

    operations = [
        migrations.AddField(
            "formanswer",
            "to_confirm",
            models.JSONField(
                db_default={}, default=dict, help_text="what they were asked to confirm, by the way it was sent (confirming.py)"
            ),
        ),
        migrations.AddField(
            "formanswer",
            "confirmed",
            models.JSONField(db_default={}, default=dict, help_text="when they did, by that way"),
        ),
    ]
