"""Pictures that a file brings for its surfaces: found beside it, looked at, kept by content."""

import hashlib
import io
import re
from collections.abc import Mapping
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from hemp_ladder.core.findings import Finding, clip, finding
from hemp_ladder.core.model.finish import Finish, Map, Slot, ordered
from hemp_ladder.core.model.texture import Clear, Texture
from hemp_ladder.core.receive.meshed.habits import sisters
from hemp_ladder.core.receive.reader import PICTURES, ROOM
from hemp_ladder.core.receive.report import Report

if TYPE_CHECKING:
    from PIL import Image

#: Pixels of a picture and of one of its sides, and its bytes, that are taken.
MOST_PIXELS, MOST_SIDE, MOST_BYTES = 89_000_000, 32_768, 512 << 20
#: Files of a bundle that are looked through, and pictures of it that nobody names which are taken.
_MOST_FILES, _MOST_UNUSED = 10_000, 200
#: What goes on as it came; the rest becomes PNG.
_PLAIN = {"PNG": "image/png", "JPEG": "image/jpeg"}
READ = ("PNG", "JPEG", "WEBP", "TGA", "BMP", "TIFF", "GIF", "DDS")
#: A picture is judged by no more pixels than these a side.
_JUDGED = 256


class Pictures:
    """Takes pictures for one source; what cannot be had or is no picture is a finding."""

    def __init__(self, report: Report, path: Path) -> None:
        self._report, self._path = report, path
        self._files: dict[str, list[Path]] | None = None
        self._known: dict[str, str | None] = {}
        self._named: dict[str, str] = {}
        self.textures: list[Texture] = []
        self.findings: list[Finding] = []

    def beside(self, name: str, role: Slot = "base colour") -> str | None:
        """The picture called so, by its path if it lies there, else by its bare name wherever in the bundle it lies,
        whatever its case and whoever's machine the path is of. Its SHA-256, None where there is none."""
        if name not in self._known:
            found = self._find(name)
            if found is None:
                message = f"The picture “{clip(name, 80)}” is not there."
                self.findings.append(finding("missing-beside", self._path.name, message))
            self._known[name] = None if found is None else self._taken(found, role)
        return self._known[name]

    def is_there(self, name: str) -> bool:
        """Whether `beside` would find it."""
        return self._find(name) is not None

    def _taken(self, path: Path, role: Slot | None) -> str | None:
        if path.stat().st_size > MOST_BYTES:
            self._refuse(path.name, f"it has more than {MOST_BYTES >> 20} MB")
            return None
        digest = self.take(path.read_bytes(), path.name, role)
        if digest is not None:
            self._named[digest] = path.name
        return digest

    def take(self, data: bytes, name: str, role: Slot | None = "base colour") -> str | None:
        """Keep a picture that is given as bytes. Its SHA-256, None where it is none."""
        try:
            data, texture = look_at(data, name)
        except NoPicture as error:
            self._refuse(name, str(error))
            return None
        known = next((item for item in self.textures if item.sha256 == texture.sha256), None)
        if known is None:
            self._report.blob("textures", texture.sha256, data)
            self.textures.append(replace(texture, role=role))
        elif known.role is None and role is not None:
            self.textures[self.textures.index(known)] = replace(known, role=role)
        return texture.sha256

    def guesses(self, looks: Mapping[str, Finish]) -> dict[str, dict[Slot, Map]]:
        """For each look that wears a picture, those that by their names belong to it too, in slots that are empty."""
        names = [path.name for paths in self._beside().values() for path in paths if path.suffix.lower() in PICTURES]
        found: dict[str, dict[Slot, Map]] = {}
        for style, look in looks.items():
            worn = [item.picture for _, item in look.maps if item.picture in self._named]
            own: dict[Slot, Map] = {}
            for name, told in sisters(self._named[worn[0]], names) if worn else ():
                if name in (self._named[picture] for picture in worn):
                    continue
                digest = self._taken(self._beside()[name.casefold()][0], told.slots[0][0])
                for slot, channel in told.slots if digest else ():
                    if look.map(slot) is None and slot not in own:
                        own[slot] = Map(digest or "", channel, told.inverted)
            if own:
                found[style] = dict(ordered(own))
        return found

    def take_unused(self) -> None:
        """Keep what lies in the bundle and nobody names: someone may say what it is for."""
        paths = [path for _, own in sorted(self._beside().items()) for path in own if path.suffix.lower() in PICTURES]
        taken = {name.casefold() for name in self._named.values()}
        for path in [path for path in paths if path.name.casefold() not in taken][:_MOST_UNUSED]:
            self._taken(path, None)

    def _refuse(self, name: str, why: str) -> None:
        message = f"The picture “{clip(name, 80)}” is left out: {why}."
        self.findings.append(finding("picture-unreadable", self._path.name, message))

    def _find(self, name: str) -> Path | None:
        pieces = [piece for piece in re.split(r"[/\\]+", name.strip()) if piece not in ("", ".", "..")]
        if not pieces:
            return None
        alike = self._beside().get(pieces[-1].casefold(), [])
        # Of several of one name the one whose folders agree the farthest.
        return max(alike, key=lambda path: (_agreed(path, pieces), -len(path.parts), str(path)), default=None)

    def _beside(self) -> dict[str, list[Path]]:
        """The files of the bundle by their bare names in lower case."""
        if self._files is None:
            self._files = {}
            room = next((above for above in self._path.parents if above.name == ROOM), None)
            # A file that lies anywhere else has what lies in its own folder beside it, and below that.
            for number, path in enumerate((room or self._path.parent).rglob("*")):
                if number > _MOST_FILES:
                    break
                if path.is_file():
                    self._files.setdefault(path.name.casefold(), []).append(path)
        return self._files

    @property
    def is_bundle(self) -> bool:
        """Whether what lies beside the file was given together with it."""
        return any(above.name == ROOM for above in self._path.parents)


