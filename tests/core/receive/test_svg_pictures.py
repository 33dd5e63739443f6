"""Pictures that only come out right when a rule of SVG 2 is kept, pixel by pixel against a renderer of other people."""

import itertools

from tests.pixels import disagreement
from tests.support import FolderCase

NS = 'xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink"'
#: Of all pixels, how much may differ: both smooth edges, and the drawing's edge is about a hundredth of it.
_MOST = 0.0025

_ARROW = "<path d='M0 0L10 5L0 10Z'/>"
MARKERS = {
    "arrowheads of a polyline": f"""<marker id='m' viewBox='0 0 10 10' refX='5' refY='5' markerWidth='4'
        markerHeight='4' orient='auto'>{_ARROW}</marker><polyline points='10,10 50,20 40,60 90,80' fill='none'
        stroke='black' stroke-width='3' marker-start='url(#m)' marker-mid='url(#m)' marker-end='url(#m)'/>""",
    "reversed at the start": f"""<marker id='m' viewBox='0 0 10 10' refX='0' refY='5' markerWidth='5'
        markerHeight='5' orient='auto-start-reverse'>{_ARROW}</marker><path d='M30 50H70' stroke='black'
        stroke-width='3' style='marker:url(#m)'/>""",
    "in user units, turned by hand": """<marker id='m' refX='4' refY='4' markerWidth='8' markerHeight='8'
        markerUnits='userSpaceOnUse' orient='30'><rect width='8' height='8'/></marker>
        <path d='M20 20L80 30L60 80' fill='none' stroke='black' stroke-width='2' marker-mid='url(#m)'/>""",
    "cut at its frame": """<marker id='m' markerWidth='4' markerHeight='4' refX='2' refY='2'><circle cx='2' cy='2'
        r='3'/></marker><path d='M20 20L80 80' stroke='black' stroke-width='4' marker-end='url(#m)'/>""",
    "not cut where it may overflow": """<marker id='m' markerWidth='2' markerHeight='2' overflow='visible'><circle
        r='3'/></marker><path d='M20 20L80 80' stroke='black' stroke-width='4' marker-end='url(#m)'/>""",
    "on curves and arcs": f"""<marker id='m' viewBox='0 0 10 10' refX='5' refY='5' markerWidth='4' markerHeight='4'
        orient='auto'>{_ARROW}</marker><path d='M10 50C10 10 50 10 50 50Q60 90 80 60A25 25 0 0 1 90 30' fill='none'
        stroke='black' stroke-width='2' marker-start='url(#m)' marker-mid='url(#m)' marker-end='url(#m)'/>""",
    "inherited from the group": f"""<marker id='m' viewBox='0 0 10 10' refX='5' refY='5' markerWidth='6'
        markerHeight='6' orient='auto'>{_ARROW}</marker><g style='marker-end:url(#m)' transform='translate(10 20)
        rotate(20)'><line x2='60' y2='10' stroke='black' stroke-width='2'/></g>""",
    "stretched with its line": f"""<marker id='m' viewBox='0 0 10 10' refX='5' refY='5' markerWidth='4'
        markerHeight='4' orient='auto'>{_ARROW}</marker><g transform='scale(2 1)'><path d='M10 20L35 70' stroke='black'
        stroke-width='3' marker-end='url(#m)'/></g>""",
}
PLACES = {
    "transforms about an origin": """<rect x='20' y='20' width='40' height='20' transform='rotate(30)'
        transform-origin='40 30'/><rect x='20' y='60' width='20' height='20' style='transform:scale(1.5);
        transform-origin:30px 70px'/>""",
    "numbers that touch": "<path transform='translate(50-10)scale(.5.5)' d='M0 40.5.5 90-20-20z'/>",
    "a mirror and a skew": """<g transform='translate(100 0) scale(-1 1)'><path d='M10 10h50l-20 50z'
        transform='skewX(20)'/></g>""",
    "uses of uses": """<defs><circle id='c' r='5'/><g id='g'><use href='#c' x='10' y='10'/><use href='#c' x='30' y='10'/>
        </g></defs><use href='#g' x='5'/><use xlink:href='#g' y='40' transform='rotate(10)'/>""",
    "a symbol with a box": """<symbol id='s' viewBox='0 0 20 10'><ellipse cx='10' cy='5' rx='10' ry='5'/></symbol>
        <use href='#s' x='10' y='10' width='60' height='60'/>""",
    "a frame that cuts": "<svg x='20' y='20' width='30' height='30'><circle cx='30' cy='30' r='20'/></svg>",
    "percentages": """<rect x='10%' y='20%' width='50%' height='5%'/><circle cx='50%' cy='60%' r='20%'/>
        <line x1='0' y1='95%' x2='100%' y2='95%' stroke='black' stroke-width='3%'/>""",
    "units": "<rect x='1mm' y='4pt' width='1pc' height='.2in'/><circle cx='1.5cm' cy='12mm' r='3mm'/>",
    "a switch": """<switch><foreignObject requiredExtensions='urn:none'/><g><rect x='20' y='20' width='30'
        height='30'/></g></switch><rect x='60' y='60' width='20' height='20' requiredExtensions='urn:none'/>""",
}
CLIPS = {
    "two areas and a rule": """<clipPath id='c'><circle cx='40' cy='40' r='20'/><path clip-rule='evenodd'
        d='M50 50h40v40h-40zM60 60h20v20h-20z'/></clipPath><rect width='100' height='100' clip-path='url(#c)'/>""",
    "a clip of a clip": """<clipPath id='a'><rect x='20' y='20' width='60' height='60'/></clipPath>
        <clipPath id='b' clip-path='url(#a)'><circle cx='30' cy='50' r='30'/></clipPath>
        <rect width='100' height='100' clip-path='url(#b)'/>""",
    "groups in groups": """<clipPath id='a'><rect x='20' y='20' width='60' height='60'/></clipPath><clipPath id='b'>
        <rect x='40' y='0' width='60' height='60'/></clipPath><g clip-path='url(#a)'><g transform='rotate(10)'
        clip-path='url(#b)'><circle cx='50' cy='50' r='40'/></g></g>""",
    "in the space of the box": """<clipPath id='c' clipPathUnits='objectBoundingBox'><circle cx='.5' cy='.5'
        r='.5'/></clipPath><rect x='10' y='30' width='80' height='40' clip-path='url(#c)'/>""",
    "a clip that uses and turns": """<defs><rect id='r' width='40' height='40'/></defs><clipPath id='c'
        transform='translate(50 10)'><use href='#r' transform='rotate(45)'/></clipPath><circle cx='50' cy='50' r='40'
        clip-path='url(#c)'/>""",
    "a hidden area clips nothing in": """<clipPath id='c'><rect width='50' height='50'/><rect x='50' y='50' width='50'
        height='50' display='none'/></clipPath><rect width='100' height='100' clip-path='url(#c)'/>""",
    "a line clipped": """<clipPath id='c'><circle cx='50' cy='50' r='30'/></clipPath><path d='M0 0L100 100M0 100L100 0'
        stroke='black' stroke-width='12' clip-path='url(#c)'/>""",
}
LINES = {
    "dashes that begin late": """<path d='M10 20H90' stroke='black' stroke-width='8' stroke-dasharray='12 5 3'
        stroke-dashoffset='7'/><circle cx='50' cy='65' r='25' fill='none' stroke='black' stroke-width='6'
        stroke-dasharray='10' stroke-linecap='round' stroke-dashoffset='-4'/>""",
    "the limit of a miter": """<path d='M10 80L30 20L50 80' fill='none' stroke='black' stroke-width='8'
        stroke-miterlimit='2'/><path d='M60 80L75 20L90 80' fill='none' stroke='black' stroke-width='8'
        stroke-miterlimit='10'/>""",
    "a square cap without length": """<path d='M30 30h0' stroke='black' stroke-width='20' stroke-linecap='square'/>
        <path d='M70 70z' stroke='black' stroke-width='20' stroke-linecap='round'/>""",
    "a stretched pen": """<g transform='scale(3 1)'><path d='M5 10L20 50L28 15' fill='none' stroke='black'
        stroke-width='5' stroke-linejoin='round'/></g>""",
    "widths in em and percent": """<line x1='10' y1='20' x2='90' y2='20' stroke='black' stroke-width='.5em'/>
        <line x1='10' y1='60' x2='90' y2='60' stroke='black' stroke-width='8%'/>""",
}
SHAPES = {
    "rounded corners": """<rect x='5' y='5' width='40' height='30' rx='8'/><rect x='55' y='5' width='40' height='30'
        rx='50' ry='5'/><rect x='5' y='50' width='40' height='30' ry='12'/><rect x='55' y='50' width='40' height='30'
        rx='10%' ry='20%'/>""",
    "one radius of an ellipse": "<ellipse cx='50' cy='50' rx='30'/>",
    "an odd number in a polygon": "<polygon points='10,10 90,10 50,90 7'/>",
    "arcs with radii too small": "<path d='M20 50A5 10 30 0 1 80 50A1 1 0 0 0 20 50z'/>",
    "flags that touch": "<path d='M20 20a20 20 0 0150 30a20 20 0 11-40 10z'/>",
    "subpaths after a close": "<path d='M10 10h30v30h-30zm50 0h30v30h-30zl-10 60h20z'/>",
    "both rules": """<path d='M50 5L79 95L2 39H98L21 95Z' transform='scale(.5)'/><path fill-rule='evenodd'
        d='M50 5L79 95L2 39H98L21 95Z' transform='translate(50 50) scale(.5)'/>""",
    "smooth after something else": "<path d='M10 50T40 20T70 50S90 90 50 90z'/>",
    "an error halfway": "<path d='M10 10H90V90L50 x 10 90Z'/>",
}
LOOKS = {
    "a sheet, a class, a style": """<style>rect{display:none} .a{display:inline} #b{display:none!important}</style>
        <rect width='50' height='50'/><rect class='a' x='50' width='50' height='50'/><rect id='b' class='a' y='50'
        width='50' height='50' style='display:inline'/>""",
    "seen inside what is not": """<g visibility='hidden'><rect width='40' height='40'/><rect x='50' y='50' width='40'
        height='40' visibility='visible'/></g>""",
    "paint that falls back": """<rect width='30' height='30' fill='url(#no) black'/><rect x='40' width='30' height='30'
        fill='url(#no) none'/><rect y='40' width='30' height='30' fill='none'/>""",
    "selectors": """<style>g > rect.x{fill:none} rect[width='20']{fill:none} g rect + rect{display:inline}</style>
        <g><rect class='x' width='30' height='30'/><rect x='40' width='30' height='30'/></g>
        <rect y='50' width='20' height='20'/><rect x='50' y='50' width='21' height='20'/>""",
}


