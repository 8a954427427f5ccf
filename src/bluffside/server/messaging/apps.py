from django.apps import AppConfig


class MessagingConfig(AppConfig):
    name = "bluffside.server.messaging"
    label = "messaging"
