"""Kits: layers kept for other pictures."""

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"


def upgrade() -> None:
    """Add the table of kits."""
    op.create_table(
        "kit",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("name", sa.String, nullable=False),
        sa.Column("content", sa.String, nullable=False),
        sa.Column("at", sa.DateTime, nullable=False),
        sa.Column("removed_at", sa.DateTime),
    )
