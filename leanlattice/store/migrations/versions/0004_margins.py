"""What people keep of a project beside its statement lies with the project."""

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "margins",
        sa.Column(
            "project",
            sa.String,
            sa.ForeignKey("projects.id", ondelete="CASCADE"),
            primary_key=True,
        ),
        sa.Column("notes", sa.String, nullable=False),
    )


def downgrade() -> None:
    op.drop_table("margins")
