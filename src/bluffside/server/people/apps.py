from django.apps import AppConfig


class PeopleConfig(AppConfig):
    name = "bluffside.server.people"
    label = "people"

    def ready(self) -> None:
        from bluffside.server.people.named import keep_names
        from bluffside.server.people.sorting import Remembered

        keep_names(Remembered())

        from bluffside.server.people.keeping import BROUGHT_IN, UNSTARTED
        from bluffside.server.practice.keeping import keep

        for sort in (UNSTARTED, BROUGHT_IN):
            keep(sort)
