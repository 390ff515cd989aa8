"""What every answer of the API has in common."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict


class Answer(BaseModel):
    """Frozen; what a newer service adds is passed over."""

    # Built when first read: a command meets few of all the answers there are.
    model_config = ConfigDict(frozen=True, extra="ignore", defer_build=True)


class AskedWork(Answer):
    """Work that was asked for and goes on in the background: ``done`` of ``total``, and why it failed."""

    id: int
    state: str
    total: int | None
    done: int
    trouble: str

    @property
    def under_way(self) -> bool:
        """Whether it goes on."""
        return self.state in {"waiting", "running"}
