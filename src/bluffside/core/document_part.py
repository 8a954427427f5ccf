"""What every model of a workflow document shares: strict, immutable, and exact about unknown keys."""

from pydantic import BaseModel, ConfigDict


class DocumentPart(BaseModel):
    """A part of a workflow document. Unknown keys are refused, so that a misspelt one is not silently lost."""

    model_config = ConfigDict(extra="forbid", frozen=True)
