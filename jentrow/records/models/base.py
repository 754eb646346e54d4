"""What all tables of the records have in common, and the settings of the whole server."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Any

from sqlalchemy import JSON, DateTime, MetaData, Text, TypeDecorator
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column


class Instant(TypeDecorator[datetime]):
    """A point in time, kept in UTC; SQLite has no zones of its own."""

    impl = DateTime
    cache_ok = True

    def process_bind_param(self, value: datetime | None, dialect: Any) -> datetime | None:
        """To naive UTC; a time without a zone is taken as UTC."""
        if value is None or value.tzinfo is None:
            return value
        return value.astimezone(UTC).replace(tzinfo=None)

    def process_result_value(self, value: datetime | None, dialect: Any) -> datetime | None:
        """From naive UTC."""
        return None if value is None else value.replace(tzinfo=UTC)


class Base(DeclarativeBase):
    """The base of all models; constraints have names, so that migrations can change them."""

    metadata = MetaData(
        naming_convention={
            "ix": "ix_%(column_0_label)s",
            "uq": "uq_%(table_name)s_%(column_0_name)s",
            "ck": "ck_%(table_name)s_%(constraint_name)s",
            "fk": "fk_%(table_name)s_%(column_0_name)s_%(referred_table_name)s",
            "pk": "pk_%(table_name)s",
        }
    )
    type_annotation_map = {datetime: Instant, dict[str, Any]: JSON, list[Any]: JSON, str: Text}  # noqa: RUF012


class Setting(Base):
    """Something that an administrator has set for the whole server."""

    __tablename__ = "settings"

    name: Mapped[str] = mapped_column(primary_key=True)
    value: Mapped[str]
