"""What all tables share: names of constraints, and the columns that say whose a row is."""

from datetime import datetime
from typing import Annotated, Any

from sqlalchemy import BigInteger, DateTime, ForeignKey, Identity, Index, MetaData
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import DeclarativeBase, mapped_column

Id = Annotated[int, mapped_column(BigInteger, Identity(), primary_key=True)]
AgencyId = Annotated[int, mapped_column(BigInteger, ForeignKey("agencies.id"), index=True)]
ClientId = Annotated[int, mapped_column(BigInteger, ForeignKey("clients.id"), index=True)]
Instant = Annotated[datetime, mapped_column(DateTime(timezone=True))]
Json = Annotated[dict[str, Any], mapped_column(JSONB)]


class Base(DeclarativeBase):
    """All tables."""

    metadata = MetaData(
        naming_convention={
            "ix": "ix_%(table_name)s_%(column_0_N_name)s",
            "uq": "uq_%(table_name)s_%(column_0_N_name)s",
            "ck": "ck_%(table_name)s_%(constraint_name)s",
            "fk": "fk_%(table_name)s_%(column_0_name)s",
            "pk": "pk_%(table_name)s",
        }
    )


def parts_of(table: str, column: str) -> Index:
    """An index by which texts are found that hold a few letters anywhere, in any case (pg_trgm)."""
    return Index(f"ix_{table}_{column}_parts", column, postgresql_using="gin", postgresql_ops={column: "gin_trgm_ops"})
