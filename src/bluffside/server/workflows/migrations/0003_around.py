"""What stands around a workflow in the list: its colour, and whether it is archived."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("workflows", "0002_months")]

    operations = [
        migrations.AddField(
            "workflow",
            "colour",
            models.CharField(blank=True, db_default="", default="", max_length=10, help_text="in lists and the diary"),
        ),
        migrations.AddField(
            "workflow",
            "archived_at",
            models.DateTimeField(null=True, help_text="put away: closed to newcomers and out of the list"),
        ),
    ]