class NoPicture(Exception):
    """Why bytes are no picture that can be taken."""


def look_at(data: bytes, name: str) -> tuple[bytes, Texture]:
    """A picture as it is kept, PNG or JPEG, and what there is to say of it. Raises NoPicture."""
    from PIL import Image

    try:
        with Image.open(io.BytesIO(data), formats=READ) as picture:
            kind, (width, height) = picture.format or "", picture.size
            if not 0 < max(width, height) <= MOST_SIDE or width * height > MOST_PIXELS:
                raise NoPicture(f"it claims {width:,} × {height:,} pixels")
            if kind not in _PLAIN:
                data = _as_png(picture)
            else:
                picture.draft("RGB", (_JUDGED, _JUDGED))
            clear, bluish, mean = _judged(picture)
    except NoPicture:
        raise
    except Image.DecompressionBombError as error:
        raise NoPicture(f"it claims more than {MOST_PIXELS // 1_000_000} million pixels") from error
    except Exception as error:  # whatever the decoders raise on what strangers send
        raise NoPicture(f"it is no picture that can be read ({type(error).__name__})") from error
    digest = hashlib.sha256(data).hexdigest()
    return data, Texture(digest, name[:200], width, height, None, len(data), clear, bluish, mean)


def _judged(picture: "Image.Image") -> tuple[Clear, bool, str]:
    """What its opacity does, whether its colours are those of a normal map, and their mean."""
    import numpy as np

    small = picture.convert("RGBA")
    small.thumbnail((_JUDGED, _JUDGED))
    pixels = np.asarray(small).reshape(-1, 4)
    alpha = pixels[:, 3]
    clear: Clear = ""
    if (alpha < 250).mean() > 0.002:
        # Where nearly all is either there or not, it cuts.
        clear = "cut" if ((alpha < 16) | (alpha > 239)).mean() > 0.9 else "soft"
    directions = pixels[:, :3] / 127.5 - 1
    straight = (np.abs(np.linalg.norm(directions, axis=1) - 1) < 0.2) & (directions[:, 2] > 0.4)
    mean = "#" + "".join(f"{round(value):02x}" for value in pixels[:, :3].mean(axis=0).tolist())
    return clear, bool(straight.mean() > 0.8), mean


def _agreed(path: Path, pieces: list[str]) -> int:
    count = 0
    for own, told in zip(reversed(path.parts), reversed(pieces), strict=False):
        if own.casefold() != told.casefold():
            break
        count += 1
    return count


def _as_png(picture: "Image.Image") -> bytes:
    clear = "A" in picture.getbands() or "transparency" in picture.info
    out = io.BytesIO()
    picture.convert("RGBA" if clear else "RGB").save(out, "PNG")
    return out.getvalue()
