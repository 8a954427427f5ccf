"""Connections; and the key that signs requests is sealed from now on."""

import django.db.models.deletion
from django.apps.registry import Apps
from django.db import migrations, models
from django.db.backends.base.schema import BaseDatabaseSchemaEditor

from bluffside.server.practice.sealing import seal


def seal_keys(apps: Apps, editor: BaseDatabaseSchemaEditor) -> None:
    accounts = apps.get_model("practice", "Account").objects
    for one in accounts.exclude(webhook_secret=""):
        accounts.filter(pk=one.pk).update(signing_key_sealed=seal(one.webhook_secret))


class Migration(migrations.Migration):
    dependencies = [("practice", "0009_brand")]

    operations = [
        migrations.AddField(
            "account",
            "signing_key_sealed",
            models.TextField(
                blank=True, db_default="", default="", help_text="signs requests to other systems (hooks.signing)"
            ),
        ),
        migrations.RunPython(seal_keys, migrations.RunPython.noop),
        migrations.RemoveField("account", "webhook_secret"),
        migrations.CreateModel(
            name="Connection",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("kind", models.CharField(max_length=8)),
                ("name", models.CharField(blank=True, max_length=253)),
                ("fault", models.CharField(blank=True, help_text="why it does not work; empty: it does", max_length=300)),
                ("since", models.DateTimeField(null=True)),
                ("said", models.CharField(blank=True, help_text="what it answered last", max_length=300)),
                ("said_at", models.DateTimeField(null=True)),
                ("in_vain", models.PositiveSmallIntegerField(default=0, help_text="tries in a row that got no answer")),
                ("off_at", models.DateTimeField(null=True)),
                (
                    "expected_days",
                    models.PositiveSmallIntegerField(help_text="something is expected at least this often", null=True),
                ),
                ("key_sealed", models.TextField(blank=True, help_text="what it asks for to let requests in")),
                ("key_header", models.CharField(blank=True, max_length=60)),
                ("key_at", models.DateTimeField(help_text="when it was put in", null=True)),
                ("test", models.CharField(blank=True, help_text="of the test that is on its way", max_length=40)),
                ("test_at", models.DateTimeField(null=True)),
                (
                    "account",
                    models.ForeignKey(
                        db_index=False,
                        on_delete=django.db.models.deletion.CASCADE,
                        related_name="connections",
                        to="practice.account",
                    ),
                ),
                (
                    "off_by",
                    models.ForeignKey(
                        null=True, on_delete=django.db.models.deletion.SET_NULL, related_name="+", to="practice.person"
                    ),
                ),
            ],
            options={
                "constraints": [
                    models.UniqueConstraint(fields=("account", "kind", "name"), name="connection_once")
                ],
            },
        ),
    ]
