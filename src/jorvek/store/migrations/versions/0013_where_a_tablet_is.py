"""when somebody signed in, and on which work a tablet was seen last.

Revision ID: 0013
Revises: 0012
"""

import sqlalchemy as sa
from alembic import op

from jorvek.store.tables import UtcDateTime

revision = "0013"
down_revision = "0012"


def upgrade() -> None:
    op.add_column("session", sa.Column("opened_at", UtcDateTime, nullable=True))
    op.add_column("tablet", sa.Column("run_id", sa.String(length=36, collation="utf8mb4_bin"), nullable=True))
