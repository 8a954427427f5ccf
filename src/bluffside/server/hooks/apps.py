from django.apps import AppConfig


class HooksConfig(AppConfig):
    name = "bluffside.server.hooks"
    label = "hooks"

    def ready(self) -> None:
        from bluffside.server.hooks.keeping import REQUESTS
        from bluffside.server.practice.keeping import keep

        for sort in (REQUESTS,):
            keep(sort)
