"""Two classes get names that say what they hold; their tables stay as they are."""

from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("practice", "0006_beat"), ("workflows", "0005_find_who_is_stopped")]

    operations = [
        # The tables are named first, so that giving the classes other names does not touch them.
        migrations.AlterModelTable(name="turn", table="workflows_turn"),
        migrations.AlterModelTable(name="memberturn", table="workflows_memberturn"),
        migrations.RenameModel(old_name="Turn", new_name="EnrolmentReasons"),
        migrations.RenameModel(old_name="MemberTurn", new_name="Rotation"),
    ]
