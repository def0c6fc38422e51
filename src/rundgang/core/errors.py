"""The errors of the core: a small tree, each message saying what was given, what is allowed, and where."""


class RundgangError(Exception):
    """Base of every error the user can mend."""


class UnknownItemError(RundgangError):
    """A name that nothing answers to.

    Parameters
    ----------
    what : str
        The kind of thing asked for, for instance "product".
    given : str
        The name that was asked for.
    allowed : iterable of str
        The names there are.
    """

    def __init__(self, what: str, given: str, allowed: object = ()) -> None:
        names = ", ".join(str(name) for name in allowed) if isinstance(allowed, (list, tuple, set, dict)) else ""
        super().__init__(f"There is no {what} “{given}”." + (f" Allowed: {names}." if names else ""))


class OutOfRangeError(RundgangError):
    """A figure outside what is allowed for it."""

    def __init__(self, what: str, given: object, allowed: str) -> None:
        super().__init__(f"{what} is {given}; allowed: {allowed}.")


class InfeasibleError(RundgangError):
    """No legal answer exists; the message names the constraint and the run or product."""


class MalformedError(RundgangError):
    """A document that does not say what it must.

    Attributes
    ----------
    faults : tuple of str
        One line a fault: where it is, what was found, what is allowed.
    """

    def __init__(self, what: str, faults: tuple[str, ...]) -> None:
        self.faults = faults
        super().__init__(f"{what} cannot be read:\n" + "\n".join(f"  {fault}" for fault in faults))
