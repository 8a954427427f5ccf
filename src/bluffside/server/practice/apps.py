from django.apps import AppConfig


class PracticeConfig(AppConfig):
    name = "bluffside.server.practice"
    label = "practice"
