"""Prints an OpenAPI schema, of which the web app's types are made: the API's, or that of signing in."""

import json
from typing import Any

from allauth.headless.spec.internal.schema import get_schema
from django.core.management.base import BaseCommand, CommandParser

from bluffside.server.api import api


class Command(BaseCommand):
    help = __doc__ or ""

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--signing-in", action="store_true")

    def handle(self, *args: Any, **options: Any) -> None:
        schema = get_schema() if options["signing_in"] else api.get_openapi_schema(path_prefix="/api/")
        self.stdout.write(json.dumps(schema, indent=2, default=str))
