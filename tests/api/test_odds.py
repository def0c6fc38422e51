"""A plan's odds by the API."""

import pytest
from fastapi.testclient import TestClient

from rundgang.core.simulation.line_odds import DAYS, QUANTILES


def test_a_plan_has_odds_for_all_that_its_lorries_are_owed(client: TestClient) -> None:
    plan = client.get("/api/plans/newest").json()
    odds = client.get(f"/api/odds/{plan['number']}").json()
    assert odds["line"] == plan["plan"]["line"]
    assert odds["days"] == DAYS
    short = {(one["wave"], one["product"]): (one["packs"], one["short"]) for one in plan["plan"]["waves"]}
    told = {
        (lorry["wave"], one["product"]): (one["packs"], one["planned_short"])
        for lorry in odds["lorries"]
        for one in lorry["products"]
    }
    assert told == short
    assert all(len(point["packs"]) == len(QUANTILES) for point in odds["curve"])
    assert client.get(f"/api/odds/{plan['number']}").json() == odds


@pytest.mark.parametrize(("number", "status"), [("9999", 404), ("0", 422), ("one", 422)])
def test_a_plan_that_is_not_there_is_said(client: TestClient, number: str, status: int) -> None:
    answer = client.get(f"/api/odds/{number}")
    assert answer.status_code == status
    assert answer.json()["title"]
