"""A property that is computed once for each object, when first asked for."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Generic, TypeVar, overload

Owner = TypeVar("Owner")
Value = TypeVar("Value")


class lazy_property(Generic[Owner, Value]):  # noqa: N801 - it is used as ``property`` is
    """As ``functools.cached_property``, without the lock that Python 3.11's takes at each first asking.

    Findings are asked for some forty things a parcel, millions of times, and belong to one thread.
    """

    def __init__(self, compute: Callable[[Owner], Value]) -> None:
        self._compute = compute
        self._name = compute.__name__
        self.__doc__ = compute.__doc__

    @overload
    def __get__(self, owner: None, kind: type[Any]) -> lazy_property[Owner, Value]: ...

    @overload
    def __get__(self, owner: Owner, kind: type[Any] | None = None) -> Value: ...

    def __get__(self, owner: Owner | None, kind: type[Any] | None = None) -> lazy_property[Owner, Value] | Value:
        if owner is None:
            return self
        # The value then stands before this descriptor, which has no setter.
        value = owner.__dict__[self._name] = self._compute(owner)
        return value
