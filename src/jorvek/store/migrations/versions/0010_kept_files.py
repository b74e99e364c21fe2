"""photographs, plans under way and printed dossiers, where every server of a site reaches them.

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
