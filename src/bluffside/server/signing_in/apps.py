from django.apps import AppConfig


class SigningInConfig(AppConfig):
    name = "bluffside.server.signing_in"
    label = "signing_in"

    def ready(self) -> None:
        from allauth.account.signals import password_changed, password_reset

        from bluffside.server.signing_in.sessions import end_the_others

        for signal in (password_changed, password_reset):
            signal.connect(end_the_others, dispatch_uid="other sessions end with the password")
