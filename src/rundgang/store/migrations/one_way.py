"""Migrations go one way: what a version writes cannot be told in the words of the one before."""

from rundgang.core.errors import RundgangError


class OneWayError(RundgangError):
    """A database that shall go back to an earlier version."""

    def __init__(self) -> None:
        super().__init__(
            "A database goes forward only: rows are written once, and an earlier version could not read them. Nothing "
            "was changed. Allowed: a backup from before."
        )


def downgrade() -> None:
    """Refuse."""
    raise OneWayError
