from django.apps import AppConfig


class PeopleConfig(AppConfig):
    name = "bluffside.server.people"
    label = "people"

    def ready(self) -> None:
        from bluffside.server.people.sorting import Remembered
        from bluffside.server.people.usages import keep_names

        keep_names(Remembered())

        from bluffside.server.people.finding import contacts
        from bluffside.server.people.models import ContactList, Tag
        from bluffside.server.practice.finding import by_name, find_by

        find_by(contacts)
        find_by(by_name("tag", Tag, lambda one: one.about))
        find_by(by_name("list", ContactList, lambda one: one.about))

        from bluffside.server.people.keeping import BROUGHT_IN, UNSTARTED
        from bluffside.server.practice.keeping import keep

        for sort in (UNSTARTED, BROUGHT_IN):
            keep(sort)
