from django.apps import AppConfig


class HooksConfig(AppConfig):
    name = "bluffside.server.hooks"
    label = "hooks"
