from django.apps import AppConfig


class WorkflowsConfig(AppConfig):
    name = "bluffside.server.workflows"
    label = "workflows"

    def ready(self) -> None:
        from bluffside.server.events.stream import subscribe
        from bluffside.server.workflows import enrolling

        subscribe("tag.added", enrolling.start_on_events)
        subscribe("reply.received", enrolling.pass_on_replies)
