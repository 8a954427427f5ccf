from django.apps import AppConfig


class SegmentsConfig(AppConfig):
    name = "bluffside.server.segments"
