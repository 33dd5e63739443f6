"""Pictures as a target takes them: scaled down to a limit, numbers of several in one, opacity with the colour."""

import hashlib
import io
from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.model.finish import Channel, Map

if TYPE_CHECKING:
    from PIL import Image

_JPEG_QUALITY = 92
_CHANNELS = {"r": 0, "g": 1, "b": 2, "a": 3}


@dataclass(frozen=True)
class Number:
    """Numbers of a picture from 0 to 1, times `times`, and nowhere less than `least`."""

    map: Map
    times: float = 1.0
    least: float = 0.0


class Painter:
    """Makes pictures; `picture` gives those that there are by SHA-256. What it made lies in `made` by SHA-256 again."""

    def __init__(self, picture: Callable[[str], bytes], limit: int | None = None) -> None:
        self._picture, self._limit = picture, limit
        self.made: dict[str, bytes] = {}

    def keep(self, data: bytes) -> str:
        digest = hashlib.sha256(data).hexdigest()
        self.made[digest] = data
        return digest

    def plain(self, picture: str) -> str:
        """A picture as it is, or scaled down, in its own format."""
        from PIL import Image

        data = self._picture(picture)
        with Image.open(io.BytesIO(data)) as opened:
            if self._limit is None or max(opened.size) <= self._limit:
                return self.keep(data)
            form = opened.format
            small = _scaled(opened, self._fitting(opened.size))
        out = io.BytesIO()
        if form == "JPEG":
            small.save(out, "JPEG", quality=_JPEG_QUALITY)
        else:
            small.save(out, "PNG")
        return self.keep(out.getvalue())

    def grey(self, number: Number) -> str:
        """One number a pixel, as a grey PNG."""
        from PIL import Image

        values = self._values(number, self._size([number.map]))
        return self._png(Image.fromarray(_bytes(values)))

    def packed(self, red: Number | None, green: Number | None, blue: Number | None) -> str:
        """Three numbers a pixel, 1 where none is given. The largest picture says how large it is."""
        from PIL import Image

        given = [red, green, blue]
        size = self._size([item.map for item in given if item])
        ones = np.ones((size[1], size[0]))
        return self._png(Image.fromarray(_bytes(np.dstack([self._values(n, size) if n else ones for n in given]))))

    def with_opacity(self, colour: Map | None, opacity: Number) -> str:
        """A colour, white where none is given, with its opacity beside it."""
        from PIL import Image

        size = self._size([opacity.map, *([colour] if colour else [])])
        if colour is None:
            plain = Image.new("RGB", size, (255, 255, 255))
        else:
            with Image.open(io.BytesIO(self._picture(colour.picture))) as opened:
                plain = _scaled(opened.convert("RGB"), size)
        plain.putalpha(Image.fromarray(_bytes(self._values(opacity, size))))
        return self._png(plain)

    def _png(self, image: "Image.Image") -> str:
        out = io.BytesIO()
        image.save(out, "PNG")
        return self.keep(out.getvalue())

    def _size(self, maps: list[Map]) -> tuple[int, int]:
        from PIL import Image

        sizes = []
        for item in maps:
            with Image.open(io.BytesIO(self._picture(item.picture))) as opened:
                sizes.append(opened.size)
        return self._fitting(max(sizes))

    def _fitting(self, size: tuple[int, int]) -> tuple[int, int]:
        if self._limit is None or max(size) <= self._limit:
            return size
        share = self._limit / max(size)
        return max(1, round(size[0] * share)), max(1, round(size[1] * share))

    def _values(self, number: Number, size: tuple[int, int]) -> NDArray[np.float64]:
        from PIL import Image

        with Image.open(io.BytesIO(self._picture(number.map.picture))) as opened:
            plane = channel_of(opened, number.map.channel)
        values = np.asarray(_scaled(Image.fromarray(_bytes(plane)), size)).astype(np.float64) / 255
        if number.map.inverted:
            values = 1 - values
        return np.asarray(np.maximum(values * number.times, number.least))


def channel_of(picture: "Image.Image", channel: Channel) -> NDArray[np.float64]:
    """One channel of a picture from 0 to 1, (height, width): of all three their brightness, of opacity that is not there 1."""
    if picture.mode.startswith("I") or picture.mode == "F":
        plane = np.asarray(picture).astype(np.float64)
        return np.asarray(plane / (65535 if plane.max(initial=0) > 255 else 255))
    image = picture.convert("L") if channel == "rgb" else picture.convert("RGBA").getchannel(_CHANNELS[channel])
    return np.asarray(np.asarray(image).astype(np.float64) / 255)


def _bytes(values: NDArray[np.float64]) -> NDArray[np.uint8]:
    return np.asarray(np.clip(np.rint(values * 255), 0, 255), np.uint8)


def _scaled(image: "Image.Image", size: tuple[int, int]) -> "Image.Image":
    from PIL import Image

    if image.size == size:
        return image.copy()
    if image.mode in ("P", "1"):
        image = image.convert("RGBA" if "transparency" in image.info else "RGB")
    return image.resize(size, Image.Resampling.LANCZOS)
