"""What stored documents are made of."""

from pydantic import BaseModel, ConfigDict


class Value(BaseModel):
    """A frozen value whose unknown fields are errors, so that a misspelt field is never lost in silence."""

    model_config = ConfigDict(frozen=True, extra="forbid")
