"""What a screen reader is told of a window: the toolkit's accessibility interface, which its binding leaves out.

The library is there all the same, and its interface is a class whose functions stand in a fixed order.
"""

from __future__ import annotations

import ctypes
from collections.abc import Iterator
from dataclasses import dataclass
from enum import IntEnum
from pathlib import Path
from typing import Any

from PyQt6 import sip
from PyQt6.QtCore import QLibraryInfo, QObject

IS_VALID, OBJECT, CHILD, CHILD_COUNT, TEXT, ROLE, STATE = 2, 3, 9, 10, 12, 15, 16
"""Places of the functions of ``QAccessibleInterface``; two destructors stand before them."""
NAME, DESCRIPTION, VALUE = range(3)
CHECKABLE, INVISIBLE = 5, 17
"""Bits of ``QAccessible::State``."""


class Role(IntEnum):
    """Roles of ``QAccessible::Role`` that are looked for; any other is itself."""

    NONE = 0x0
    CLIENT = 0xA
    BORDER = 0x13
    GRAPHIC = 0x28
    CHECK_BOX = 0x2C
    RADIO_BUTTON = 0x2D
    COMBO_BOX = 0x2E
    OTHER = -1


_ROLES = frozenset(Role)


class _Text(ctypes.Structure):
    """A ``QString``."""

    _fields_ = (("data", ctypes.c_void_p), ("characters", ctypes.c_void_p), ("length", ctypes.c_ssize_t))

    def __str__(self) -> str:
        return ctypes.string_at(self.characters, 2 * self.length).decode("utf-16-le") if self.length else ""


@dataclass(frozen=True)
class Accessible:
    """One object of the tree as it is told to a screen reader."""

    role: Role
    name: str
    description: str
    value: str
    state: int
    object: QObject | None
    inside: tuple[str, ...]
    """Names of what it stands in, the outermost first."""

    def has(self, bit: int) -> bool:
        return bool(self.state >> bit & 1)


def _library() -> ctypes.CDLL:
    folder = Path(QLibraryInfo.path(QLibraryInfo.LibraryPath.LibrariesPath))
    library = ctypes.CDLL(str(folder / "libQt6Gui.so.6"))
    return library


def _call(interface: int, place: int, result: Any, *given: Any) -> Any:
    table = ctypes.cast(interface, ctypes.POINTER(ctypes.POINTER(ctypes.c_void_p))).contents
    kinds = [ctypes.c_int] * len(given)
    return ctypes.CFUNCTYPE(result, ctypes.c_void_p, *kinds)(table[place])(interface, *given)


def tree(root: QObject) -> Iterator[Accessible]:
    """All that is told of a window and what is in it, as a screen reader walks it."""
    query = _library()._ZN11QAccessible24queryAccessibleInterfaceEP7QObject
    query.restype, query.argtypes = ctypes.c_void_p, [ctypes.c_void_p]
    found = query(sip.unwrapinstance(root))
    yield from _walk(found, ())


def _walk(interface: int | None, inside: tuple[str, ...]) -> Iterator[Accessible]:
    if not interface or not _call(interface, IS_VALID, ctypes.c_bool):
        return
    number = _call(interface, ROLE, ctypes.c_int)
    name, description, value = (str(_call(interface, TEXT, _Text, kind)) for kind in (NAME, DESCRIPTION, VALUE))
    pointer = _call(interface, OBJECT, ctypes.c_void_p)
    role = Role(number) if number in _ROLES else Role.OTHER
    one = Accessible(
        role, name, description, value, _call(interface, STATE, ctypes.c_uint64),
        sip.wrapinstance(pointer, QObject) if pointer else None, inside,
    )  # fmt: skip
    yield one
    for place in range(_call(interface, CHILD_COUNT, ctypes.c_int)):
        yield from _walk(_call(interface, CHILD, ctypes.c_void_p, place), (*inside, name))
