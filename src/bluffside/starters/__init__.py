"""The starter set: workflows in wording of our own, to be read as scripts and taken into an account as drafts.

One file a workflow, in the format that workflows are saved in. The file's name is its key, the document's description
what it is for.
"""

from functools import lru_cache
from pathlib import Path

from bluffside.core.workflow.document import Workflow
from bluffside.core.workflow.files import read_workflow

FOLDER = Path(__file__).parent


@lru_cache(maxsize=1)
def starters() -> dict[str, Workflow]:
    """Every starter by its key, in the order of the work with a customer."""
    return {path.stem.partition("-")[2]: read_workflow(path.read_text()) for path in sorted(FOLDER.glob("*.yaml"))}
