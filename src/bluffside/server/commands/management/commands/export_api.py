"""Prints the OpenAPI schema: the web app's types are made from it."""

import json
from typing import Any

from django.core.management.base import BaseCommand

from bluffside.server.api import api


class Command(BaseCommand):
    help = __doc__ or ""

    def handle(self, *args: Any, **options: Any) -> None:
        self.stdout.write(json.dumps(api.get_openapi_schema(path_prefix="/api/"), indent=2))
