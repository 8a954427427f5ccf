from django.apps import AppConfig


class PracticeConfig(AppConfig):
    name = "bluffside.server.practice"
    label = "practice"

    def ready(self) -> None:
        from django.db.backends.signals import connection_created

        from bluffside.server.any_of import register
        from bluffside.server.practice.pulse import watch
        from bluffside.server.timestamps import read_natively

        register()

        from bluffside.server.practice.keeping import Sort, keep
        from bluffside.server.practice.models import AccountExport

        keep(
            Sort(
                "account files",
                "files of everything an account owns",
                1,
                lambda account, before: AccountExport.objects.filter(account=account, asked_at__lt=before),
            )
        )
        connection_created.connect(watch, dispatch_uid="the pulse of accounts")
        connection_created.connect(read_natively, dispatch_uid="instants read natively")
