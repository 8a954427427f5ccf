from django.apps import AppConfig


class SegmentsConfig(AppConfig):
    name = "bluffside.server.segments"

    def ready(self) -> None:
        from bluffside.server.people.usages import keep_names
        from bluffside.server.segments.usages import Segments

        keep_names(Segments())

        from bluffside.server.practice.finding import Found, find_by, named
        from bluffside.server.segments.models import Segment

        find_by(
            lambda account, words: (
                Found("segment", one.pk, one.name) for one in named(Segment.objects.filter(account=account), words)
            )
        )
