from django.apps import AppConfig


class PeopleConfig(AppConfig):
    name = "bluffside.server.people"
    label = "people"

    def ready(self) -> None:
        from bluffside.server.people.sorting import Remembered
        from bluffside.server.people.usages import keep_names

        keep_names(Remembered())

        from bluffside.server.people.finding import contacts, lists, tags
        from bluffside.server.practice.finding import find_by

        for finder in (contacts, tags, lists):
            find_by(finder)

        from bluffside.server.people.keeping import BROUGHT_IN, UNSTARTED
        from bluffside.server.practice.keeping import keep

        for sort in (UNSTARTED, BROUGHT_IN):
            keep(sort)
