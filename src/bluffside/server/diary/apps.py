from django.apps import AppConfig


class DiaryConfig(AppConfig):
    name = "bluffside.server.diary"
    label = "diary"
