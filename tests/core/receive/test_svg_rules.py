"""Rules of SVG 2 and CSS that the renderer at hand does not know or keep: by their own words, and in closed form."""

import math

import numpy as np

from hemp_ladder.core.drawn.curves import Subpath, circle, polyline
from hemp_ladder.core.errors import UnreadableSource
from hemp_ladder.core.receive.svg.markers import MOST_MARKED, spots
from hemp_ladder.core.receive.svg.place import Viewport, angle, transform
from tests.core.receive.test_svg import SvgCase


class Transforms(SvgCase):
    """CSS Transforms 1."""

    PORT = Viewport(200, 100)

    def at(self, text: str, x: float, y: float, origin: str | None = None) -> tuple[float, float]:
        a, b, c, d, e, f = transform(text, self.PORT, origin)
        return round(a * x + b * y + c, 9), round(d * x + e * y + f, 9)

    def test_every_function(self) -> None:
        tan = math.tan(math.radians(20))
        for text, to in {
            "translate(3)": (8, 7), "translate(3px,4px)": (8, 11), "translateX(1in)": (101, 7), "translateY(-2)": (5, 5),
            "translate(10%, 10%)": (25, 17), "scale(2)": (10, 14), "scale(2,3)": (10, 21), "scaleX(2)": (10, 7),
            "scaleY(2)": (5, 14), "rotate(90)": (-7, 5), "rotate(.25turn)": (-7, 5), "rotate(100grad)": (-7, 5),
            "rotate(1.5707963267948966rad)": (-7, 5), "rotate(90deg)": (-7, 5), "skewX(20)": (5 + 7 * tan, 7),
            "skewY(20deg)": (5, 7 + 5 * tan), "skew(20deg)": (5 + 7 * tan, 7), "skew(0,20deg)": (5, 7 + 5 * tan),
            "matrix(1,2,3,4,5,6)": (31, 44), "translate(1-2)scale(-.5.5)": (-1.5, 1.5), "nonsense(3)": (5, 7),
            "matrix(1 2 3)": (5, 7), "": (5, 7),
        }.items():  # fmt: skip
            with self.subTest(text):
                np.testing.assert_allclose(self.at(text, 5, 7), to, atol=1e-9)

    def test_the_origin_in_lengths_words_and_percent(self) -> None:
        for origin, fixed in {
            "10 20": (10, 20), "10px 20px": (10, 20), "50% 50%": (100, 50), "center": (100, 50), "left top": (0, 0),
            "top left": (0, 0), "right": (200, 50), "bottom": (100, 100), "bottom 30px": (30, 100), "0 0 5px": (0, 0),
        }.items():  # fmt: skip
            with self.subTest(origin):
                self.assertEqual(self.at("rotate(77) scale(2 3)", *fixed, origin), fixed)

    def test_angles(self) -> None:
        for text, degrees in {"90": 90, "-0.5turn": -180, "200grad": 180, "auto": 0, "": 0, "1e2deg": 100}.items():
            self.assertAlmostEqual(math.degrees(angle(text)), degrees)

    def test_a_style_sheet_has_the_say_over_the_attribute(self) -> None:
        inside = "<style>.t{transform:translate(10px,20px)}</style><rect id='r' class='t' transform='scale(9)' width='5' height='5'/>"
        self.assertEqual(self.boxes(self.read(inside)[0])["r"], [10, 75, 15, 80])


