from django.apps import AppConfig


class CommandsConfig(AppConfig):
    name = "bluffside.server.commands"
    label = "commands"
