"""Assets, objects, plates and revisions."""

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None


def upgrade() -> None:
    """Make the first tables."""
    op.create_table(
        "asset",
        sa.Column("hash", sa.String(64), primary_key=True),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("width", sa.Integer(), nullable=False),
        sa.Column("height", sa.Integer(), nullable=False),
        sa.Column("depth", sa.Integer(), nullable=False),
        sa.Column("has_alpha", sa.Boolean(), nullable=False),
        sa.Column("exif", sa.LargeBinary(), nullable=False),
        sa.Column("notes", sa.String(), nullable=False),
    )
    op.create_table(
        "object",
        sa.Column("hash", sa.LargeBinary(16), primary_key=True),
        sa.Column("content", sa.LargeBinary(), nullable=False),
    )
    op.create_table(
        "plate",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("asset_hash", sa.String(64), sa.ForeignKey("asset.hash"), nullable=False),
        sa.Column("head_id", sa.Integer()),
        sa.Column("chosen", sa.String(), nullable=False),
        sa.Column("created_at", sa.DateTime(), nullable=False),
        sa.Column("worked_at", sa.DateTime(), nullable=False),
        sa.Column("removed_at", sa.DateTime()),
    )
    op.create_table(
        "revision",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("plate_id", sa.Integer(), sa.ForeignKey("plate.id"), nullable=False),
        sa.Column("parent_id", sa.Integer()),
        sa.Column("next_id", sa.Integer()),
        sa.Column("root", sa.LargeBinary(16), nullable=False),
        sa.Column("chosen", sa.String(), nullable=False),
        sa.Column("sentence", sa.String(), nullable=False),
        sa.Column("at", sa.DateTime(), nullable=False),
    )
    op.create_index("ix_revision_plate_id", "revision", ["plate_id"])
