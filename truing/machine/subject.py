"""What a check is about: the machine, a part of it, a thing on it, or pieces of the kit."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict


class Subject(BaseModel):
    """What a check is about. Results, scatter and what was learnt are kept apart by it.

    `keys` name it: nothing for the machine itself; a slide's direction or another part; the id of
    a thing that the user named (vice, fence, scale, square); ids of pieces of the kit that were
    read together (holder, collet, tool).
    """

    model_config = ConfigDict(frozen=True)

    sort: Literal["machine", "part", "thing", "pieces"] = "machine"
    keys: tuple[str, ...] = ()

    @classmethod
    def part(cls, key: str) -> Subject:
        """A part of the machine by its key."""
        return cls(sort="part", keys=(key,))

    @classmethod
    def thing(cls, key: str) -> Subject:
        """A thing on the machine that the user named, by its id."""
        return cls(sort="thing", keys=(key,))

    @classmethod
    def pieces(cls, *keys: str) -> Subject:
        """Pieces of the kit, by their ids, read together."""
        return cls(sort="pieces", keys=keys)

    @property
    def key(self) -> str:
        """Its one key; "" for the machine itself."""
        return "+".join(self.keys)

    @property
    def text(self) -> str:
        """As it is kept in the record: machine, part:left_right, pieces:a+b."""
        return f"{self.sort}:{self.key}" if self.keys else self.sort

    @classmethod
    def read(cls, text: str) -> Subject:
        """The subject of a text as `text` makes it. ValueError for another text."""
        sort, _, keys = text.partition(":")
        return cls.model_validate({"sort": sort, "keys": tuple(keys.split("+")) if keys else ()})


THE_MACHINE = Subject()
