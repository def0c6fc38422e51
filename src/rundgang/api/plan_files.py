"""The route of plans as files: CSV, workbook, calendar and JSON."""

from collections.abc import Callable
from typing import Literal

from fastapi import APIRouter, Response

from rundgang.api.deps import XLSX, LineQuery, Number, Store, made_for
from rundgang.api.versions import line_in
from rundgang.core.units import System
from rundgang.formats.documents import write
from rundgang.formats.plan_files import plan_calendar, plan_csv, plan_workbook

router = APIRouter(prefix="/api/versions")


@router.get("/{number}/plan.{form}", response_class=Response)
def plan_file(
    store: Store,
    number: Number,
    form: Literal["csv", "xlsx", "json", "ics"],
    line: LineQuery = None,
    units: System = "metric",
) -> Response:
    """A version as a file: all lines, or one; JSON is always metric."""
    version = store.plans.version(number)
    scenario = made_for(store, version.note)
    plans = [stored.plan for stored in version.plans] if line is None else [line_in(version, line)]
    made: dict[str, Callable[[], tuple[str | bytes, str]]] = {
        "csv": lambda: (plan_csv(scenario, plans, units), "text/csv; charset=utf-8"),
        "xlsx": lambda: (plan_workbook(scenario, plans, units), XLSX),
        "json": lambda: (write(version.plan.model_copy(update={"plans": tuple(plans)})), "application/json"),
        "ics": lambda: (
            plan_calendar(scenario, plans, number, version.note.created_at),
            "text/calendar; charset=utf-8",
        ),
    }
    body, media = made[form]()
    name = f"plan-{number}{f'-{line}' if line else ''}.{form}"
    return Response(body, media_type=media, headers={"Content-Disposition": f'attachment; filename="{name}"'})
