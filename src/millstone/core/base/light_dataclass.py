"""Frozen dataclasses that are quickly made: there are many kinds of settings, and every command declares them."""

from dataclasses import MISSING, FrozenInstanceError, dataclass, field, fields
from typing import Any, TypeVar, dataclass_transform

T = TypeVar("T")


@dataclass_transform(frozen_default=True, field_specifiers=(field,))
def frozen(kind: type[T]) -> type[T]:
    """A frozen dataclass with shared generic methods: declaring one compiles no code.

    Its objects are made more slowly than those of other dataclasses, so use it for types with few instances.

    Parameters
    ----------
    kind : type[T]
        A class whose fields are annotated.

    Returns
    -------
    type[T]
    """
    made: Any = dataclass(init=False, repr=False, eq=False)(kind)
    made.__init__, made.__eq__, made.__hash__, made.__repr__ = _init, _eq, _hash, _repr
    made.__setattr__ = made.__delattr__ = _refuse
    found: type[T] = made
    return found


def _init(self: Any, *given: Any, **named: Any) -> None:
    known = fields(self)
    if len(given) > len(known):
        raise TypeError(f"{type(self).__name__} takes {len(known)} values, not {len(given)}")
    own = dict(zip((one.name for one in known), given, strict=False))
    if twice := own.keys() & named.keys():
        raise TypeError(f"{type(self).__name__}: {min(twice)} is given twice")
    own |= named
    for one in known:
        if one.name in own:
            value = own.pop(one.name)
        elif one.default is not MISSING:
            value = one.default
        elif one.default_factory is not MISSING:
            value = one.default_factory()
        else:
            raise TypeError(f"{type(self).__name__} needs {one.name}")
        object.__setattr__(self, one.name, value)
    if own:
        raise TypeError(f"{type(self).__name__} has no {min(own)}")


def _values(one: Any) -> tuple[Any, ...]:
    return tuple(getattr(one, each.name) for each in fields(one))


def _eq(self: Any, other: object) -> Any:
    return _values(self) == _values(other) if type(other) is type(self) else NotImplemented


def _hash(self: Any) -> int:
    return hash((type(self), _values(self)))


def _repr(self: Any) -> str:
    return (
        f"{type(self).__qualname__}({', '.join(f'{one.name}={getattr(self, one.name)!r}' for one in fields(self))})"
    )


def _refuse(self: Any, name: str, value: object = None) -> None:
    raise FrozenInstanceError(f"cannot assign to field {name!r}")
