"""indexes by which the runs of an engine and of a procedure are found among those of years.

Revision ID: 0011
Revises: 0010
"""

from alembic import op

revision = "0011"
down_revision = "0010"


def upgrade() -> None:
    op.create_index("ix_run_engine_changed", "run", ["engine_id", "changed_at"])
    op.create_index("ix_run_procedure_started", "run", ["procedure_hash", "started_at"])
