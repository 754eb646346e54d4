"""What an administrator may set: environment variables that begin with ``JENTROW_``."""

from __future__ import annotations

from dataclasses import replace
from typing import Final

from pydantic import Field, ValidationError
from pydantic_settings import BaseSettings, SettingsConfigDict

from jentrow.core.engines.limits import Limits
from jentrow.core.errors import UnusableInput

_PREFIX: Final = "JENTROW_"


class Settings(BaseSettings):
    """Bounds of this installation; the limits are the most that an exercise may ask for."""

    model_config = SettingsConfigDict(env_prefix=_PREFIX, frozen=True)

    limit_seconds: float = Field(60, gt=0, le=600)
    limit_rows: int = Field(500_000, ge=1, le=1_000_000)
    limit_memory_mb: int = Field(1_024, ge=8, le=4_096)
    body_kb: int = Field(4_096, ge=64)
    upload_mb: int = Field(512, ge=1)
    request_seconds: float = Field(30, gt=0)
    postgresql_url: str = Field("", repr=False)
    mariadb_url: str = Field("", repr=False)

    def capped(self, limits: Limits) -> Limits:
        """An exercise's limits, and never more than this installation allows."""
        return replace(
            limits,
            seconds=min(limits.seconds, self.limit_seconds),
            rows=min(limits.rows, self.limit_rows),
            memory_mb=min(limits.memory_mb, self.limit_memory_mb),
        )

    def problems_of(self, limits: Limits) -> list[str]:
        """What an exercise asks for beyond that."""
        most = {
            "seconds": self.limit_seconds,
            "rows": self.limit_rows,
            "memory_mb": self.limit_memory_mb,
        }
        return [
            f"limits.{name} is {getattr(limits, name):g}, and this server allows at most {bound:g}"
            for name, bound in most.items()
            if getattr(limits, name) > bound
        ]


def read_settings() -> Settings:
    """The settings of the environment. Raises :class:`UnusableInput` naming what is wrong."""
    try:
        return Settings()
    except ValidationError as problem:
        said = "; ".join(
            f"{_PREFIX}{str(one['loc'][0]).upper()}: {one['msg']}" for one in problem.errors()
        )
        raise UnusableInput(f"the settings cannot be used: {said}.") from problem
