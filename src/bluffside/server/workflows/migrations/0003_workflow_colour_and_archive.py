"""What stands around a workflow in the list: its colour, and whether it is archived."""

from django.db import migrations, models


class Migration(migrations.Migration):
    replaces = [("workflows", "0003_around")]  # what it was called
    dependencies = [("workflows", "0002_reasons_cut_by_month")]

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
