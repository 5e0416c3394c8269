"""Arrays of the frames within reach, kept in memory up to a limit, and beyond it in a file of this moment.

What was used longest ago is put away first, and comes back bit by bit as it was; so a limit costs time, and changes nothing else.
"""

from __future__ import annotations

import pickle
import tempfile
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import IO, Any

import platformdirs

from hasty_reel.errors import PictureError, reason

Key = tuple[Any, ...]
"""What something is kept by."""
ROOM = "hasty-reel"


@dataclass
class _Item:
    """Something that is kept: itself, or where it was put away; and its bytes."""

    value: Any
    size: int
    file: IO[bytes] | None = None
    lengths: tuple[int, ...] = ()
    """Bytes of the pickle itself and of each of its buffers, as they stand in the file."""


class Shelf:
    """Keeps what was made until it is dropped.

    limit : bytes that may be in memory; None for any number

    Parameters
    ----------
    limit : the same
    """

    def __init__(self, limit: int | None = None) -> None:
        self.limit = limit
        self._items: OrderedDict[Key, _Item] = OrderedDict()
        self._bytes = 0
        self.put_away = 0
        """How often something was put away so far."""

    def get(self, key: Key, make: Callable[[], Any]) -> Any:
        """Return what is kept by a key; where there is nothing it is made, and kept.

        Parameters
        ----------
        key : of it
        make : gives it

        Raises
        ------
        PictureError
            When it cannot be put away, or not be read again.
        """
        item = self._items.get(key)
        if item is None:
            value = make()  # which may ask this shelf for other things
            item = self._items[key] = _Item(value, 0 if self.limit is None else _size(value))
            self._bytes += item.size
        elif item.file is not None:
            self._fetch(item)
        self._items.move_to_end(key)
        value = item.value
        self._make_room()
        return value

    @property
    def kept(self) -> list[Key]:
        """Keys of what is kept, that which was used longest ago first."""
        return list(self._items)

    def drop(self, key: Key) -> None:
        """Keep something no longer.

        Parameters
        ----------
        key : of what is kept
        """
        item = self._items.pop(key)
        if item.file is None:
            self._bytes -= item.size
        else:
            item.file.close()

    def _make_room(self) -> None:
        if self.limit is None or self._bytes <= self.limit:
            return
        for item in self._items.values():
            if item.file is None and item.size:
                self._put_away(item)
                if self._bytes <= self.limit:
                    return

    def _put_away(self, item: _Item) -> None:
        buffers: list[pickle.PickleBuffer] = []
        head = pickle.dumps(item.value, protocol=5, buffer_callback=buffers.append)
        try:
            # without a name, so that nothing is left of it wherever this ends; on a disk: what is in /tmp may be memory itself
            item.file = tempfile.TemporaryFile(dir=_folder(), buffering=0)  # noqa: SIM115 (it lives as long as the item)
            for part in (memoryview(head), *(b.raw() for b in buffers)):
                while part:
                    part = part[item.file.write(part) :]
        except OSError as error:
            item.file = None
            raise PictureError(f"{_folder()}: frames cannot be put away there while others are finished ({reason(error)}).") from error
        item.lengths, item.value = (len(head), *(b.raw().nbytes for b in buffers)), None
        self._bytes -= item.size
        self.put_away += 1

    def _fetch(self, item: _Item) -> None:
        assert item.file is not None
        item.file.seek(0)
        parts = [bytearray(n) for n in item.lengths]
        try:
            for part in parts:
                view = memoryview(part)
                while view and (read := item.file.readinto(view)):  # type: ignore[attr-defined]
                    view = view[read:]
        except OSError as error:
            raise PictureError(f"{_folder()}: frames that were put away there cannot be read again ({reason(error)}).") from error
        item.value = pickle.loads(parts[0], buffers=parts[1:])
        item.file.close()
        item.file = None
        self._bytes += item.size


def _folder() -> Path:
    folder = Path(platformdirs.user_cache_dir(ROOM))
    folder.mkdir(parents=True, exist_ok=True)
    return folder


def _size(value: Any) -> int:
    """Bytes of the arrays in something."""
    buffers: list[pickle.PickleBuffer] = []
    head = pickle.dumps(value, protocol=5, buffer_callback=buffers.append)
    return len(head) + sum(b.raw().nbytes for b in buffers)
