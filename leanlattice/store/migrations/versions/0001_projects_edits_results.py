"""Projects, their edits and copies, and results."""

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "projects",
        sa.Column("id", sa.String, primary_key=True),
        sa.Column("name", sa.String, nullable=False),
        sa.Column("created", sa.String, nullable=False),
        sa.Column("changed", sa.String, nullable=False),
        sa.Column("removed", sa.String),
        sa.Column("demo", sa.String),
        sa.Column("head", sa.Integer, nullable=False),
        sa.Column("figures", sa.String, nullable=False),
        sa.Column("picture", sa.LargeBinary),
    )
    op.create_table(
        "edits",
        sa.Column("id", sa.Integer, primary_key=True, autoincrement=True),
        sa.Column(
            "project", sa.String, sa.ForeignKey("projects.id", ondelete="CASCADE"), nullable=False
        ),
        sa.Column("parent", sa.Integer, nullable=False),
        sa.Column("edit", sa.String, nullable=False),
        sa.Column("inverse", sa.String, nullable=False),
        sa.Column("created", sa.String, nullable=False),
    )
    op.create_index("edits_by_parent", "edits", ["project", "parent"])
    op.create_table(
        "copies",
        sa.Column(
            "project", sa.String, sa.ForeignKey("projects.id", ondelete="CASCADE"), primary_key=True
        ),
        sa.Column("after", sa.Integer, primary_key=True),
        sa.Column("statement", sa.String, nullable=False),
    )
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


def downgrade() -> None:
    for table in ("results", "copies", "edits", "projects"):
        op.drop_table(table)
