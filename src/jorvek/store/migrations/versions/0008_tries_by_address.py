"""tries at a PIN are counted by person and address: nobody is locked out for what others do elsewhere.

Revision ID: 0008
Revises: 0007
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0008"
down_revision = "0007"


def upgrade() -> None:
    op.create_table(
        "pin_try",
        sa.Column("person_id", sa.String(36, collation="utf8mb4_bin"), nullable=False),
        sa.Column("address", sa.String(60, collation="utf8mb4_bin"), nullable=False),
        sa.Column("failures", sa.Integer(), nullable=False),
        sa.Column("locked_until", mysql.DATETIME(fsp=6), nullable=True),
        sa.Column("at", mysql.DATETIME(fsp=6), nullable=False),
        sa.PrimaryKeyConstraint("person_id", "address"),
        mysql_charset="utf8mb4",
        mysql_engine="InnoDB",
    )
    op.drop_column("person", "failures")
    op.drop_column("person", "locked_until")
