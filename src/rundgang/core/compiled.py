"""Compiled functions: plain Python over arrays, turned into machine code at their first call and kept on disk."""

from collections.abc import Callable
from typing import Any, ParamSpec, TypeVar

import numba
import numpy as np
from numpy.typing import NDArray

numba.config.OPT = type(numba.config.OPT)(2)  # type: ignore[attr-defined]  # Numba's stubs lack the setting
"""How hard the compiler tries: the third level takes a third longer to compile, and the code is no faster for it."""

Arguments = ParamSpec("Arguments")
Result = TypeVar("Result")

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Bools = NDArray[np.bool_]
Records = Any
"""An array of records: NumPy's structured arrays, of which the type checker knows nothing."""


def compiled(function: Callable[Arguments, Result]) -> Callable[Arguments, Result]:
    """Compile a function; it runs without Python's lock, so that threads share the cores."""
    made: Callable[Arguments, Result] = numba.njit(  # type: ignore[call-overload]  # Numba's stubs lack the options
        cache=True, nogil=True, error_model="numpy", _nrt=True
    )(function)
    return made


def inner(function: Callable[Arguments, Result]) -> Callable[Arguments, Result]:
    """Compile a function that only compiled ones call, and that makes no array.

    It has no way in from Python, which takes long to make, and does not count who holds the arrays that it is given:
    with some dozens of them, at every call, that takes longer than what the function does. All room is made outside.
    """
    made: Callable[Arguments, Result] = numba.njit(  # type: ignore[call-overload]  # Numba's stubs lack the options
        cache=True, nogil=True, error_model="numpy", no_cpython_wrapper=True, _nrt=False
    )(function)
    return made


def make(function: object, *arguments: object) -> None:
    """Make the machine code of a compiled function for arguments like these, and keep it on disk."""
    types = tuple(numba.typeof(given) for given in arguments)  # type: ignore[no-untyped-call]
    function.compile(types)  # type: ignore[attr-defined]  # Numba's dispatcher is not typed
