"""The library over the API: changes one by one or by file, checked as a whole, never half saved."""

from typing import Any

import pytest
from fastapi.testclient import TestClient
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from conftest import fitted

XLSX = {"Content-Type": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"}
JSON = {"Content-Type": "application/json"}


def product(client: TestClient, which: str = "lantern-plain") -> dict[str, Any]:
    library = client.get("/api/library").json()["library"]
    return next(made for made in library["products"] if made["id"] == which)


def change(client: TestClient, kind: str, name: str, data: object, based_on: int = 1) -> Any:
    return client.post("/api/library/change", json={"based_on": based_on, "kind": kind, "id": name, "data": data})


def test_a_change_is_a_new_version_and_makes_plans_stale(client: TestClient) -> None:
    made = product(client) | {"bake_loss": 0.13}
    answer = change(client, "products", "lantern-plain", made)
    assert answer.status_code == 201
    assert answer.json()["changes"] == ["products lantern-plain bake_loss: 0.125 → 0.13"]
    assert answer.json()["note"]["number"] == 2
    assert client.get("/api/plans/1").json()["stale"] is True
    day = client.get("/api/window").json()
    assert (day["library"], day["plans"][0]["stale"]) == (2, True)
    assert client.get("/api/plans/1/cards").status_code == 200, "an old plan keeps the data it was made for"
    replanned = fitted(client, "ring-line")
    assert (replanned["library"], replanned["stale"], replanned["violations"]) == (2, False, [])


def test_two_people_do_not_overwrite_each_other(client: TestClient) -> None:
    made = product(client)
    assert change(client, "products", made["id"], made | {"name": "First"}).status_code == 201
    late = change(client, "products", made["id"], made | {"name": "Second"})
    assert late.status_code == 409
    assert "Somebody saved version 2 meanwhile" in late.json()["title"]
    assert product(client)["name"] == "First"


@pytest.mark.parametrize(
    ("update", "words"),
    [
        ({"baked_g": -4}, "products.0 (lantern-plain).baked_g: Input should be greater than or equal to 0.1; found -4"),
        ({"bake_loss": 1.3}, "bake_loss"),
        ({"formula": []}, "a product without a formula, cut out of another's dough, has none"),
        ({"route": []}, "route"),
        ({"line": "moon"}, "products.0 (lantern-plain).line is moon; allowed: ring-line"),
        ({"pieces_per_pack": 7}, "pieces_per_pack is 7, but the route packs 5 to one"),
        ({"colour": "brown"}, "Extra inputs are not permitted"),
    ],
)
def test_what_cannot_be_is_refused_with_field_value_and_range(
    client: TestClient, update: dict[str, object], words: str
) -> None:
    answer = change(client, "products", "lantern-plain", product(client) | update)
    assert answer.status_code == 422
    assert any(words in fault for fault in answer.json()["faults"]), answer.json()
    assert client.get("/api/window").json()["library"] == 1


@pytest.mark.parametrize(
    ("step", "update", "words"),
    [
        (4, {"dwell_min": 0}, "dwell_min: Input should be greater than or equal to 0.01; found 0"),
        (4, {"station": "press"}, "which Ring line does not have; allowed: mixers, divider"),
        (0, {"max_age_min": 2}, "max_age_min is 2; allowed: above rest_min, 4"),
        (4, {"station": "proofer"}, "passes proofer twice; allowed: each station once"),
        (3, {"humidity_pct": 130}, "humidity_pct: Input should be less than or equal to 100; found 130"),
        (1, {"yield": -1}, "yield"),
    ],
)
def test_a_route_that_cannot_be_is_refused(
    client: TestClient, step: int, update: dict[str, object], words: str
) -> None:
    made = product(client)
    made["route"][step] |= update
    answer = change(client, "products", "lantern-plain", made)
    assert answer.status_code == 422
    assert any(words in fault for fault in answer.json()["faults"]), answer.json()


def test_what_orders_need_cannot_be_taken_away(client: TestClient) -> None:
    answer = change(client, "products", "lantern-plain", None)
    assert answer.status_code == 422
    assert "orders.0 (4101).product is lantern-plain" in answer.json()["faults"][0]
    assert change(client, "ingredients", "water", None).status_code == 422


def test_things_are_added_and_taken_away(client: TestClient) -> None:
    made = product(client) | {"id": "lantern-dark", "name": "Lantern Dark"}
    assert change(client, "products", "lantern-dark", made).json()["changes"] == ["products lantern-dark is new"]
    gone = change(client, "products", "lantern-dark", None, based_on=2).json()
    assert gone["changes"] == ["products lantern-dark is gone"]
    notes = client.get("/api/library/versions").json()
    assert [note["number"] for note in notes] == [3, 2, 1]
    back = client.post("/api/library/versions/2/restore").json()
    assert back["note"]["number"] == 4
    assert product(client, "lantern-dark")["name"] == "Lantern Dark"
    assert client.post("/api/library/versions/99/restore").status_code == 404


@pytest.mark.parametrize(("path", "headers"), [("file.json", JSON), ("file.xlsx", XLSX)])
def test_a_file_is_read_first_and_taken_when_asked(client: TestClient, path: str, headers: dict[str, str]) -> None:
    file = client.get(f"/api/library/{path}")
    assert "attachment" in file.headers["content-disposition"]
    change(client, "products", "lantern-plain", product(client) | {"target_per_hour": 8_500})
    read = client.post("/api/library/file", content=file.content, headers=headers).json()
    assert read == {"changes": ["products lantern-plain target_per_hour: 8500 → 9000"], "note": None}
    assert client.get("/api/window").json()["library"] == 2, "nothing is taken by reading"
    taken = client.post("/api/library/file?take=true&name=mine", content=file.content, headers=headers).json()
    assert taken["note"]["origin"] == "file mine"
    assert product(client)["target_per_hour"] == 9_000
    again = client.post("/api/library/file?take=true", content=file.content, headers=headers).json()
    assert again == {"changes": [], "note": None}, "a file that changes nothing is no new version"


def test_a_file_of_another_kind_is_refused(client: TestClient) -> None:
    answer = client.post("/api/library/file", content=b"a,b", headers={"Content-Type": "text/csv"})
    assert answer.status_code == 415
    assert client.post("/api/library/file", content=b"a,b", headers=XLSX).status_code == 422


@pytest.mark.parametrize("name", ["Ring\x15line", "Ring\x00line", "Ring\nline", "Ring\ufffeline"])
def test_a_name_that_no_page_and_no_workbook_can_show_is_refused(client: TestClient, name: str) -> None:
    day, library = client.get("/api/window").json(), client.get("/api/library").json()["library"]
    line = library["plant"]["lines"][0] | {"name": name}
    answer = change(client, "lines", line["id"], line, based_on=day["library"])
    assert answer.status_code == 422
    assert "can be written" in answer.text
    assert client.get("/api/library/file.xlsx").status_code == 200


@pytest.mark.parametrize("name", ["Ring\u00a0line", "Ring\u00adlinie", "Größe 4 ½", "リング"])
def test_a_name_as_people_paste_it_is_taken_and_comes_out_again(client: TestClient, name: str) -> None:
    day, library = client.get("/api/window").json(), client.get("/api/library").json()["library"]
    line = library["plant"]["lines"][0] | {"name": name}
    assert change(client, "lines", line["id"], line, based_on=day["library"]).status_code == 201
    assert client.get("/api/window").json()["lines"][0]["name"] == name
    assert client.get("/api/library/file.xlsx").status_code == 200


anything = st.recursive(
    st.none() | st.booleans() | st.integers(-10, 10**12) | st.floats(allow_nan=False, allow_infinity=False) | st.text(),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.text(max_size=8), inner, max_size=3),
    max_leaves=6,
)


