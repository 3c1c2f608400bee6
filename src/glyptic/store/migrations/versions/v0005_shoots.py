"""Shoots; a note and marks of each plate; when its picture was taken."""

import sqlalchemy as sa
from alembic import op

from glyptic.formats.exif import taken_at

revision = "0005"
down_revision = "0004"


def upgrade() -> None:
    """Add the table and the columns, and read from what is kept of each picture when it was taken."""
    op.create_table(
        "shoot",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("name", sa.String, nullable=False),
        sa.Column("at", sa.DateTime, nullable=False),
    )
    op.execute("ALTER TABLE plate ADD COLUMN shoot_id INTEGER REFERENCES shoot (id)")
    op.add_column("plate", sa.Column("note", sa.String, nullable=False, server_default=""))
    op.add_column("plate", sa.Column("marks", sa.Integer, nullable=False, server_default="0"))
    op.create_index("ix_plate_shoot_id", "plate", ["shoot_id"])
    op.add_column("asset", sa.Column("taken_at", sa.DateTime, nullable=True))
    columns = {"hash": sa.String, "exif": sa.LargeBinary, "taken_at": sa.DateTime}
    asset = sa.table("asset", *(sa.column(name, kind) for name, kind in columns.items()))
    connection = op.get_bind()
    for row in connection.execute(sa.select(asset.c.hash, asset.c.exif).where(sa.func.length(asset.c.exif) > 0)).all():
        at = taken_at(row.exif)
        if at is not None:
            connection.execute(sa.update(asset).where(asset.c.hash == row.hash).values(taken_at=at))
