"""language that a person likes to read.

Revision ID: 0012
Revises: 0011
"""

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"


def upgrade() -> None:
    op.add_column("person", sa.Column("language", sa.String(length=8, collation="utf8mb4_bin"), nullable=True))
