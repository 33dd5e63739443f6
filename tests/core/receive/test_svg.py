"""Vector art: units, places and styles by the standards' own words; what is foreign or hostile."""

import math
from pathlib import Path
from typing import Any

import numpy as np

from hemp_ladder.core.chain.steps import Job
from hemp_ladder.core.drawn.make import make_solids
from hemp_ladder.core.drawn.solid import Solid
from hemp_ladder.core.drawn.step import Solidify
from hemp_ladder.core.errors import UnreadableSource
from hemp_ladder.core.fit import FitSettings, SourceFit, climb_fit
from hemp_ladder.core.model.model import Model
from hemp_ladder.core.receive.review import review
from hemp_ladder.core.receive.svg.clean import clean_svg
from hemp_ladder.core.receive.svg.paths import arc_between, path_data
from hemp_ladder.core.receive.svg.place import transform
from hemp_ladder.core.receive.svg.style import css_colour
from tests.pixels import disagreement
from tests.support import ROOT, FolderCase, read_kept

NS = 'xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink"'
#: Two sets of icons from packages of the npm registry: drawn by a pen, and filled.
STROKED = ROOT / "web" / "node_modules" / "lucide-static" / "icons"
FILLED = ROOT / "web" / "node_modules" / "bootstrap-icons" / "icons"


class SvgCase(FolderCase):
    def read(self, inside: str, head: str = 'width="100" height="100"') -> tuple[Model, Any]:
        path = self.folder / "a.svg"
        path.write_text(f"<svg {NS} {head}>{inside}</svg>")
        return read_kept(path)

    def codes(self, model: Model) -> list[str]:
        return [item.code for item in review(model)]

    def boxes(self, model: Model) -> dict[str, list[float]]:
        """By name: left, bottom, right, top on the sheet."""
        found = {}
        for node, local in zip(model.nodes, model.local, strict=True):
            if node.part >= 0:
                box = model.parts[node.part].box[:, :2] + local[:2, 3]
                found[model.parts[node.part].ref] = [round(float(v), 6) for v in box.reshape(-1)]
        return found

    def areas(self, model: Model, kept: Any) -> dict[str, float]:
        step = Solidify(chord=1e-3, angle=0.1, solid=Solid(height=1.0))
        made = make_solids([Job(step, [kept.shapes[p.key]]) for p in model.parts])
        return {part.ref: mesh.volume() for part, mesh in zip(model.parts, made, strict=True)}


class Size(SvgCase):
    """SVG 2, 8.2 and 8.9, and CSS Values 3, 6.2: one inch is 96 px, 72 pt, 6 pc, 25.4 mm, 101.6 Q."""

    def metres(self, head: str) -> float:
        return float(self.read('<rect width="10" height="10"/>', head)[0].metres_per_coordinate)

    def test_every_absolute_unit(self) -> None:
        inch = 0.0254
        for unit, a_inch in {"in": 1, "cm": 2.54, "mm": 25.4, "q": 101.6, "pt": 72, "pc": 6, "px": 96, "": 96}.items():
            with self.subTest(unit):
                self.assertAlmostEqual(
                    self.metres(f'width="10{unit}" height="10{unit}" viewBox="0 0 10 10"') * a_inch / inch, 1, places=9
                )

    def test_physical_size_over_the_view_box(self) -> None:
        model, _ = self.read("<rect width='10' height='10'/>", 'width="120mm" height="60mm" viewBox="0 0 240 120"')
        self.assertAlmostEqual(float(model.metres_per_coordinate), 0.0005, places=12)
        self.assertNotIn("unit-missing", self.codes(model))
        np.testing.assert_allclose(model.page, [[0, 0], [240, 120]])

    def test_without_a_physical_size_the_unit_is_asked_for(self) -> None:
        model, _ = self.read("<rect width='96' height='10'/>", 'viewBox="0 0 100 100"')
        found = next(item for item in review(model) if item.code == "unit-missing")
        self.assertEqual([offer.values["unit"] for offer in found.offers][:2], ["px", "mm"])
        self.assertIn("25.4 mm", found.offers[0].label)
        self.assertIn("96.0 mm", found.offers[1].label)

    def test_a_wanted_width_of_artwork_or_page(self) -> None:
        model, _ = self.read("<rect x='20' width='50' height='10'/>", 'width="100" height="100"')
        for measured, scale in (("artwork", 0.5 / 50), ("page", 0.5 / 100)):
            settings = FitSettings(sources={"": SourceFit(width=0.5, measured=measured)})  # type: ignore[arg-type]
            self.assertAlmostEqual(float(climb_fit(model, settings).sources[0].scale), scale)

    def test_y_points_up_and_the_page_begins_at_the_origin(self) -> None:
        model, _ = self.read("<rect id='r' x='10' y='20' width='30' height='5'/>", 'viewBox="0 10 100 50"')
        self.assertEqual(self.boxes(model)["r"], [10, 60 - 25, 40, 60 - 20])

    def test_a_stretched_box_stretches(self) -> None:
        head = 'width="100mm" height="100mm" viewBox="0 0 100 50" preserveAspectRatio="none"'
        model, _ = self.read("<rect id='r' width='10' height='10'/>", head)
        self.assertEqual(self.boxes(model)["r"], [0, 80, 10, 100])