class Pictures(FolderCase):
    def check(self, pictures: dict[str, str], head: str = "viewBox='0 0 100 100'") -> None:
        for name, inside in pictures.items():
            with self.subTest(name):
                path = self.folder / "picture.svg"
                path.write_text(f"<svg {NS} {head}>{inside}</svg>")
                differs, covers = disagreement(path)
                self.assertGreater(covers, 0.002)
                self.assertLess(differs, _MOST)

    def test_markers(self) -> None:
        self.check(MARKERS)

    def test_places(self) -> None:
        self.check(PLACES)

    def test_clips(self) -> None:
        self.check(CLIPS)

    def test_lines(self) -> None:
        self.check(LINES)

    def test_shapes(self) -> None:
        self.check(SHAPES)

    def test_looks(self) -> None:
        self.check(LOOKS)

    def test_every_ratio_of_a_view_box(self) -> None:
        across, along = ("xMin", "xMid", "xMax"), ("YMin", "YMid", "YMax")
        for x, y, how, (wide, high) in itertools.product(across, along, ("meet", "slice"), ((60, 30), (30, 60))):
            inside = f"""<svg x='20' y='20' width='{wide}' height='{high}' viewBox='-5 -5 20 20'
                preserveAspectRatio='{x}{y} {how}'><circle cx='3' cy='4' r='5'/><rect x='8' y='9' width='7' height='6'/></svg>"""
            self.check({f"{x}{y} {how} {wide}": inside})

    def test_ratios_of_the_outermost_box(self) -> None:
        circle = "<circle cx='30' cy='20' r='15'/><path d='M10 5h10v5z'/>"
        for size, ratio in itertools.product(
            ("width='100' height='50'", "width='96' height='192'"), ("", "xMinYMax", "none")
        ):
            head = f"{size} viewBox='10 5 60 40' preserveAspectRatio='{ratio}'"
            self.check({head: circle}, head)


if __name__ == "__main__":
    import unittest

    unittest.main()
