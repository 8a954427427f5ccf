"""A lead source's secret is no longer kept: the address that it stands in goes on leading here by its digest."""

from hashlib import sha256

from django.apps.registry import Apps
from django.db import migrations, models
from django.db.backends.base.schema import BaseDatabaseSchemaEditor


def digest(apps: Apps, editor: BaseDatabaseSchemaEditor) -> None:
    sources = apps.get_model("capture", "LeadSource").objects
    for one in sources.all():  # each once: what is written twice in a transaction has checks pending, and no table is altered then
        sources.filter(pk=one.pk).update(digest=sha256(one.secret.encode()).hexdigest(), address_at=one.made_at)


class Migration(migrations.Migration):
    dependencies = [("capture", "0001_forms_words_and_leads")]

    operations = [
        migrations.AddField("leadsource", "digest", models.CharField(max_length=64, null=True)),
        migrations.AddField("leadsource", "address_at", models.DateTimeField(null=True)),
        migrations.RunPython(digest, migrations.RunPython.noop),
        migrations.AlterField(
            "leadsource",
            "digest",
            models.CharField(max_length=64, unique=True, help_text="SHA-256 of the secret in its address, in hex"),
        ),
        migrations.AlterField("leadsource", "address_at", models.DateTimeField(help_text="when its address was made")),
        migrations.RemoveField("leadsource", "secret"),
    ]
