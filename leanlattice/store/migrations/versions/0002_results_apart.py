"""Results have a file of their own."""

from alembic import op

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.drop_table("results")


def downgrade() -> None:
    raise NotImplementedError("Results are in a file of their own from here on.")
