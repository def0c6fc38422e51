"""What a page asks for first, named in the page itself: it is on its way while the page's code still is.

Links of HTML's `preload` (WHATWG HTML, section 4.6.8.16); nothing of them is more than a hint.
"""

import re

from sqlalchemy import Engine
from sqlalchemy.exc import SQLAlchemyError
from sqlmodel import Session

from rundgang.store.repository import Repository

ON_EVERY_PAGE = ("/api/plant", "/api/window", "/api/walk", "/api/units")
WALK = re.compile(r"walk/([a-z0-9][a-z0-9-]{0,39})(?:/.*)?")
PLAN = re.compile(r"plan(?:/([1-9]\d{0,8}))?")
LINE = re.compile(r"[a-z0-9][a-z0-9-]{0,39}")
ALL = "all"
PAST = "windows/"


def asked_first(engine: Engine, path: str, line: str | None) -> tuple[str, ...]:
    """What a page at a path asks for first; nothing where there is no plant yet, or of an earlier window.

    Parameters
    ----------
    line : str or None
        Which line the address names, or all of them.
    """
    if path.startswith(PAST) or _is_empty(engine):
        return ()
    if path == "walk" or path.startswith("walk/"):
        walked = WALK.fullmatch(path)
        return ("/api/units", f"/api/rounds?line={walked[1]}") if walked else ("/api/units",)
    plan = PLAN.fullmatch(path)
    if plan is None or line is None or not LINE.fullmatch(line):
        return ON_EVERY_PAGE
    version = f"/api/versions/{plan[1] or 'newest'}"
    return (*ON_EVERY_PAGE, version if line == ALL else f"{version}?line={line}")


def links(asked: tuple[str, ...]) -> str:
    """They as a browser fetches them ahead, the way the page will."""
    return "".join(f'<link rel="preload" as="fetch" crossorigin href="{path}">' for path in asked)


def _is_empty(engine: Engine) -> bool:
    """Whether there is no plant, as far as can be known."""
    try:
        with Session(engine) as session:
            return Repository(session).windows.is_empty()
    except SQLAlchemyError:
        return True
