"""Each request knows the connection it goes by; what was asked until now gets it from its address."""

from django.apps.registry import Apps
from django.db import migrations, models
from django.db.backends.base.schema import BaseDatabaseSchemaEditor

from bluffside.server.hooks.sending import where
from bluffside.server.hooks.services import where_is


def name(apps: Apps, editor: BaseDatabaseSchemaEditor) -> None:
    calls = apps.get_model("hooks", "Call").objects
    services = {where_is(one): one for one in ("series", "assistant")}
    for url in calls.order_by().values_list("url", flat=True).distinct().iterator():
        calls.filter(url=url).update(connection=where(url, services.get(url, "")))


class Migration(migrations.Migration):
    dependencies = [("hooks", "0001_initial")]

    operations = [
        migrations.AddField(
            "call",
            "connection",
            models.CharField(
                db_default="",
                default="",
                max_length=253,
                help_text="kind and name of practice.Connection: host:example.com",
            ),
        ),
        migrations.RunPython(name, migrations.RunPython.noop),
        migrations.AddIndex(
            "call", models.Index(fields=["account", "connection", "-id"], name="call_by_connection")
        ),
    ]
