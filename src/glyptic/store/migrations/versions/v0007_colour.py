"""Picture files: the space they open in, what their values mean, how many pictures they hold, and captions."""

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"
COLUMNS = (
    ("space", sa.String, "srgb"),
    ("profile", sa.String, ""),
    ("assumed", sa.Boolean, sa.false()),
    ("pages", sa.Integer, "1"),
    ("format", sa.String, ""),
    ("xmp", sa.LargeBinary, sa.text("x''")),
    ("iptc", sa.LargeBinary, sa.text("x''")),
)


def upgrade() -> None:
    """Add the columns; pictures that were opened before were all read into sRGB."""
    for name, kind, default in COLUMNS:
        op.add_column("asset", sa.Column(name, kind, nullable=False, server_default=default))
