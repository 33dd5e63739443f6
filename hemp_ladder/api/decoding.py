"""Pictures of strangers are decoded in processes of their own: at most two at once, and one that ends badly ends alone."""

import io
import multiprocessing
import resource
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from functools import cache
from typing import TypeVar

from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.model.finish import Channel, Map
from hemp_ladder.core.model.texture import Texture
from hemp_ladder.core.receive.meshed.pictures import NoPicture, look_at
from hemp_ladder.core.ship.painter import Number, Painter

_T = TypeVar("_T")
#: Memory that decoding one picture may take: 89 million pixels of four bytes, twice.
_MOST_BYTES = 2 << 30


@cache
def _pool() -> ProcessPoolExecutor:
    return ProcessPoolExecutor(2, multiprocessing.get_context("spawn"), _limit, max_tasks_per_child=200)


def _limit() -> None:
    resource.setrlimit(resource.RLIMIT_AS, (_MOST_BYTES, _MOST_BYTES))


def _done(work: Callable[..., _T], *given: object) -> _T:
    try:
        return _pool().submit(work, *given).result(timeout=120)
    except NoPicture as error:
        raise SettingsError(f"That picture cannot be used: {error}.", "Save it as PNG or JPEG.") from error
    except (BrokenProcessPool, MemoryError, TimeoutError) as error:
        _pool.cache_clear()
        raise SettingsError("That picture brings its decoder down.", "Save it as PNG or JPEG.") from error


def judged(data: bytes, name: str) -> tuple[bytes, Texture]:
    """A picture as it is kept, and what there is to say of it. Raises SettingsError."""
    return _done(look_at, data, name)


def small(data: bytes, side: int) -> bytes:
    """A PNG of it that is no larger than `side` pixels."""
    return _done(_small, data, side)


def grey(data: bytes, channel: Channel, inverted: bool) -> bytes:
    """One of its numbers as a grey PNG."""
    return _done(_grey, data, channel, inverted)


def _small(data: bytes, side: int) -> bytes:
    from PIL import Image

    with Image.open(io.BytesIO(data), formats=("PNG", "JPEG")) as picture:
        picture.draft("RGB", (side, side))
        picture.thumbnail((side, side))
        out = io.BytesIO()
        picture.convert("RGBA" if "A" in picture.getbands() or "transparency" in picture.info else "RGB").save(
            out, "PNG"
        )
    return out.getvalue()


def _grey(data: bytes, channel: Channel, inverted: bool) -> bytes:
    painter = Painter(lambda _: data)
    return painter.made[painter.grey(Number(Map("", channel, inverted)))]
