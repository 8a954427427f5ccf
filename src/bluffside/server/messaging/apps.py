from django.apps import AppConfig


class MessagingConfig(AppConfig):
    name = "bluffside.server.messaging"
    label = "messaging"

    def ready(self) -> None:
        from bluffside.server.messaging.keeping import LINKS, REPLIES, STRANGERS, WORDS
        from bluffside.server.practice.keeping import keep

        for sort in (WORDS, LINKS, REPLIES, STRANGERS):
            keep(sort)
