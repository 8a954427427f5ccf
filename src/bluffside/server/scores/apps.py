from django.apps import AppConfig


class ScoresConfig(AppConfig):
    name = "bluffside.server.scores"
    label = "scores"
