"""States of a project bear names and pictures."""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "named_states",
        sa.Column(
            "project",
            sa.String,
            sa.ForeignKey("projects.id", ondelete="CASCADE"),
            primary_key=True,
        ),
        sa.Column("head", sa.Integer, primary_key=True),
        sa.Column("name", sa.String, nullable=False),
        sa.Column("picture", sa.LargeBinary, nullable=True),
    )


def downgrade() -> None:
    op.drop_table("named_states")
