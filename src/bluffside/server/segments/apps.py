from django.apps import AppConfig


class SegmentsConfig(AppConfig):
    name = "bluffside.server.segments"

    def ready(self) -> None:
        from bluffside.server.people.named import keep_names
        from bluffside.server.segments.named import Segments

        keep_names(Segments())
