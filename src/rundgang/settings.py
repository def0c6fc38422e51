"""Settings, from the environment."""

from pathlib import Path

from pydantic import AwareDatetime, Field
from pydantic_settings import BaseSettings, SettingsConfigDict

from rundgang.clock import Clock

ROOT = Path(__file__).resolve().parents[2]


class Settings(BaseSettings):
    """What a deployment can set.

    Attributes
    ----------
    database_url : str or None
        Where the data are (`DATABASE_URL`). Without it a private PostgreSQL is started in `home`.
    migration_database_url : str or None
        The same database for the role that owns the tables (`MIGRATION_DATABASE_URL`); by default the
        application's own.
    home : Path
        Where the private PostgreSQL lives (`RUNDGANG_HOME`).
    web : Path
        The built web client (`RUNDGANG_WEB`).
    hosts : list of str
        Host names under which the application answers (`RUNDGANG_HOSTS`, a JSON list).
    inbox : Path or None
        A folder in which files of orders are dropped (`RUNDGANG_INBOX`); none is watched without it.
    label_printer : str
        Where labels are printed (`RUNDGANG_LABEL_PRINTER`): ipp://host:631/ipp/print, or ipps; or the folder of a
        simulated printer, by default one in `home`.
    servers : int
        So many processes answer requests (`RUNDGANG_SERVERS`).
    search_threads : int
        So many orders a worker tries at once (`RUNDGANG_SEARCH_THREADS`).
    simulated, simulated_port, simulated_seed, simulated_stops, simulated_strays : bool, int or None, int, bool, bool
        Whether a simulated plant works by what is published (`RUNDGANG_SIMULATED`), on which loopback port
        (`RUNDGANG_SIMULATED_PORT`; by default a free one), from which seed, whether its stations stop, and whether its
        machines are a little otherwise than the library says.
    collects : bool
        Whether the server starts a collector (`RUNDGANG_COLLECTS`); without it, another machine runs it.
    instrument_hosts : list of str
        Hosts whose instruments may be listened to (`RUNDGANG_INSTRUMENT_HOSTS`, a JSON list).
    clock_shows, clock_at, clock_speed : datetime, datetime, float
        A simulated clock shows the one moment at the other, real one, and runs on so many times as fast
        (`RUNDGANG_CLOCK_SHOWS`, `RUNDGANG_CLOCK_AT`, `RUNDGANG_CLOCK_SPEED`); by default the real time.
    """

    model_config = SettingsConfigDict(env_prefix="RUNDGANG_", frozen=True)

    database_url: str | None = Field(default=None, validation_alias="DATABASE_URL")
    migration_database_url: str | None = Field(default=None, validation_alias="MIGRATION_DATABASE_URL")
    home: Path = ROOT / ".local"
    web: Path = ROOT / "web" / "dist"
    hosts: list[str] = ["127.0.0.1", "localhost"]
    inbox: Path | None = None
    label_printer: str = ""
    servers: int = Field(default=2, ge=1, le=64)
    search_threads: int = Field(default=2, ge=1, le=64)
    simulated: bool = True
    simulated_port: int | None = Field(default=None, ge=1, le=65_535)
    simulated_seed: int = Field(default=1, ge=0)
    simulated_stops: bool = True
    simulated_strays: bool = False
    collects: bool = True
    instrument_hosts: list[str] = ["127.0.0.1", "localhost"]
    clock_shows: AwareDatetime | None = None
    clock_at: AwareDatetime | None = None
    clock_speed: float = Field(default=1, gt=0, le=60)

    def clock(self) -> Clock:
        """The deployment's clock."""
        return Clock(self.clock_shows, self.clock_at, self.clock_speed)