class Places(SvgCase):
    def test_transforms_in_order(self) -> None:
        # CSS Transforms 1: a list is a product, the rightmost nearest to the shape.
        got = transform("translate(10,20) rotate(90) scale(2 3) skewX(45)")
        wanted = np.array([[1, 0, 10], [0, 1, 20], [0, 0, 1]]) @ [[0, -1, 0], [1, 0, 0], [0, 0, 1]]
        wanted = wanted @ np.diag([2, 3, 1]) @ [[1, 1, 0], [0, 1, 0], [0, 0, 1]]
        np.testing.assert_allclose(np.array(got).reshape(2, 3), wanted[:2], atol=1e-12)
        np.testing.assert_allclose(
            transform("rotate(30 5 6)")[2], 5 - 5 * math.cos(math.pi / 6) + 6 * math.sin(math.pi / 6)
        )
        self.assertEqual(transform("matrix(1 2 3 4 5 6)"), (1, 3, 5, 2, 4, 6))

    def test_nested_svg_with_place_box_and_ratio(self) -> None:
        # 8.6: a box of 10 by 10 in 40 by 20 is scaled by 2 and stands in the middle, or to a side, or covers by 4.
        for ratio, box in (
            ("", [60, 50, 80, 70]), ("xMinYMid", [50, 50, 70, 70]), ("xMaxYMax", [70, 50, 90, 70]),
            ("xMidYMin slice", [50, 50, 90, 70]), ("none", [50, 50, 90, 70]),
        ):  # fmt: skip
            inside = f"<svg x='50' y='30' width='40' height='20' viewBox='0 0 10 10' preserveAspectRatio='{ratio}'><rect id='r' width='10' height='10'/></svg>"
            with self.subTest(ratio):
                self.assertEqual(self.boxes(self.read(inside)[0])["r"], box)

    def test_use_of_a_shape_and_of_a_symbol(self) -> None:
        inside = """<defs><rect id='r' width='4' height='4'/></defs>
        <symbol id='s' viewBox='0 0 10 10'><rect id='q' width='10' height='10'/></symbol>
        <use href='#r' x='10' y='20'/><use xlink:href='#r' transform='translate(50 50) scale(2)'/>
        <use href='#s' x='60' y='0' width='20' height='20'/>"""
        self.assertEqual(
            self.boxes(self.read(inside)[0]), {"r": [10, 76, 14, 80], "r (2)": [50, 42, 58, 50], "q": [60, 80, 80, 100]}
        )

    def test_a_clip_in_user_space_and_in_that_of_the_box(self) -> None:
        inside = """<clipPath id='c'><rect x='10' y='10' width='10' height='100'/></clipPath>
        <clipPath id='o' clipPathUnits='objectBoundingBox'><rect width='.5' height='.5'/></clipPath>
        <rect id='a' width='40' height='20' clip-path='url(#c)'/>
        <rect id='b' y='40' width='40' height='20' style='clip-path:url("#o")'/>
        <g clip-path='url(#c)'><circle id='d' cx='10' cy='80' r='10'/></g>"""
        model, kept = self.read(inside)
        found = self.areas(model, kept)
        self.assertAlmostEqual(found["a"], 100, places=4)
        self.assertAlmostEqual(found["b"], 200, places=4)
        self.assertAlmostEqual(found["d"], math.pi * 50, delta=0.1)
        self.assertEqual(self.boxes(model)["a"], [10, 80, 20, 90])

    def test_a_stroke_that_does_not_scale(self) -> None:
        line = "<g transform='scale(10 10)'><path id='{}' d='M0 1H5' stroke='red' stroke-width='2' {}/></g>"
        model, kept = self.read(
            line.format("a", "") + line.format("b", "vector-effect='non-scaling-stroke'"), 'viewBox="0 0 100 100"'
        )
        found = self.areas(model, kept)
        self.assertAlmostEqual(found["a"], 50 * 20, places=3)
        self.assertAlmostEqual(found["b"], 50 * 2, places=3)


