"""Writes the JSON Schema of workflow documents to docs/workflow.schema.json."""

import json
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand

from bluffside.core.workflow.files import json_schema


class Command(BaseCommand):
    help = __doc__ or ""

    def handle(self, *args: Any, **options: Any) -> None:
        path = settings.ROOT / "docs" / "workflow.schema.json"
        path.write_text(json.dumps(json_schema(), indent=2, ensure_ascii=False) + "\n", encoding="utf-8")
        self.stdout.write(str(path))
