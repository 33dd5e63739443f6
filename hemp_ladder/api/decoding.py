"""Pictures of strangers are decoded in processes of their own: at most two at once, and one that ends badly ends alone."""

import io
import multiprocessing
import resource
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from functools import cache
from typing import TypeVar

from hemp_ladder.core.chain.came import read_meshed
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.fit import turn_to_z
from hemp_ladder.core.fit.settings import Axis
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.model.bodies import Meshed
from hemp_ladder.core.model.finish import Channel, Map
from hemp_ladder.core.model.glance import glance as draw
from hemp_ladder.core.model.model import Part
from hemp_ladder.core.model.texture import Texture
from hemp_ladder.core.receive.meshed.pictures import NoPicture, look_at
from hemp_ladder.core.ship.painter import Number, Painter
from hemp_ladder.store import blobs, model_blob

_T = TypeVar("_T")
#: Memory that decoding one picture may take: 89 million pixels of four bytes, twice.
_MOST_BYTES = 2 << 30


@cache
def _pool() -> ProcessPoolExecutor:
    return ProcessPoolExecutor(2, multiprocessing.get_context("spawn"), _limit, max_tasks_per_child=200)


def close() -> None:
    """End the processes, where any were begun."""
    if _pool.cache_info().currsize:
        _pool().shutdown(cancel_futures=True)
        _pool.cache_clear()


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


def glance(model_key: str, up: Axis) -> bytes | None:
    """A small picture of a model that brought triangles, with an axis upright; None where it brought none."""
    return _done(_glance, model_key, up)


def _glance(model_key: str, up: Axis) -> bytes | None:
    def mesh_of(part: Part) -> Mesh | None:
        if not isinstance(part.body, Meshed):
            return None
        return read_meshed(blobs.get(f"shapes/{part.key}"))

    def picture(sha256: str) -> bytes:
        return blobs.get(f"textures/{sha256}")

    return draw(model_blob.load(model_key), turn_to_z(up)[:3, :3], mesh_of, picture, 264, 176)


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