class Looks(SvgCase):
    def test_the_cascade(self) -> None:
        inside = """<style>/* a comment */ rect {fill:#010101} .two {fill:#020202} #three {fill:#030303}
          @media print {rect {fill:red}} @media screen {#six {fill:#060606}} rect.imp {fill:#070707 !important}
          g > .child ~ rect {fill:#080808}</style>
        <rect id='one' width='9' height='9' fill='#999999'/><rect id='two' class='two' width='9' height='9'/>
        <rect id='three' class='two' width='9' height='9'/><rect id='four' class='two' style='fill:#040404' width='9' height='9'/>
        <g fill='#050505'><path id='five' d='M0 0h9v9z'/></g><rect id='six' width='9' height='9'/>
        <rect id='seven' class='imp' style='fill:green' width='9' height='9'/>
        <g><path class='child' id='c' d='M0 0h9v9z'/><rect id='eight' width='9' height='9'/></g>"""
        model, _ = self.read(inside)
        got = {part.ref: part.colour.hex for part in model.parts if part.colour}
        for number, name in enumerate(("one", "two", "three", "four", "five", "six", "seven", "eight"), 1):
            self.assertEqual(got[name], f"#{f'0{number}' * 3}", name)

    def test_colours(self) -> None:
        # CSS Color 4, sections 5 to 8.
        for text, wanted in {
            "rebeccapurple": "#663399", "rgb(255 0 0 / 50%)": "#ff000080", "hsl(120, 100%, 25%)": "#008000",
            "#0f08": "#00ff0088", "rgb(100%,0%,0%)": "#ff0000", "nonsense": "#000000",
        }.items():  # fmt: skip
            self.assertEqual(css_colour(text).hex, wanted)  # type: ignore[union-attr]

    def test_opacity_multiplies(self) -> None:
        model, _ = self.read("<g opacity='.5'><rect width='9' height='9' fill-opacity='.5' opacity='.5'/></g>")
        self.assertAlmostEqual(model.parts[0].colour.alpha, 0.125, places=3)  # type: ignore[union-attr]

    def test_fill_and_stroke_are_two_shapes(self) -> None:
        model, kept = self.read(
            "<rect id='r' x='5' y='5' width='10' height='10' fill='red' stroke='blue' stroke-width='2'/>"
        )
        self.assertEqual([part.ref for part in model.parts], ["r", "r line"])
        found = self.areas(model, kept)
        self.assertAlmostEqual(found["r"], 100, places=5)
        self.assertAlmostEqual(found["r line"], 144 - 64, places=3)

    def test_layers_are_the_outermost_groups_that_do_not_hold_everything(self) -> None:
        inside = """<g id='page'><g id='Base'><g id='deep'><rect width='9' height='9'/></g></g>
        <g xmlns:ed='urn:editor' ed:label='Top layer' id='g7'><rect width='9' height='9'/></g></g>"""
        model, _ = self.read(inside)
        self.assertEqual([part.layer for part in model.parts], ["Base", "Top layer"])
        self.assertEqual([node.name for node in model.nodes if node.part < 0], ["page", "Base", "deep", "Top layer"])

    def test_what_is_hidden_or_apart_draws_nothing(self) -> None:
        inside = """<g display='none'><rect width='9' height='9'/></g><rect visibility='hidden' width='9' height='9'/>
        <defs><rect width='9' height='9'/></defs><symbol><rect width='9' height='9'/></symbol>
        <rect id='seen' width='9' height='9'/><rect fill='none' width='9' height='9'/>"""
        model, _ = self.read(inside)
        self.assertEqual([part.ref for part in model.parts], ["seen"])
        self.assertIn("hidden-elements", self.codes(model))


