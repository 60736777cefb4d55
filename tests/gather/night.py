#!/usr/bin/env python3
"""What the script is for."""
from __future__ import annotations
import os.path, functools as f
from math import (
    floor,
    sqrt as root,
)
UNIT = "mm"
SIZES = {"a": 1}
SIZES["b"] = 2
try:
    import a_module_that_is_not_there as absent
except ImportError:
    absent = None


@f.lru_cache(maxsize=None)
# a comment in between
def size(n: int = 2, *, more: str = "def f():") -> str:
    """Says the size."""
    return f"{floor(root(n))}{UNIT}{more}{SIZES['b']}"


def fact(n):
    return 1 if n < 2 else n * fact(n - 1)


FACTS = [fact(n) for n in (1, 2, 3)]


class Dome:
    """A dome."""

    def name(self):
        return os.path.basename("/x/dome") + str(absent)


def all_of(*a, **k):
    return [size(9), fact(5), FACTS, Dome().name(), a, k]
