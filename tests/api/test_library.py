"""The library over the API: changes one by one or by file, checked as a whole, never half saved."""

from concurrent.futures import ThreadPoolExecutor
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
    edits = [{"kind": kind, "id": name, "data": data}]
    return client.post("/api/library/change", json={"based_on": based_on, "edits": edits})


def test_a_change_is_a_new_version_and_makes_plans_stale(client: TestClient) -> None:
    made = product(client) | {"bake_loss": 0.13}
    answer = change(client, "products", "lantern-plain", made)
    assert answer.status_code == 201
    assert answer.json()["changes"] == ["Lantern Plain, Lost in baking: 12.5 % → 13 %"]
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
    assert late.json()["faults"] == ["First, Name: Lantern Plain → First"], "what the first one changed"
    assert product(client)["name"] == "First"


@pytest.mark.parametrize(
    ("update", "words"),
    [
        ({"baked_g": -4}, "Lantern Plain, Baked piece: is -4; allowed: at least 0.1"),
        ({"bake_loss": 1.3}, "Lantern Plain, Lost in baking: is 1.3; allowed: less than 0.6"),
        ({"formula": []}, "a product without a formula, cut out of another's dough, has none"),
        ({"route": []}, "Lantern Plain, Its way along the line: too short; allowed: at least 1"),
        ({"line": "moon"}, "Lantern Plain, Made on: is moon; allowed: Ring line"),
        ({"pieces_per_pack": 7}, "Lantern Plain: “pieces in a pack” is 7, but the route packs 5 to one"),
        ({"colour": "brown"}, "Lantern Plain: is not known here"),
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
        (4, {"dwell_min": 0}, "Lantern Plain, Steam oven, Stays: is 0; allowed: at least 0.01"),
        (4, {"station": "press"}, "which Ring line does not have; allowed: Mixers, Divider"),
        (0, {"max_age_min": 2}, "“used up within” is 2; allowed: above “rests at least”, 4"),
        (4, {"station": "proofer"}, "passes Proofer twice; allowed: each station once"),
        (3, {"humidity_pct": 130}, "Lantern Plain, Proofer, Humidity: is 130; allowed: at most 100"),
        (1, {"yield": -1}, "Lantern Plain, Divider, Good pieces: is -1; allowed: at least 0.01"),
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
    assert "Order 4101 is for lantern-plain, which would not be there" in answer.json()["faults"][0]
    assert change(client, "ingredients", "water", None).status_code == 422


def test_things_are_added_and_taken_away(client: TestClient) -> None:
    made = product(client) | {"id": "lantern-dark", "name": "Lantern Dark"}
    assert change(client, "products", "lantern-dark", made).json()["changes"] == ["Lantern Dark is new"]
    gone = change(client, "products", "lantern-dark", None, based_on=2).json()
    assert gone["changes"] == ["Lantern Dark is gone"]
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
    assert read == {"changes": ["Lantern Plain, Wanted from the line: 8,500 an hour → 9,000 an hour"], "note": None}
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
    assert set(schemas) == {"plant", "ingredients", "lines", "preparations", "products"}
    drawn = {item["item"]: item for item in client.get("/api/materials").json()}
    assert drawn["flour-mill"]["used"] > 1_000
    assert drawn["flour-mill"]["runs_out"] is None


def tried(client: TestClient, kind: str, data: dict[str, Any], show: str = "lantern-plain") -> Any:
    body = {"edits": [{"kind": kind, "id": data["id"], "data": data}], "product": show}
    answer = client.post("/api/library/try", json=body)
    assert answer.status_code == 200, answer.text
    return answer.json()


def test_a_longer_bake_is_tried_on_the_line_and_in_the_plan_before_it_is_saved(client: TestClient) -> None:
    """The belt of C places carries 60 C / d: at 16 min for 14 the oven carries 14/16 of what it did (Little 1961)."""
    made = product(client)
    oven = next(step for step in made["route"] if step["station"] == "oven")
    was_min, oven["dwell_min"] = oven["dwell_min"], oven["dwell_min"] * 8 / 7
    found = tried(client, "products", made)
    was, now = (
        next(stage for stage in found[which]["balance"]["stages"] if stage["station"] == "oven")
        for which in ("was", "now")
    )
    assert now["capacity_per_h"] == pytest.approx(was["capacity_per_h"] * 7 / 8)
    assert found["faults"] == []
    (line,) = found["plan"]
    stay = next(one for one in line["stays"] if one["station"] == "oven")
    assert (stay["product"], stay["was_min"], stay["now_min"]) == ("lantern-plain", was_min, oven["dwell_min"])
    plan = client.get("/api/versions/newest").json()["plans"][0]["plan"]
    assert set(stay["runs"]) == {run["id"] for run in plan["runs"] if run["product"] == "lantern-plain"}
    first = next(run for run in line["runs"] if run["run"] == stay["runs"][0])
    assert first["now_last_pack_min"] - first["was_last_pack_min"] >= was_min / 7 - 1e-6, (
        "at least so much longer inside"
    )
    assert line["breaks"], "the plan as it stands takes the pieces out too early"
    assert client.get("/api/window").json()["library"] == 1, "nothing is saved by trying"


def test_what_is_tried_and_cannot_be_names_the_thing(client: TestClient) -> None:
    found = tried(client, "products", product(client) | {"bake_loss": 2})
    assert found["faults"] == [
        {
            "kind": "products",
            "id": "lantern-plain",
            "says": "Lantern Plain, Lost in baking: is 2; allowed: less than 0.6",
        }
    ]
    assert (found["now"], found["plan"]) == (None, [])


def test_a_plan_for_other_data_is_not_compared(client: TestClient) -> None:
    made = product(client) | {"fresh_for_h": 30}
    assert change(client, "products", made["id"], made).status_code == 201
    found = tried(client, "products", made | {"bake_loss": 0.14})
    assert (found["version"], found["plan"]) == (None, [])


def test_a_product_taken_off_its_line_leaves_the_plan(client: TestClient) -> None:
    library = client.get("/api/library").json()["library"]
    orders = [order for order in client.get("/api/orders").json()["orders"] if order["product"] == "pear-cardamom"]
    gone = client.post(
        "/api/library/try", json={"edits": [{"kind": "products", "id": "pear-cardamom", "data": None}]}
    ).json()
    assert len(library["products"]) == 3
    assert len(gone["faults"]) == len(orders) > 0
    assert all("Order " in fault["says"] for fault in gone["faults"])


def test_several_things_are_saved_at_once_or_not_at_all(client: TestClient) -> None:
    line = client.get("/api/library").json()["library"]["plant"]["lines"][0]
    edits = [
        {"kind": "lines", "id": line["id"], "data": line | {"name": "Great ring line"}},
        {"kind": "products", "id": "lantern-plain", "data": product(client) | {"bake_loss": 2}},
    ]
    assert client.post("/api/library/change", json={"based_on": 1, "edits": edits}).status_code == 422
    assert client.get("/api/window").json()["lines"][0]["name"] == line["name"]
    edits[1]["data"] = product(client) | {"bake_loss": 0.13}
    edits.append({"kind": "plant", "id": "plant", "data": {"name": "Ostermere South"}})
    done = client.post("/api/library/change", json={"based_on": 1, "edits": edits}).json()
    assert done["note"]["origin"] == "Great ring line changed, Lantern Plain changed, Ostermere Rings changed"
    assert client.get("/api/window").json()["plant"] == "Ostermere South"


def test_every_field_of_every_form_has_words(client: TestClient) -> None:
    """Nothing of the code's vocabulary reaches a person: what a form shows has a name, and what it picks has too."""
    for kind, schema in client.get("/api/library/schemas").json().items():
        for owner, part in ((kind, schema), *schema.get("$defs", {}).items()):
            for field, inside in part.get("properties", {}).items():
                if field not in {"id", "kind"}:
                    words = inside["words"]
                    assert words["name"][0].isupper(), (owner, field)
                    assert "_" not in words["name"] + words["help"]
                    assert set(inside.get("enum", ())) <= set(words["choices"]), (owner, field)


def test_a_station_begins_with_usual_figures_of_its_kind(client: TestClient) -> None:
    starters, kinds = client.get("/api/library/starters").json(), client.get("/api/library/kinds").json()
    assert set(starters) == set(kinds) == {"batch", "held", "rate", "conveyor", "chamber", "load", "bench"}
    line = client.get("/api/library").json()["library"]["plant"]["lines"][0]
    for kind, starter in starters.items():
        own = {"mixers": ["Mixer Rowan"]} if kind == "batch" else {}
        new = starter["station"] | {"id": "new", "name": f"A {kind}"} | own
        place = 1 if kind == "batch" else len(line["stations"])
        more = line | {"stations": [*line["stations"][:place], new, *line["stations"][place:]]}
        assert tried(client, "lines", more)["faults"] == []


def with_calendar(client: TestClient, **parts: Any) -> None:
    """Keep a calendar that has these parts besides."""
    view = client.get("/api/calendar").json()
    body = {"calendar": view["calendar"] | parts, "seen": view["number"]}
    answer = client.post("/api/calendar", json=body)
    assert answer.status_code == 201, answer.text


CLOSED = {"id": "washed", "line": "ring-line", "station": "spare", "kind": "cleaning", "begins": "15:00",
          "minutes": 30, "reason": "washed"}  # fmt: skip


def test_a_station_that_the_calendar_closes_is_not_taken_away(client: TestClient) -> None:
    """Otherwise the plant could not be taken out any more, nor the calendar be kept."""
    line = client.get("/api/library").json()["library"]["plant"]["lines"][0]
    spare = line["stations"][-1] | {"id": "spare", "name": "Spare table"}
    more = line | {"stations": [*line["stations"], spare]}
    assert change(client, "lines", line["id"], more).status_code == 201
    with_calendar(client, closings=[CLOSED])
    assert [fault["says"] for fault in tried(client, "lines", line)["faults"]] == [
        "washed: closes spare of Ring line; allowed: a station of a line"
    ]
    assert change(client, "lines", line["id"], line, based_on=2).status_code == 422
    assert client.get("/api/plant/file.json").status_code == 200


def test_a_crew_keeps_the_people_of_its_shifts(client: TestClient) -> None:
    plant = client.get("/api/library").json()["library"]["plant"]
    crew = {"id": "loaders", "name": "Loaders", "people": 6}
    assert change(client, "plant", "plant", {"crews": [*plant["crews"], crew]}).status_code == 201
    shift = {"id": "early", "crew": "loaders", "begins": "06:00", "minutes": 480, "people": 6}
    with_calendar(client, shifts=[shift])
    fewer = [*plant["crews"], crew | {"people": 4}]
    answer = change(client, "plant", "plant", {"crews": fewer}, based_on=2)
    assert answer.status_code == 422
    assert "6 of Loaders; allowed: at most 4" in answer.text
    gone = change(client, "plant", "plant", {"crews": plant["crews"]}, based_on=2)
    assert "shift at 06:00: is of loaders" in gone.text
    more = [*plant["crews"], crew | {"people": 9}]
    assert change(client, "plant", "plant", {"crews": more}, based_on=2).status_code == 201
    assert client.get("/api/plant/file.json").status_code == 200
    assert client.post("/api/library/versions/1/restore").status_code == 422, "an earlier one is checked as well"


def test_a_product_that_comes_every_week_is_not_taken_away(client: TestClient) -> None:
    lorry = {"id": "coast", "name": "Coast", "leaves": "05:00", "valid_from": "2030-01-07"}
    new = product(client) | {"id": "weekly", "name": "Weekly Ring"}
    assert change(client, "products", "weekly", new).status_code == 201
    standing = {"number": "so-9", "lorry": "coast", "product": "weekly", "packs": 10, "weekdays": [0],
                "valid_from": "2030-01-07"}  # fmt: skip
    with_calendar(client, lorries=[lorry], standing=[standing])
    answer = change(client, "products", "weekly", None, based_on=2)
    assert answer.status_code == 422
    assert "standing order so-9 is for" in answer.text


def test_of_two_who_save_at_the_same_moment_one_is_told(client: TestClient) -> None:
    """Eight threads, all on version 1: one is saved, and the others keep what they typed."""
    made = product(client)

    def save(number: int) -> int:
        return int(change(client, "products", made["id"], made | {"price": number}).status_code)

    with ThreadPoolExecutor(8) as threads:
        answers = sorted(threads.map(save, range(1, 9)))
    assert answers == [201] + [409] * 7
    assert len(client.get("/api/library/versions").json()) == 2
    assert product(client)["price"] in range(1, 9)


def test_a_name_that_cannot_be_a_key_is_refused(client: TestClient) -> None:
    answer = change(client, "products", "lantern-plain", product(client) | {"id": ":"})
    assert answer.status_code == 422
    assert tried(client, "products", product(client) | {"id": ":"})["faults"]
