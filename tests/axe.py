"""What axe-core finds on a page, by the rules of WCAG 2.2 A and AA."""

from pathlib import Path

from playwright.sync_api import Page, expect

AXE = Path(__file__).parents[1] / "web" / "node_modules" / "axe-core" / "axe.min.js"
RULES = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"]


def violations(page: Page, path: str) -> list[tuple[str, list[str]]]:
    """Each broken rule, with the first elements that break it."""
    page.goto(path)
    return violations_here(page)


def violations_here(page: Page) -> list[tuple[str, list[str]]]:
    """The same, of a page as it stands."""
    expect(page.locator("h1, h2").first).to_be_visible()
    expect(page.locator(".animate-pulse")).to_have_count(0)
    page.evaluate("document.fonts.ready")
    page.evaluate(AXE.read_text() + "; undefined")
    found = page.evaluate("rules => axe.run(document, {runOnly: rules})", RULES)
    return [(broken["id"], [node["html"][:160] for node in broken["nodes"][:3]]) for broken in found["violations"]]
