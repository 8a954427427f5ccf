from django.apps import AppConfig


class AppointmentsConfig(AppConfig):
    name = "bluffside.server.appointments"
    label = "appointments"

    def ready(self) -> None:
        from bluffside.server.appointments.booking import free_place
        from bluffside.server.diary.services import when_freed

        when_freed(free_place)
