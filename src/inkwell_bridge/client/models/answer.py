"""What every answer of the API has in common."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict


class Answer(BaseModel):
    """Frozen; what a newer service adds is passed over."""

    model_config = ConfigDict(frozen=True, extra="ignore")
