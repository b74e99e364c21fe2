"""units that a person likes to work in.

Revision ID: 0002
Revises: 0001
"""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"


def upgrade() -> None:
    op.add_column("person", sa.Column("units", sa.String(length=200, collation="utf8mb4_bin"), nullable=True))
