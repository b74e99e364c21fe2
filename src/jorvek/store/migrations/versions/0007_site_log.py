"""the site log: what is to be taken in, its entries, the signed roots over them, and the keys that signed.

Revision ID: 0007
Revises: 0006
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0007"
down_revision = "0006"

_BIN = "utf8mb4_bin"


def upgrade() -> None:
    op.create_table(
        "site_pending",
        sa.Column("id", sa.BigInteger(), autoincrement=True, nullable=False),
        sa.Column("kind", sa.String(30, collation=_BIN), nullable=False),
        sa.Column("name", sa.String(160, collation=_BIN), nullable=False),
        sa.Column("digest", sa.String(64, collation=_BIN), nullable=False),
        sa.Column("vouched", sa.String(64, collation=_BIN), nullable=False),
        sa.PrimaryKeyConstraint("id"),
        mysql_charset="utf8mb4",
        mysql_engine="InnoDB",
    )
    op.create_table(
        "site_entry",
        sa.Column("place", sa.BigInteger(), autoincrement=False, nullable=False),
        sa.Column("kind", sa.String(30, collation=_BIN), nullable=False),
        sa.Column("name", sa.String(160, collation=_BIN), nullable=False),
        sa.Column("seq", sa.Integer(), nullable=True),
        sa.Column("body", mysql.LONGTEXT(charset="utf8mb4", collation=_BIN), nullable=False),
        sa.PrimaryKeyConstraint("place"),
        mysql_charset="utf8mb4",
        mysql_engine="InnoDB",
    )
    op.create_index("ix_site_entry_kind_name", "site_entry", ["kind", "name", "seq"])
    op.create_table(
        "site_root",
        sa.Column("size", sa.BigInteger(), autoincrement=False, nullable=False),
        sa.Column("body", mysql.LONGTEXT(charset="utf8mb4", collation=_BIN), nullable=False),
        sa.Column("signature", sa.String(128, collation=_BIN), nullable=False),
        sa.Column("parts", mysql.LONGTEXT(charset="utf8mb4", collation=_BIN), nullable=False),
        sa.PrimaryKeyConstraint("size"),
        mysql_charset="utf8mb4",
        mysql_engine="InnoDB",
    )
    op.create_table(
        "site_key",
        sa.Column("id", sa.String(16, collation=_BIN), nullable=False),
        sa.Column("public_key", sa.String(64, collation=_BIN), nullable=False),
        sa.PrimaryKeyConstraint("id"),
        mysql_charset="utf8mb4",
        mysql_engine="InnoDB",
    )
