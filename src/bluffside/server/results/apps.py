from django.apps import AppConfig


class ResultsConfig(AppConfig):
    name = "bluffside.server.results"
    label = "results"
