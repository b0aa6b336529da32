"""Loops over pixels and samples, compiled by numba.

A loop is compiled when it is first called, which takes some seconds once per installation; what
was compiled is kept on the disk where that can be written to, and compiled anew by each process
where not. Other threads run meanwhile. Sums are made in any order (``reassoc``), so that many
of them are worked on at once; that needs loops over the size of the row that is read or written.
"""

from __future__ import annotations

from functools import partial
from typing import Any

from numba import njit


def compiled(loop: Any) -> Any:
    """The loop, compiled when first called."""
    compiler = partial(njit, nogil=True, error_model="numpy", fastmath={"reassoc", "contract", "arcp", "nsz"})
    try:
        return compiler(cache=True)(loop)
    except RuntimeError:  # No folder can be written to.
        return compiler()(loop)
