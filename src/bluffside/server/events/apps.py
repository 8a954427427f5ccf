from django.apps import AppConfig


class EventsConfig(AppConfig):
    name = "bluffside.server.events"
    label = "events"