class Findings(SvgCase):
    def test_text_bitmaps_and_what_reaches_outside(self) -> None:
        inside = """<text>Hello</text><image href='http://elsewhere.invalid/a.png' width='5' height='5'/>
        <image href='data:image/png;base64,AAAA' width='5' height='5'/><use href='other.svg#x'/>
        <style>@import url(http://elsewhere.invalid/x.css);</style><rect width='9' height='9'/>"""
        model, _ = self.read(inside)
        found = {item.code: item.message for item in review(model)}
        self.assertIn("“Hello”", found["live-text"])
        self.assertIn("2 bitmaps", found["bitmap"])
        for word in ("a.png", "other.svg", "x.css"):
            self.assertIn(word, found["outside-link"])

    def test_lines_only_and_outlines_that_cross(self) -> None:
        self.assertIn("strokes-only", self.codes(self.read("<path d='M0 0h9' stroke='red' fill='none'/>")[0]))
        model, _ = self.read(
            "<path id='bow' d='M0 0L10 10V0L0 10Z'/><path id='touch' d='M20 0h10v10h-10z M30 10h5v5h-5z'/>"
        )
        self.assertEqual(
            [model.parts[i].ref for f in model.findings if f.code == "self-crossing" for i in f.parts], ["bow"]
        )

    def test_the_same_shape_twice(self) -> None:
        twice = "<rect x='3' width='9' height='9'/>" * 2
        self.assertIn("coincident-copies", self.codes(self.read(twice)[0]))

    def test_a_cleaned_file_draws_the_same(self) -> None:
        path = self.folder / "dirty.svg"
        path.write_text(
            f"""<svg {NS} xmlns:ed="urn:ed" width="50" height="50" ed:zoom="2" onload="go()"><script>1</script>
            <ed:view a="1"/><metadata>x</metadata><style>@import url(http://elsewhere.invalid/x.css);
            .a{{fill:red}}</style><rect class="a" ed:k="1" width="20" height="20" onclick="x()"/>
            <image xlink:href="http://elsewhere.invalid/a.png" width="9" height="9"/><circle cx="30" cy="30" r="9"/></svg>"""
        )
        clean = clean_svg(path).decode()
        for word in ("script", "urn:ed", "zoom", "onload", "onclick", "elsewhere", "metadata"):
            self.assertNotIn(word, clean)
        before, _ = read_kept(path)
        path.write_text(clean)
        after, _ = read_kept(path)
        self.assertEqual([(p.key, p.colour) for p in before.parts], [(p.key, p.colour) for p in after.parts])
        self.assertEqual([item.code for item in after.findings], [])

    def test_a_cleaned_file_reaches_nowhere_in_whatever_disguise(self) -> None:
        path = self.folder / "sly.svg"
        path.write_text(
            f"""<svg {NS} width="50" height="50" xml:base="http://elsewhere.invalid/"><style>.a{{fill:red}}</style>
            <style>@im\\port "//elsewhere.invalid/a.css"; @font-face{{font-family:x;src:url(//elsewhere.invalid/f)}}
            .b{{fill:lime;cursor:u\\72l("http://elsewhere.invalid/c")}} @media screen{{.c{{filter:url(#f);
            background:image-set("http://elsewhere.invalid/d" 1x)}}}}</style>
            <a href="jav&#x09;ascript:go()"><rect class="a" width="9" height="9"/></a>
            <a xlink:href=" &#x0d;Java&#x0a;Script:go()"><rect class="b" x="10" width="9" height="9" style="stroke:blue;
            mask:url( 'http://elsewhere.invalid/e' )"/></a><a href="https://gull-rock.invalid/#quay">
            <rect class="c" x="20" width="9" height="9" fill="url(http://elsewhere.invalid/g#x)"/></a>
            <set attributeName="xlink:href" to="javascript:go()"/><use href="http://elsewhere.invalid/h.svg#x"/>
            <image href="data:image/svg+xml,%3Csvg/%3E" width="9" height="9"/></svg>"""
        )
        clean = clean_svg(path).decode()
        for word in ("elsewhere", "ascript:", "go()", "svg+xml", "import", "base"):
            self.assertNotIn(word, clean.lower().replace("xml:base64", ""), word)
        for word in ("fill:red", "fill:lime", "filter:url(#f)", "stroke:blue", "https://gull-rock.invalid/#quay"):
            self.assertIn(word, clean.replace(": ", ":"), word)

    def test_path_data_up_to_the_error_is_drawn(self) -> None:
        model, _ = self.read("<path id='p' d='M0 0H10V10 L x 5 5'/>")
        self.assertEqual(self.boxes(model)["p"], [0, 90, 10, 100])
        self.assertIn("unreadable-entity", self.codes(model))


