"""Whoever signs in already does so with an address that is theirs; and the table of the cache that all processes share."""

from django.apps.registry import Apps
from django.core.management import call_command
from django.db import migrations
from django.db.backends.base.schema import BaseDatabaseSchemaEditor


def confirm(apps: Apps, editor: BaseDatabaseSchemaEditor) -> None:
    person, address = apps.get_model("practice", "Person"), apps.get_model("account", "EmailAddress")
    known = set(address.objects.values_list("user_id", flat=True))
    address.objects.bulk_create(
        address(user_id=id, email=email, verified=True, primary=True)
        for id, email in person.objects.exclude(id__in=known).values_list("id", "email")
    )


def make_cache(apps: Apps, editor: BaseDatabaseSchemaEditor) -> None:
    call_command("createcachetable", database=editor.connection.alias, verbosity=0)


class Migration(migrations.Migration):
    dependencies = [
        ("signing_in", "0001_invitations"),
        ("practice", "0008_signing_in"),
        ("account", "0009_emailaddress_unique_primary_email"),
        ("mfa", "0003_authenticator_type_uniq"),
        ("usersessions", "0001_initial"),
    ]

    operations = [
        migrations.RunPython(confirm, migrations.RunPython.noop),
        migrations.RunPython(make_cache, migrations.RunPython.noop),
    ]
