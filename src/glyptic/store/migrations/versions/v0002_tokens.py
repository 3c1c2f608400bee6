"""A revision may carry the token of the stroke it kept, so that a stroke sent twice is kept once."""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"


def upgrade() -> None:
    """Add the token, one of its kind on each plate."""
    op.add_column("revision", sa.Column("token", sa.String(64)))
    op.create_index("ix_revision_token", "revision", ["plate_id", "token"], unique=True)
