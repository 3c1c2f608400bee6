"""Proofs: states of a plate under a name, kept for ever."""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"


def upgrade() -> None:
    """Add the table of proofs."""
    op.create_table(
        "proof",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("plate_id", sa.Integer, sa.ForeignKey("plate.id"), nullable=False, index=True),
        sa.Column("root", sa.LargeBinary(16), nullable=False),
        sa.Column("name", sa.String, nullable=False),
        sa.Column("note", sa.String, nullable=False),
        sa.Column("token", sa.String(64)),
        sa.Column("at", sa.DateTime, nullable=False),
    )
