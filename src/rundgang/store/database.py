"""Connecting to the database, and bringing its tables up to date."""

from pathlib import Path

from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, create_engine

CONNECT_SECONDS = 5


def connect(url: str) -> Engine:
    """A pool of connections; each is tried before use, so a restarted server is no error."""
    plain = url.replace("postgres://", "postgresql://", 1)
    driver = plain.replace("postgresql://", "postgresql+psycopg://", 1)
    return create_engine(driver, pool_pre_ping=True, connect_args={"connect_timeout": CONNECT_SECONDS})


def migrate(url: str, version: str = "head") -> None:
    """Bring the tables to a version, by default the newest, in one transaction."""
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).with_name("migrations")))
    engine = connect(url)
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, version)
    engine.dispose()
