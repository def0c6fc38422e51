"""How the built web client is handed out."""

import re

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient

from rundgang.api.app import create_app
from rundgang.settings import Settings
from rundgang.store.cluster import Urls


@pytest.mark.parametrize("path", ["/", "/plan/1?run=R2", "/dough/1/R1/3", "/anything/else"])
def test_every_deep_link_gets_the_page_with_its_nonce(client: TestClient, path: str) -> None:
    answer = client.get(path)
    assert answer.status_code == 200
    in_header = re.search(r"'nonce-([\w-]+)'", answer.headers["content-security-policy"])
    assert in_header
    assert f'content="{in_header.group(1)}"' in answer.text
    assert answer.headers["cache-control"] == "no-cache"
    assert client.get(path).text != answer.text, "a nonce is used once"


def ahead(client: TestClient, path: str) -> list[str]:
    """What a page names as asked for first; all of it is there."""
    named = re.findall(r'<link rel="preload" as="fetch" crossorigin href="([^"]+)">', client.get(path).text)
    assert all(client.get(name).status_code == 200 for name in named)
    return named


def test_a_page_names_what_it_asks_for_first(client: TestClient) -> None:
    every = ["/api/plant", "/api/window", "/api/walk", "/api/units"]
    assert ahead(client, "/orders") == every
    assert ahead(client, "/plan?line=ring-line") == [*every, "/api/versions/newest?line=ring-line"]
    assert ahead(client, "/plan/1?line=all") == [*every, "/api/versions/1"]
    assert ahead(client, '/plan?line="><script>') == every
    assert ahead(client, "/windows/1/plan") == [], "an earlier window is asked for in another way"


def test_an_empty_rundgang_names_nothing(empty: FastAPI) -> None:
    assert ahead(TestClient(empty), "/plan?line=ring-line") == []


def test_assets_are_kept_for_ever_and_the_page_names_them(client: TestClient) -> None:
    names = re.findall(r'(?:src|href)="(/assets/[^"]+)"', client.get("/").text)
    assert len(names) >= 2
    for name in names:
        answer = client.get(name)
        assert answer.status_code == 200
        assert "immutable" in answer.headers["cache-control"]
        assert answer.headers["x-content-type-options"] == "nosniff"


def test_the_page_loads_nothing_from_elsewhere(client: TestClient) -> None:
    page = client.get("/").text
    styles = [client.get(name).text for name in re.findall(r'href="(/assets/[^"]+\.css)"', page)]
    assert not re.findall(r'(?:src|href)="(?:https?:)?//', page)
    assert styles
    assert not any(re.findall(r"url\((?:https?:)?//", style) for style in styles)


@pytest.mark.parametrize("path", ["/assets/../../pyproject.toml", "/assets/%2e%2e/%2e%2e/pyproject.toml"])
def test_nothing_outside_the_assets_is_handed_out(client: TestClient, path: str) -> None:
    assert "[project]" not in client.get(path).text


def test_without_a_build_the_answer_says_what_to_do(urls: Urls, tmp_path_factory: pytest.TempPathFactory) -> None:
    empty = Settings(hosts=["testserver"], web=tmp_path_factory.mktemp("web"))
    app: FastAPI = create_app(urls.app, empty)
    answer = TestClient(app).get("/plan")
    assert answer.status_code == 503
    assert "script/setup" in answer.json()["title"]
    assert TestClient(app).get("/api/health").status_code == 200
    app.state.engine.dispose()