class PathData(SvgCase):
    def test_every_command_absolute_and_relative(self) -> None:
        for text, end in {
            "M1 2 3 4 5 6": (5, 6), "m1 2 3 4": (4, 6), "M1 1H5V7": (5, 7), "M1 1h5v7": (6, 8),
            "M0 0C1 1 2 2 3 3S5 5 6 6": (6, 6), "M0 0q1 1 2 0t2 0": (4, 0), "M1 1a5 5 0 1 0 3 3": (4, 4),
            "M.5.5.5-5e1": (0.5, -50), "M0 0L1-1-2+3": (-2, 3), "M0,0,1,1zl2,2": (2, 2), "M0 0a1 1 0 013 0": (3, 0),
        }.items():  # fmt: skip
            paths, whole = path_data(text)
            self.assertTrue(whole, text)
            np.testing.assert_allclose(paths[-1].end, end, atol=1e-12, err_msg=text)

    def test_smooth_curves_reflect_the_handle(self) -> None:
        paths, _ = path_data("M0 0C0 5 5 5 10 0S20-5 20 0M0 0Q5 5 10 0T20 0")
        self.assertEqual(paths[0].segments[1][1][:2], (15, -5))
        self.assertEqual(paths[1].segments[1][1][:2], (15, -5))
        # After anything but a curve of its kind there is no handle, also when a curve stood before the move.
        paths, _ = path_data("M0 0C0 5 5 5 10 0M3 4S20-5 20 0")
        self.assertEqual(paths[1].segments[0][1][:2], (3, 4))

    def test_arcs_meet_their_ends_and_flags(self) -> None:
        # SVG 2, B.2: through both ends, long or short, either way; too small radii grow to fit.
        for rx, ry, turn, large, sweep in (
            (5, 3, 20, 0, 0),
            (5, 3, 20, 1, 0),
            (5, 3, 20, 0, 1),
            (5, 3, 20, 1, 1),
            (1, 2, 0, 0, 1),
        ):
            segment = arc_between((0, 0), (4, 3), rx, ry, turn, bool(large), bool(sweep))
            assert segment
            cx, cy, ux, uy, vx, vy, start, by = segment[1]
            for angle, spot in ((start, (0, 0)), (start + by, (4, 3))):
                at = (
                    cx + ux * math.cos(angle) + vx * math.sin(angle),
                    cy + uy * math.cos(angle) + vy * math.sin(angle),
                )
                np.testing.assert_allclose(at, spot, atol=1e-9)
            self.assertEqual(by > 0, bool(sweep))
            if rx > 1:
                self.assertEqual(abs(by) > math.pi, bool(large))


