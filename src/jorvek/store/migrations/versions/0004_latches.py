"""locks on what more than one run shares.

Revision ID: 0004
Revises: 0003
"""

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"


def upgrade() -> None:
    op.create_table(
        "latch",
        sa.Column("name", sa.String(length=130, collation="utf8mb4_bin"), nullable=False),
        sa.Column("seq", sa.BigInteger(), nullable=False),
        sa.PrimaryKeyConstraint("name"),
        mysql_charset="utf8mb4",
        mysql_engine="InnoDB",
    )