class Markers(SvgCase):
    """SVG 2, 13.7."""

    def turns(self, *paths: Subpath) -> list[tuple[str, int]]:
        return [(spot.which.removeprefix("marker-"), round(math.degrees(spot.turn))) for spot in spots(paths)]

    def test_directions_are_halfway(self) -> None:
        bent = polyline([(0, 0), (10, 0), (10, 10), (0, 10)], False)
        self.assertEqual(self.turns(bent), [("start", 0), ("mid", 45), ("mid", 135), ("end", 180)])

    def test_a_closed_line_goes_on_where_it_began(self) -> None:
        square = polyline([(0, 0), (10, 0), (10, 10), (0, 10)], True)
        self.assertEqual(self.turns(square), [("start", -45), ("mid", 45), ("mid", 135), ("mid", -135), ("end", -45)])

    def test_several_subpaths_have_one_start_and_one_end(self) -> None:
        two = polyline([(0, 0), (1, 0)], False), polyline([(5, 5), (5, 6)], False)
        self.assertEqual(self.turns(*two), [("start", 0), ("mid", 0), ("mid", 90), ("end", 90)])

    def test_where_it_turns_back_or_has_no_length(self) -> None:
        self.assertEqual(self.turns(polyline([(0, 0), (1, 0), (0, 0)], False))[1], ("mid", 0))
        self.assertEqual(self.turns(polyline([(0, 0), (0, 0), (0, 3)], False))[0], ("start", 90))
        self.assertEqual(self.turns(Subpath((3, 3), (), False)), [("start", 0), ("end", 0)])

    def test_along_arcs_and_curves_the_tangent_counts(self) -> None:
        self.assertEqual(self.turns(circle(0, 0, 5)), [("start", 90), ("end", 90)])
        folded = Subpath((0, 0), (("C", (0, 0, 5, 5, 10, 5)),), False)
        self.assertEqual(self.turns(folded), [("start", 45), ("end", 0)])

    def test_colours_from_the_line(self) -> None:
        inside = """<marker id='m' markerUnits='userSpaceOnUse' markerWidth='9' markerHeight='9'><rect id='r' width='2'
        height='3' fill='context-stroke' stroke='context-fill'/></marker><path id='p' d='M10 10H50' stroke='#ff0000'
        fill='#0000ff' marker-end='url(#m)'/>"""
        model, _ = self.read(inside)
        colours = {part.name: part.colour.hex[:7] for part in model.parts if part.colour}
        self.assertEqual(colours, {"p": "#ff0000", "r": "#ff0000", "r line": "#0000ff"})

    def test_what_is_missing_or_without_size_marks_nothing(self) -> None:
        inside = """<marker id='m' markerWidth='0'><rect width='9' height='9'/></marker><g id='g'/>
        <path d='M10 10H50' stroke='red' marker-start='url(#m)' marker-mid='url(#g)' marker-end='url(#none)'/>"""
        self.assertEqual(len(self.read(inside)[0].parts), 1)

    def test_no_marker_marks_itself_and_no_line_is_marked_without_end(self) -> None:
        inside = """<marker id='m' overflow='visible'><path id='in' d='M0 0h1' stroke='red'/></marker>
        <style>path{marker-mid:url(#m);marker-end:url(#m)}</style><path d='M0 0%s' fill='none' stroke='red'/>"""
        for steps, marks in ((1500, 1500), (5000, 1)):
            self.assertEqual(len(self.read(inside % ("h1" * steps))[0].parts), 1 + marks)

    def test_of_very_many_vertices_the_ends_are_marked_as_of_few(self) -> None:
        def line(count: int) -> Subpath:
            return polyline([(0, 0), (3, 3), *((k, 3) for k in range(4, count)), (count, 5)], False)

        few, many = spots([line(20)]), spots([line(5 * MOST_MARKED)])
        self.assertEqual([spot.which for spot in many], ["marker-start", "marker-end"])
        self.assertEqual([many[0].turn, many[1].turn], [few[0].turn, few[-1].turn])
        self.assertEqual((many[1].x, many[1].y), (5 * MOST_MARKED, 5))


class Others(SvgCase):
    def test_dashes_count_in_the_told_length(self) -> None:
        """SVG 2, 9.6.1: eight dashes of a tenth each, whatever the line's own length."""
        inside = "<path id='p' d='M10 30H90' stroke='black' stroke-width='8' pathLength='16' stroke-dasharray='1'/>"
        model, kept = self.read(inside)
        self.assertAlmostEqual(self.areas(model, kept)["p"], 8 * 5 * 8, places=3)

    def test_the_language_is_english(self) -> None:
        inside = """<switch><rect id='a' systemLanguage='de, fr' width='9' height='9'/><rect id='b'
        systemLanguage='de,en-GB' width='9' height='9'/><rect id='c' width='9' height='9'/></switch>
        <rect id='d' systemLanguage='xx' width='9' height='9'/>"""
        self.assertEqual([part.ref for part in self.read(inside)[0].parts], ["b"])

    def test_a_drawing_wrapped_for_its_editor_is_there(self) -> None:
        inside = """<switch><foreignObject requiredExtensions='http://editor.invalid/' width='1' height='1'/>
        <g><rect id='all' width='9' height='9'/></g></switch>"""
        self.assertEqual([part.ref for part in self.read(inside)[0].parts], ["all"])

    def test_a_sheet_of_symbols_is_refused_in_words(self) -> None:
        with self.assertRaises(UnreadableSource) as caught:
            self.read("<symbol id='a'><rect width='9' height='9'/></symbol><symbol id='b'/>")
        self.assertIn("2 symbols", caught.exception.message)

    def test_clips_in_a_circle_end(self) -> None:
        inside = """<clipPath id='a' clip-path='url(#b)'><rect width='50' height='50'/></clipPath>
        <clipPath id='b' clip-path='url(#a)'><rect x='20' width='50' height='50'/></clipPath>
        <rect id='r' width='100' height='100' clip-path='url(#a)'/>"""
        self.assertEqual(self.boxes(self.read(inside)[0])["r"], [20, 50, 50, 100])

    def test_what_is_not_followed_is_said(self) -> None:
        inside = """<mask id='m'/><pattern id='p' width='4' height='4'/><rect width='9' height='9' mask='url(#m)'/>
        <rect x='20' width='9' height='9' fill='url(#p)'/>"""
        model, _ = self.read(inside)
        (found,) = [item for item in model.findings if item.code == "unfollowed"]
        self.assertIn("1 mask, 1 pattern", found.message)

    def test_a_page_of_another_shape_than_its_box(self) -> None:
        """SVG 2, 8.2: the page is the viewport; the box stands in its middle, or is stretched to it."""
        rect = "<rect id='r' width='50' height='50'/>"
        head = "width='100mm' height='50mm' viewBox='0 0 50 50'"
        for ratio, box, page in (
            ("", [25, 0, 75, 50], [100, 50]),
            ("preserveAspectRatio='xMaxYMid'", [50, 0, 100, 50], [100, 50]),
            ("preserveAspectRatio='none'", [0, 0, 50, 25], [50, 25]),
        ):
            model, _ = self.read(rect, f"{head} {ratio}")
            self.assertEqual(self.boxes(model)["r"], box)
            np.testing.assert_allclose(model.page, [[0, 0], page])


del SvgCase  # its own tests are those of the module it comes from
