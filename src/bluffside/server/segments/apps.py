from django.apps import AppConfig


class SegmentsConfig(AppConfig):
    name = "bluffside.server.segments"

    def ready(self) -> None:
        from bluffside.server.people.usages import keep_names
        from bluffside.server.segments.usages import Segments

        keep_names(Segments())
