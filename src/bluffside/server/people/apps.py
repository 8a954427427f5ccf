from django.apps import AppConfig


class PeopleConfig(AppConfig):
    name = "bluffside.server.people"
    label = "people"
