from django.apps import AppConfig


class DiaryConfig(AppConfig):
    name = "bluffside.server.diary"
    label = "diary"

    def ready(self) -> None:
        from bluffside.server.diary.notices import appointment_changed, reply_waits
        from bluffside.server.diary.services import when_changed
        from bluffside.server.messaging.correspondence import when_heard

        when_heard(reply_waits)
        when_changed(appointment_changed)
