"""photographs, plans under way and printed dossiers where every server reaches them, and which servers are at work.

Revision ID: 0010
Revises: 0009
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0010"
down_revision = "0009"


def upgrade() -> None:
    op.create_table(
        "kept_file",
        sa.Column("name", sa.String(160, collation="utf8mb4_bin"), nullable=False),
        sa.Column("part", sa.Integer(), autoincrement=False, nullable=False),
        sa.Column("content", mysql.MEDIUMBLOB(), nullable=False),
        sa.PrimaryKeyConstraint("name", "part"),
        mysql_charset="utf8mb4",
        mysql_engine="InnoDB",
    )
    op.create_table(
        "serving",
        sa.Column("id", sa.String(36, collation="utf8mb4_bin"), nullable=False),
        sa.Column("host", sa.String(120, collation="utf8mb4_bin"), nullable=False),
        sa.Column("version", sa.String(20, collation="utf8mb4_bin"), nullable=False),
        sa.Column("seen_at", mysql.DATETIME(fsp=6), nullable=False),
        sa.PrimaryKeyConstraint("id"),
        mysql_charset="utf8mb4",
        mysql_engine="InnoDB",
    )
