"""Connecting to the database, and bringing its tables up to date."""

from pathlib import Path

from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, create_engine

CONNECT_SECONDS = 5

STATEMENT_S = 20
"""A statement for a request is broken off after so long, also where it waits for another's lock."""

POOL, POOL_MORE, POOL_WAIT_S = 20, 20, 10
"""Connections that are kept, and more where they do not do; a request waits so long for one."""


def connect(url: str) -> Engine:
    """A pool of connections; each is tried before use, so a restarted server is no error."""
    return create_engine(_driven(url), pool_pre_ping=True, connect_args={"connect_timeout": CONNECT_SECONDS})


def connect_for_requests(url: str) -> Engine:
    """A pool as `connect` has it, for many who wait for answers: none holds it up for long."""
    limits = f"-c statement_timeout={STATEMENT_S}s"
    return create_engine(
        _driven(url),
        pool_pre_ping=True,
        pool_size=POOL,
        max_overflow=POOL_MORE,
        pool_timeout=POOL_WAIT_S,
        connect_args={"connect_timeout": CONNECT_SECONDS, "options": limits},
    )


def _driven(url: str) -> str:
    """The URL with the driver that is used."""
    plain = url.replace("postgres://", "postgresql://", 1)
    return plain.replace("postgresql://", "postgresql+psycopg://", 1)


def migrate(url: str, version: str = "head") -> None:
    """Bring the tables to a version, by default the newest, in one transaction."""
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).with_name("migrations")))
    engine = connect(url)
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, version)
    engine.dispose()
