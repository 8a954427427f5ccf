from django.apps import AppConfig


class WorkflowsConfig(AppConfig):
    name = "bluffside.server.workflows"
    label = "workflows"

    def ready(self) -> None:
        """What hears of events, in this order: the score first, so that the others see what was earned; newcomers
        last, so that they do not hear what brought them."""
        from django.db.models import Exists, OuterRef

        from bluffside.server.events.stream import subscribe
        from bluffside.server.messaging.delivery import wait_while
        from bluffside.server.people.merging import before_merging
        from bluffside.server.people.usages import keep_names
        from bluffside.server.workflows import aims, dated, enrolling, scoring, signals
        from bluffside.server.workflows.models import Signal
        from bluffside.server.workflows.usages import Scores, Workflows

        subscribe(scoring.earn)
        subscribe(signals.tell_inside)
        subscribe(dated.look_again)
        subscribe(enrolling.start_on_events)
        subscribe(aims.reach)
        wait_while(Exists(Signal.objects.filter(enrolment_id=OuterRef("enrolment_id"))))
        wait_while(Exists(signals.answers_unheard().filter(enrolment__contact_id=OuterRef("contact_id"))))
        before_merging(signals.give_way)
        keep_names(Workflows())
        keep_names(Scores())

        from bluffside.server.practice.finding import by_name, find_by
        from bluffside.server.workflows.models import Sort, Workflow

        def if_away(one: Workflow) -> str:
            return "put away" if one.archived_at else ""

        find_by(by_name("workflow", Workflow, if_away, Workflow.objects.filter(sort=Sort.SCRIPT)))
        find_by(by_name("message", Workflow, if_away, Workflow.written.filter(sort=Sort.MESSAGE)))

        from bluffside.server.practice.keeping import keep
        from bluffside.server.workflows.keeping import REASONS

        for sort in (REASONS,):
            keep(sort)
