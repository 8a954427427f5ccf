from django.apps import AppConfig


class CaptureConfig(AppConfig):
    name = "bluffside.server.capture"
    label = "capture"

    def ready(self) -> None:
        """Rules for what comes in act after workflows have heard of it: who is inside hears the reply itself first."""
        from bluffside.server.capture import incoming
        from bluffside.server.capture.usages import FORMS, SOURCES, Rules, names
        from bluffside.server.events.stream import subscribe
        from bluffside.server.messaging.strangers import let_in_when
        from bluffside.server.people.usages import keep_names
        from bluffside.server.workflows.names import add_names

        subscribe(incoming.act)
        let_in_when(incoming.wants)
        add_names(names)
        for keeper in (FORMS, Rules(), SOURCES):
            keep_names(keeper)

        from bluffside.server.capture.models import Form, LeadSource
        from bluffside.server.practice.finding import by_name, find_by

        find_by(by_name("form", Form, lambda one: "" if one.open else "closed"))
        find_by(by_name("source", LeadSource, lambda one: "leads"))

        from bluffside.server.capture.keeping import ANSWERS, LEADS, SPAM
        from bluffside.server.practice.keeping import keep

        for sort in (ANSWERS, SPAM, LEADS):
            keep(sort)
