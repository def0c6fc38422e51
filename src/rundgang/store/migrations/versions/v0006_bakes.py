"""The step of a route that bakes says so; it was the hottest before."""

import json
from typing import Any

import sqlalchemy as sa
from alembic import op

from rundgang.store.migrations.one_way import downgrade  # noqa: F401  (Alembic looks for it here)

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None


def upgrade() -> None:
    connection = op.get_bind()
    versions = connection.execute(sa.text("SELECT id, products FROM library_version")).all()
    for number, products in versions:
        said = json.dumps([_baking(product) for product in products])
        connection.execute(
            sa.text("UPDATE library_version SET products = CAST(:said AS jsonb) WHERE id = :number"),
            {"said": said, "number": number},
        )


def _baking(product: dict[str, Any]) -> dict[str, Any]:
    """A product whose hottest dwell bakes, or its last where none is hot; where nothing dwells nothing is lost."""
    dwelling = [step for step in product["route"] if "dwell_min" in step]
    hot = [step for step in dwelling if step.get("temperature_c")]
    if not hot and not product["bake_loss"]:
        return product
    hottest = max(hot, key=lambda step: float(step["temperature_c"])) if hot else next(reversed(dwelling), None)
    if hottest is None:
        dough_g = product["baked_g"] / (1 - product["bake_loss"])
        return product | {"baked_g": dough_g, "bake_loss": 0}
    baked = [step | {"bakes": True} if step is hottest else step for step in product["route"]]
    return product | {"route": baked}
