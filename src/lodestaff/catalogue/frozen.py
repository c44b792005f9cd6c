"""The base of every stored record: immutable, strict about names, finite numbers only."""

from pydantic import BaseModel, ConfigDict


class Frozen(BaseModel):
    """An immutable record; an unknown or misspelt field is refused, never ignored."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)
