from django.apps import AppConfig


class OutsideConfig(AppConfig):
    name = "bluffside.server.outside"
    label = "outside"
