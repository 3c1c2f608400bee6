"""Runs: work on many plates at once, and what became of each."""

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"


def upgrade() -> None:
    """Add the tables of runs."""
    op.create_table(
        "run",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("kind", sa.String, nullable=False),
        sa.Column("title", sa.String, nullable=False),
        sa.Column("settings", sa.String, nullable=False),
        sa.Column("state", sa.String, nullable=False),
        sa.Column("at", sa.DateTime, nullable=False),
        sa.Column("ended_at", sa.DateTime),
    )
    op.create_table(
        "run_item",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("run_id", sa.Integer, sa.ForeignKey("run.id"), nullable=False, index=True),
        sa.Column("plate_id", sa.Integer, nullable=False),
        sa.Column("plain", sa.String, nullable=False),
        sa.Column("state", sa.String, nullable=False),
        sa.Column("says", sa.String, nullable=False),
        sa.Column("made", sa.String, nullable=False),
        sa.Column("seconds", sa.Float, nullable=False),
    )
