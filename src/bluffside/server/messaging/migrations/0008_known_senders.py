"""Whom messages came from until now are senders, and confirmed: they were used before. What stood in the account alone becomes
one, usual for everything."""

from django.apps.registry import Apps
from django.db import migrations
from django.db.backends.base.schema import BaseDatabaseSchemaEditor
from django.utils import timezone

PURPOSES = ["marketing", "service"]


def adopt(apps: Apps, editor: BaseDatabaseSchemaEditor) -> None:
    sender, account = apps.get_model("messaging", "Sender"), apps.get_model("practice", "Account")
    sender.objects.filter(confirmed_at=None).update(confirmed_at=timezone.now())
    for one in account.objects.all():
        for channel, address, shown in (("email", one.sender_email, one.sender_name), ("text", one.text_number, "")):
            if not address:
                continue
            there = sender.objects.filter(account=one, channel=channel, address__iexact=address).first()
            name = address
            while there is None and sender.objects.filter(account=one, channel=channel, name=name).exists():
                name += "*"
            there = there or sender(account=one, channel=channel, name=name, address=address, shown_as=shown)
            there.usual_for, there.confirmed_at = PURPOSES, timezone.now()
            there.save()


class Migration(migrations.Migration):
    dependencies = [("messaging", "0007_senders")]

    operations = [migrations.RunPython(adopt, migrations.RunPython.noop)]
