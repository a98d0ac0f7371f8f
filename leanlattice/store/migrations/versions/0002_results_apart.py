"""Results have a file of their own."""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.drop_table("results")


def downgrade() -> None:
    op.create_table(
        "results",
        sa.Column("key", sa.String, primary_key=True),
        sa.Column("outcome", sa.String, nullable=False),
        sa.Column("geometry", sa.LargeBinary, nullable=False),
        sa.Column("measures", sa.LargeBinary, nullable=False),
        sa.Column("size", sa.Integer, nullable=False),
        sa.Column("used", sa.Integer, nullable=False),
    )
    op.create_index("ix_results_used", "results", ["used"])
