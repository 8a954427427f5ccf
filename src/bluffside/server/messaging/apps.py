from django.apps import AppConfig


class MessagingConfig(AppConfig):
    name = "bluffside.server.messaging"
    label = "messaging"

    def ready(self) -> None:
        from bluffside.server.messaging.correspondence import give_way
        from bluffside.server.messaging.keeping import LINKS, REPLIES, STRANGERS, WORDS
        from bluffside.server.people.merging import before_merging
        from bluffside.server.practice.keeping import keep

        before_merging(give_way)

        for sort in (WORDS, LINKS, REPLIES, STRANGERS):
            keep(sort)
