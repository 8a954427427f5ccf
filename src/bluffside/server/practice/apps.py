from django.apps import AppConfig


class PracticeConfig(AppConfig):
    name = "bluffside.server.practice"
    label = "practice"

    def ready(self) -> None:
        from django.db.backends.signals import connection_created

        from bluffside.server.any_of import register
        from bluffside.server.practice.pulse import watch

        register()
        connection_created.connect(watch, dispatch_uid="the pulse of accounts")
