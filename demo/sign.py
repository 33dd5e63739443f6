"""The harbour's sign and a stencil with the light's number, as SVG: written by hand, number by number."""

import math
from pathlib import Path

#: Millimetres.
WIDE, HIGH = 420, 260
#: Bars between the slots of the stencil, in millimetres.
BARS = (0.3, 0.6, 1.0, 1.6, 2.4)


def write_sign(path: Path) -> None:
    """A board with a rope around it, the light with its beams, waves, the name, and a line of live text."""
    beams = "".join(
        f'<use href="#beam" transform="rotate({angle} 96 88)"/>' for angle in (-64, -38, -12, 12, 38, 64)
    )  # fmt: skip
    waves = "".join(
        f'<path d="M20 {y} q 14 -12 28 0 t 28 0 t 28 0 t 28 0 t 28 0 t 28 0" />' for y in (176, 190, 204)
    )  # fmt: skip
    path.write_text(
        f"""<?xml version="1.0" encoding="UTF-8"?>
<svg xmlns="http://www.w3.org/2000/svg" xmlns:desk="https://gull-rock.invalid/desk" width="{WIDE}mm" height="{HIGH}mm" viewBox="0 0 {WIDE} {HIGH}" desk:sheet="harbour">
  <desk:view zoom="1.5" grid="5"/>
  <style>
    #Name path {{ fill: none; stroke: #f5f0e6; stroke-width: 11; stroke-linecap: round; stroke-linejoin: round }}
    #Waves path {{ fill: none; stroke: #17695f; stroke-width: 4 }}
    .iron {{ fill: #3c434a }}
  </style>
  <defs>
    <path id="beam" d="M92 60 L84 20 H108 L100 60 Z" fill="#e8b64c"/>
    <clipPath id="round"><circle cx="96" cy="150" r="66"/></clipPath>
  </defs>
  <g id="Board">
    <path id="plate" fill="#1d2730" fill-rule="evenodd" d="M24 8 H396 A16 16 0 0 1 412 24 V236 A16 16 0 0 1 396 252 H24 A16 16 0 0 1 8 236 V24 A16 16 0 0 1 24 8 Z {_hole(26, 26)} {_hole(394, 26)} {_hole(26, 234)} {_hole(394, 234)}"/>
  </g>
  <g id="Rope">
    <rect id="rope" x="18" y="18" width="384" height="224" rx="12" fill="none" stroke="#a2743a" stroke-width="5" stroke-dasharray="14 3"/>
  </g>
  <g id="Light">
    <path id="tower" class="iron" d="M80 210 L87 104 H105 L112 210 Z"/>
    <path id="gallery" fill="#b8400b" d="M78 104 H114 V98 H78 Z"/>
    <path id="lantern" fill="#e8b64c" fill-rule="evenodd" d="M86 98 H106 V74 H86 Z M90 94 V78 H102 V94 Z"/>
    <path id="dome" class="iron" d="M84 74 A12 12 0 0 1 108 74 Z"/>
    <path id="stay" fill="none" stroke="#3c434a" stroke-width="0.3" d="M96 62 V50"/>
    {beams}
  </g>
  <g id="Waves" clip-path="url(#round)">{waves}</g>
  <g id="Name">
    {"".join(f'<path id="{name}" d="{d}"/>' for name, d in _letters())}
  </g>
  <g id="Draft" display="none"><rect x="180" y="200" width="200" height="20"/></g>
  <text id="office" x="196" y="212" font-family="serif" font-size="20" fill="#f5f0e6">Harbour office</text>
</svg>
"""
    )


def _hole(x: float, y: float) -> str:
    return f"M{x - 5} {y} a5 5 0 1 0 10 0 a5 5 0 1 0 -10 0 Z"


def _letters() -> list[tuple[str, str]]:
    """GULL ROCK as a pen would write it, in two lines."""
    found = []
    for word, (x, y) in (("GULL", (190.0, 60.0)), ("ROCK", (190.0, 134.0))):
        for letter in word:
            found.append((f"letter {letter} {len(found) + 1}", _STROKES[letter].format(*_grid(x, y))))
            x += 50
    return found


def _grid(x: float, y: float) -> list[str]:
    """Left, right, top, middle and bottom of a letter 34 wide and 50 high, as numbers in text."""
    return [f"{value:g}" for value in (x, x + 34, y, y + 25, y + 50)]


_STROKES = {
    "G": "M{1} {2} H{0} V{4} H{1} V{3} h-14",
    "U": "M{0} {2} V{4} H{1} V{2}",
    "L": "M{0} {2} V{4} H{1}",
    "R": "M{0} {4} V{2} H{1} V{3} H{0} M{1} {4} L{0} {3}",
    "O": "M{0} {2} H{1} V{4} H{0} Z",
    "C": "M{1} {2} H{0} V{4} H{1}",
    "K": "M{0} {2} V{4} M{1} {2} L{0} {3} L{1} {4}",
}


def write_stencil(path: Path) -> None:
    """A plate with the light's number to be sprayed through, and slots with bars of several widths between them."""
    slots, x = [], 8.0
    for number, bar in enumerate((*BARS, 0.0)):
        slots.append(f'<rect id="slot {number + 1}" x="{x:g}" y="60" width="10" height="14"/>')
        x += 10 + bar
    four = '<path id="four" d="M34 12 H42 V34 H48 V41 H42 V52 H34 V41 H14 V34 Z"/>'
    seven = '<path id="seven" d="M58 12 H90 V19 L74 52 H65 L80 20 H58 Z"/>'
    turn = math.degrees(math.atan2(1, 4))
    arrow = f'<path id="arrow" transform="rotate({turn:.3f} 96 40)" d="M96 24 L104 40 H99 V54 H93 V40 H88 Z"/>'
    path.write_text(
        f"""<?xml version="1.0" encoding="UTF-8"?>
<svg xmlns="http://www.w3.org/2000/svg" width="112" height="82" viewBox="0 0 112 82">
  <g id="Plate"><rect id="sheet" x="1" y="1" width="110" height="80" rx="4" fill="#9aa3a6"/></g>
  <g id="Number" fill="#ffffff">{four}{seven}{arrow}</g>
  <g id="Slots" fill="#ffffff">{"".join(slots)}</g>
</svg>
"""
    )
