"""Compiled functions: plain Python over arrays, turned into machine code at their first call and kept on disk."""

from collections.abc import Callable
from typing import Any, ParamSpec, TypeVar

import numba
import numpy as np
from numpy.typing import NDArray

Arguments = ParamSpec("Arguments")
Result = TypeVar("Result")

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Records = Any
"""An array of records: NumPy's structured arrays, of which the type checker knows nothing."""


def compiled(function: Callable[Arguments, Result]) -> Callable[Arguments, Result]:
    """Compile a function; it runs without Python's lock, so that threads share the cores."""
    made: Callable[Arguments, Result] = numba.njit(cache=True, nogil=True, error_model="numpy")(function)
    return made
