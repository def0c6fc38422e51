"""Words that are not spoken in the trade stay out of what people see: pages, messages, exports and the README.

Not out of the code: what is looked at are the texts in it, without docstrings and comments.
"""

import ast
import re
from collections.abc import Iterator
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]

RETIRED = {
    r"\breckon": "calculate",
    r"\bnarrowest\b": "bottleneck",
    r"\bcures?\b": "fix",
    r"\btake (it|them) away\b": "delete",
    r"\btake it in\b": "add",
    r"\btake none\b": "cancel",
    r"\bbring (orders|stock|it|a plant|a library) in\b": "import",
    r"\b(bring|brings|brought)( [a-z]+){0,3} back\b": "restore",
    r"\bin place of the day": "replace all orders",
    r"\blet go\b": "unpin",
    r"\bhold this beside\b": "compare",
    r"\bwhat differs\b": "compare",
    r"\bdough wanted\b": "target dough temperature",
    r"\bboth schools\b": "both methods",
    r"\ball in by\b": "use by",
    r"\bthrown away\b": "wasted",
    r"\boven hot, empty\b": "oven idle",
    r"\bodd last\b": "last batch",
    r"\bthe floor works by\b": "live on the floor",
    r"\bdoes not hold together\b": "is not valid",
    r"\bfetching\b": "loading",
    r"\bask again\b": "retry",
    r"\bno plan (is )?under\b": "best possible ... or more",
}
"""What was said before, and what is said now."""

QUOTED = re.compile(r"\"([^\"\n]*)\"|`([^`]*)`|>([^<>{}]+)<|^\s+([A-Z][^<>{};=]+)$", re.MULTILINE)
COMMENT = re.compile(r"/\*.*?\*/|^\s*//[^\n]*$|^import [^\n]*$", re.DOTALL | re.MULTILINE)


def of_page(path: Path) -> Iterator[str]:
    """The texts of a page's source."""
    for found in QUOTED.finditer(COMMENT.sub("", path.read_text())):
        text = next(group for group in found.groups() if group is not None)
        yield re.sub(r"\$\{[^}]*\}", "", text)


def of_program(path: Path) -> Iterator[str]:
    """The texts of a Python file that are no docstrings."""
    tree = ast.parse(path.read_text())
    silent = {
        id(node.value) for node in ast.walk(tree) if isinstance(node, ast.Expr) and isinstance(node.value, ast.Constant)
    }
    for node in ast.walk(tree):
        if isinstance(node, ast.Constant) and isinstance(node.value, str) and id(node) not in silent:
            yield node.value


def texts() -> Iterator[tuple[Path, str]]:
    for path in sorted((ROOT / "web" / "src").rglob("*.ts*")):
        if path.name != "schema.d.ts":
            yield from ((path, text) for text in of_page(path))
    for path in sorted((ROOT / "src" / "rundgang").rglob("*.py")):
        if "migrations" not in path.parts:
            yield from ((path, text) for text in of_program(path))
    for path in (ROOT / "README.md", ROOT / "src" / "rundgang" / "formats" / "library_words.toml"):
        yield from ((path, line) for line in path.read_text().splitlines())


def test_there_are_texts_to_look_at() -> None:
    found = list(texts())
    assert any(text.strip() == "Import orders" for _, text in found)
    assert any("Nothing was changed" in text for _, text in found)


@pytest.mark.parametrize(("word", "instead"), RETIRED.items())
def test_a_retired_word_is_nowhere(word: str, instead: str) -> None:
    pattern = re.compile(word, re.IGNORECASE)
    found = [f"{path.relative_to(ROOT)}: {text.strip()[:90]}" for path, text in texts() if pattern.search(text)]
    assert found == [], f"say {instead}"