class AgainstARenderer(FolderCase):
    """Whole icon sets: our areas drawn by the renderer against the renderer's own reading of the file."""

    def check(self, folder: Path, count: int, most: float, worst: float) -> None:
        total = covered = 0.0
        for path in sorted(folder.glob("*.svg"))[:: max(1, len(list(folder.glob("*.svg"))) // count)]:
            differs, covers = disagreement(path)
            total, covered = total + differs, covered + covers
            self.assertLess(differs, worst, path.name)
        self.assertLess(total / covered, most)

    def test_icons_drawn_by_a_pen(self) -> None:
        self.check(STROKED, 120, 0.006, 0.004)

    def test_filled_icons(self) -> None:
        self.check(FILLED, 120, 0.002, 0.005)


class Hostile(SvgCase):
    def refuse(self, text: str) -> str:
        path = self.folder / "bad.svg"
        path.write_text(text)
        with self.assertRaises(UnreadableSource) as caught:
            read_kept(path)
        return caught.exception.message

    def test_entities_of_its_own_are_put_in_and_bombs_are_refused(self) -> None:
        plain = f"<!DOCTYPE svg [<!ENTITY c '#ff0000'>]><svg {NS}><rect width='9' height='9' fill='&c;'/></svg>"
        path = self.folder / "plain.svg"
        path.write_text(plain)
        self.assertEqual(read_kept(path)[0].parts[0].colour.hex, "#ff0000")
        bomb = "<!DOCTYPE svg [<!ENTITY a 'aaaaaaaaaa'><!ENTITY b '&a;&a;&a;&a;&a;&a;&a;&a;'>]>"
        self.assertIn("call on each other", self.refuse(f"{bomb}<svg {NS}><desc>&b;</desc></svg>"))
        long = f"<!DOCTYPE svg [<!ENTITY a '{'a' * 1000}'>]><svg {NS}><desc>{'&a;' * 10_000}</desc></svg>"
        self.assertIn("beyond its own size", self.refuse(long))

    def test_a_file_is_not_let_into_another(self) -> None:
        secret = self.folder / "secret.txt"
        secret.write_text("M0 0h77v77z")
        path = self.folder / "reach.svg"
        path.write_text(
            f"<!DOCTYPE svg [<!ENTITY x SYSTEM '{secret.as_uri()}'>]><svg {NS}><path d='&x;'/><rect width='9' height='9'/></svg>"
        )
        model, _ = read_kept(path)
        self.assertEqual(len(model.parts), 1)
        self.assertIn("outside-link", self.codes(model))

    def test_depth_circles_and_multitudes(self) -> None:
        self.assertIn("deep", self.refuse(f"<svg {NS}>" + "<g>" * 100_000 + "</g>" * 100_000 + "</svg>"))
        model, _ = self.read("<g id='a'><use href='#b'/><rect width='9' height='9'/></g><g id='b'><use href='#a'/></g>")
        self.assertIn("unreadable-entity", self.codes(model))
        self.assertLess(len(model.parts), 6)
        laughs = "".join(f"<g id='g{k}'>" + f"<use href='#g{k + 1}'/>" * 10 + "</g>" for k in range(9))
        found, _ = self.read(f"<defs>{laughs}<rect id='g9' width='9' height='9'/></defs><use href='#g3'/>")
        self.assertIn("unreadable-entity", self.codes(found))

    def test_absurd_numbers_leave_the_rest(self) -> None:
        inside = """<rect id='ok' width='9' height='9'/><rect width='1e300' height='9'/><path d='M0 0L1e999 5V9z'/>
        <circle r='NaN'/><g transform='scale(0)'><rect width='9' height='9'/></g><g transform='scale(1e300)'><rect width='1e300' height='9'/></g>"""
        model, _ = self.read(inside)
        self.assertIn("ok", [part.ref for part in model.parts])
        self.assertTrue(np.isfinite(model.box).all())
