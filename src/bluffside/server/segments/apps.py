from django.apps import AppConfig


class SegmentsConfig(AppConfig):
    name = "bluffside.server.segments"

    def ready(self) -> None:
        from bluffside.server.people.usages import keep_names
        from bluffside.server.segments.usages import Segments

        keep_names(Segments())

        from bluffside.server.practice.finding import by_name, find_by
        from bluffside.server.segments.models import Segment

        find_by(by_name("segment", Segment))
