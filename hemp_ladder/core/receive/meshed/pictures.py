"""Pictures that a file brings for its surfaces: found beside it, looked at, kept by content."""

import hashlib
import io
import re
from pathlib import Path
from typing import TYPE_CHECKING

from hemp_ladder.core.findings import Finding, clip, finding
from hemp_ladder.core.model.texture import Role, Texture
from hemp_ladder.core.receive.bundle import ROOM
from hemp_ladder.core.receive.report import Report

if TYPE_CHECKING:
    from PIL import Image

#: Pixels of a picture and of one of its sides, and its bytes, that are taken.
MOST_PIXELS, MOST_SIDE, MOST_BYTES = 89_000_000, 32_768, 512 << 20
#: Files of a bundle that are looked through.
_MOST_FILES = 10_000
#: What goes on as it came; the rest becomes PNG.
_PLAIN = {"PNG": "image/png", "JPEG": "image/jpeg"}
_READ = ("PNG", "JPEG", "WEBP", "TGA", "BMP", "TIFF", "GIF", "DDS")


class Pictures:
    """Takes pictures for one source; what cannot be had or is no picture is a finding."""

    def __init__(self, report: Report, path: Path) -> None:
        self._report, self._path = report, path
        self._beside: dict[str, list[Path]] | None = None
        self._known: dict[tuple[str, Role], str | None] = {}
        self.textures: list[Texture] = []
        self.findings: list[Finding] = []

    def beside(self, name: str, role: Role = "base colour") -> str | None:
        """The picture called so, by its path if it lies there, else by its bare name wherever in the bundle it lies,
        whatever its case and whoever's machine the path is of. Its SHA-256, None where there is none."""
        if (name, role) not in self._known:
            found = self._find(name)
            if found is None:
                message = f"The picture “{clip(name, 80)}” is not there."
                self.findings.append(finding("missing-beside", self._path.name, message))
            elif found.stat().st_size > MOST_BYTES:
                self._refuse(name, f"it has more than {MOST_BYTES >> 20} MB")
                found = None
            self._known[name, role] = None if found is None else self.take(found.read_bytes(), found.name, role)
        return self._known[name, role]

    def take(self, data: bytes, name: str, role: Role = "base colour") -> str | None:
        """Keep a picture that is given as bytes. Its SHA-256, None where it is none."""
        from PIL import Image

        try:
            with Image.open(io.BytesIO(data), formats=_READ) as picture:
                kind, (width, height) = picture.format or "", picture.size
                if not 0 < max(width, height) <= MOST_SIDE or width * height > MOST_PIXELS:
                    self._refuse(name, f"it claims {width:,} × {height:,} pixels")
                    return None
                if kind not in _PLAIN:
                    data = _as_png(picture)
        except Image.DecompressionBombError:
            self._refuse(name, f"it claims more than {MOST_PIXELS // 1_000_000} million pixels")
            return None
        except Exception as error:  # whatever the decoders raise on what strangers send
            self._refuse(name, f"it is no picture that can be read ({type(error).__name__})")
            return None
        digest = hashlib.sha256(data).hexdigest()
        texture = Texture(digest, name[:200], width, height, role, "srgb" if role in _COLOURS else "linear")
        if texture not in self.textures:
            self._report.blob("textures", digest, data)
            self.textures.append(texture)
        return digest

    def _refuse(self, name: str, why: str) -> None:
        message = f"The picture “{clip(name, 80)}” is left out: {why}."
        self.findings.append(finding("picture-unreadable", self._path.name, message))

    def _find(self, name: str) -> Path | None:
        pieces = [piece for piece in re.split(r"[/\\]+", name.strip()) if piece not in ("", ".", "..")]
        if not pieces:
            return None
        if self._beside is None:
            self._beside = {}
            for number, path in enumerate(self._room().rglob("*")):
                if number > _MOST_FILES:
                    break
                if path.is_file():
                    self._beside.setdefault(path.name.casefold(), []).append(path)
        alike = self._beside.get(pieces[-1].casefold(), [])
        # Of several of one name the one whose folders agree the farthest.
        return max(alike, key=lambda path: (_agreed(path, pieces), -len(path.parts), str(path)), default=None)

    def _room(self) -> Path:
        """The folder where the bundle is laid; for a file that lies anywhere else, its own."""
        return next((above for above in self._path.parents if above.name == ROOM), self._path.parent)


#: Roles whose numbers are colours for the eye.
_COLOURS = ("base colour", "emission")


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
