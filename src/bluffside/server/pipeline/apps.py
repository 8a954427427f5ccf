from django.apps import AppConfig


class PipelineConfig(AppConfig):
    name = "bluffside.server.pipeline"
    label = "pipeline"

    def ready(self) -> None:
        from bluffside.server.people.import_beside import register
        from bluffside.server.people.merging import before_merging
        from bluffside.server.pipeline.by_file import DealsByFile
        from bluffside.server.pipeline.services import give_way

        register(DealsByFile())
        before_merging(give_way)