@settings(max_examples=80, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(data=st.data(), value=anything)
def test_random_bad_values_are_refused_and_nothing_is_a_500(
    client: TestClient, data: st.DataObject, value: object
) -> None:
    """Any field anywhere in a product or a line replaced by anything: refused or taken, never an error."""
    newest = client.get("/api/window").json()["library"]
    library = client.get("/api/library").json()["library"]
    kind, thing = data.draw(
        st.sampled_from([("products", library["products"][0]), ("lines", library["plant"]["lines"][0])])
    )
    name, here = thing["id"], thing
    while True:
        keys = list(here) if isinstance(here, dict) else list(range(len(here)))
        key = data.draw(st.sampled_from(keys))
        if isinstance(here[key], dict | list) and here[key] and data.draw(st.booleans()):
            here = here[key]
            continue
        here[key] = value
        break
    answer = change(client, kind, name, thing, based_on=newest)
    assert answer.status_code in {201, 422}
    paths = ("/api/window", "/api/library", "/api/plans/1", "/api/materials", "/api/library/file.xlsx")
    assert all(client.get(path).status_code == 200 for path in paths)
    for made in client.get("/api/window").json()["products"]:
        reply = client.post(f"/api/lines/{made['line']}/balance/{made['id']}", json={})
        assert reply.status_code in {200, 422}
        assert client.get(f"/api/products/{made['id']}/calculators").status_code in {200, 422}


def test_schemas_and_materials_are_served(client: TestClient) -> None:
    schemas = client.get("/api/library/schemas").json()
    assert set(schemas) == {"ingredients", "lines", "preparations", "products"}
    drawn = {item["item"]: item for item in client.get("/api/materials").json()}
    assert drawn["flour-mill"]["used"] > 1_000
    assert drawn["flour-mill"]["runs_out"] is None
