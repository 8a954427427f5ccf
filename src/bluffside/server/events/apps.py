from django.apps import AppConfig


class EventsConfig(AppConfig):
    name = "bluffside.server.events"
    label = "events"

    def ready(self) -> None:
        from bluffside.server.events.keeping import EVENTS
        from bluffside.server.practice.keeping import keep

        for sort in (EVENTS,):
            keep(sort)
