"""Published versions, read once: a version never changes, so what is made of it is kept."""

from functools import lru_cache

from bluffside.core.workflow.document import Workflow as Document
from bluffside.core.workflow.files import parse_workflow
from bluffside.core.workflow.program import Program, compile_workflow
from bluffside.server.workflows.models import Version


@lru_cache(maxsize=2_000)
def published_document(version_id: int) -> Document:
    return parse_workflow(Version.objects.get(id=version_id).document)


@lru_cache(maxsize=2_000)
def program_of(version_id: int) -> Program:
    return compile_workflow(published_document(version_id))
