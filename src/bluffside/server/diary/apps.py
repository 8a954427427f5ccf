from django.apps import AppConfig


class DiaryConfig(AppConfig):
    name = "bluffside.server.diary"
    label = "diary"

    def ready(self) -> None:
        from bluffside.server.diary.notices import appointment_changed, connection_broke, import_ended, reply_waits
        from bluffside.server.diary.services import when_changed
        from bluffside.server.messaging.correspondence import when_heard
        from bluffside.server.people.imports import when_ended
        from bluffside.server.practice.connections import when_broken

        when_heard(reply_waits)
        when_changed(appointment_changed)
        when_broken(connection_broke)
        when_ended(import_ended)
