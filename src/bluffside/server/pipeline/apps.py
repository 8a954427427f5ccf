from django.apps import AppConfig


class PipelineConfig(AppConfig):
    name = "bluffside.server.pipeline"
    label = "pipeline"
